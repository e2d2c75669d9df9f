"""People: members of a site, invitations, your own account, and tokens for scripts."""
