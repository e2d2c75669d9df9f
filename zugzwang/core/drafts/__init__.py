"""Drafts: what a text must hold that needs to are among the pages above, and how far one's own holds it."""
