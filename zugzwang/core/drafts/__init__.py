"""Drafts: what a text must hold that wants to stand among the pages above, and how far one's own holds it."""
