"""Reports: parts made of blocks, rendered as a PDF or a web page."""
