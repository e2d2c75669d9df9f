"""Simulated sites that violate the rules' assumptions, and the claims made on them: `make worlds` writes the table of
docs/methods.md.
"""
