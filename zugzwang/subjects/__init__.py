"""One thing whole: a row, a page, a query, a clash, the site – everything that is known of it, from several findings."""
