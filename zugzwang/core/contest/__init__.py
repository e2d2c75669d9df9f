"""Pages of one site that rank for the same queries."""
