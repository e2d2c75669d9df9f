"""Links between a site's own pages: who carries weight, who needs it, where it could come from, and what is wrong."""
