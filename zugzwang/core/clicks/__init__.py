"""Expected clicks of a row, whether it differs by more than chance, and what a better rank would bring."""
