"""What analysts decide about rows, pages and clashes, and its result."""
