"""Links between a site's own pages: which pages have authority, which need links, where links could come from, and broken
links.
"""
