"""People: who is a member of a site, how one becomes it, your own account, and the tokens of one's scripts."""
