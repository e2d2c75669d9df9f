"""What is worth doing, and its result."""
