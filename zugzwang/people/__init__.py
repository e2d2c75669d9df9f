"""People: who is a member of a site, how one becomes it, one's own account, and the tokens of one's scripts."""
