"""What a page says, where it is in the site, and how much it earns."""
