"""Reports: parts as blocks, and how blocks become a typeset document or a page to read."""
