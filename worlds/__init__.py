"""Sites that the rules were not made for, and what the rules claim on them: `make worlds` writes docs/methods.md's table."""
