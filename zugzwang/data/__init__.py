"""Storage: Django models for what people edit, and monthly blocks of facts (blocks.py)."""
