"""What is kept: Django models for what a person touches, and monthly blocks of facts (blocks.py)."""
