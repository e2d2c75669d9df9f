"""What analysts decide about rows, pages and clashes, and what came of it."""
