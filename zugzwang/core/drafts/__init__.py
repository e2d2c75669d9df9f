"""Drafts: what a text needs to rank among competing pages, and how much of it a draft has."""
