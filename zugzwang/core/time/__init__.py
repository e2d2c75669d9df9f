"""What changed between two periods, and weeks in which a level broke."""
