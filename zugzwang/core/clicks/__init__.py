"""What clicks a row should have, whether it differs by more than chance, and what a better rank would bring."""
