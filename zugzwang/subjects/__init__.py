"""Everything about one subject – a row, a page, a query, a clash, the site – from several findings."""
