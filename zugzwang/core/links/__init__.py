"""Links between a site's own pages: who carries weight, who wants it, where it could come from, and what is wrong."""
