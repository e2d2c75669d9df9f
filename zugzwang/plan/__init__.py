"""People's decisions about rows, pages and clashes, and their results."""
