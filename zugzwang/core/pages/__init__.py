"""What a page says, where it is in the site, and what it earns."""
