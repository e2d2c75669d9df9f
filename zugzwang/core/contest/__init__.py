"""Pages of one site that are shown for the same queries."""
