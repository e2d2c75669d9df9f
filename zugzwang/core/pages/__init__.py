"""What a page says, where it stands in the site, and what it earns."""
