"""The activity log: written in the transaction of each change, read by owners, changed by no one."""

from typing import Any, Literal

from django.contrib.auth.models import User

from zugzwang.data.models import AuditEntry, Site

What = Literal[
    "load", "take back", "rules", "decide", "take decision back", "settings", "connect", "disconnect", "crawl", "fetch",
    "invite", "revoke invitation", "join", "role", "remove member", "token", "revoke token", "link", "end link", "send report",
    "archive", "take up", "delete site", "put site back", "add site", "password", "mail address", "second factor", "sign in",
    "end sessions", "archive out", "archive in",
]  # fmt: skip


def note(user: User | None, site: Site | None, what: What, about: str = "", **details: Any) -> None:
    """Log a change by someone; `user` None: the operator, or the program itself."""
    AuditEntry.objects.create(
        site=site,
        slug=site.slug if site else "",
        user=user,
        who=user.get_username() if user else "operator",
        what=what,
        about=about[:500],
        details=details,
    )
