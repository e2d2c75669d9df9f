"""What is worth doing, and what came of it."""
