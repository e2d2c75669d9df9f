"""Saved views: named addresses, for everyone who sees the site."""

import re
from typing import Any

from zugzwang.access import Actor
from zugzwang.changing import changes_site
from zugzwang.data.models import SavedView, Site
from zugzwang.errors import Invalid, NotFound
from zugzwang.names import checked_name

VIEWS_MAX = 200
# A place of the application with its parameters; never an outside address.
_PLACES = "data|changes|pages|queries|query|clashes|on-page|links|topics|drafts|moves|reports"
ADDRESS = re.compile(rf"({_PLACES})(/[a-z0-9]+)?(\?[^#\s]*)?")


def of_site(site: Site) -> list[dict[str, Any]]:
    return [shown(one) for one in SavedView.objects.filter(site=site).select_related("user")]


@changes_site()
def save(actor: Actor, site: Site, name: str, address: str) -> dict[str, Any]:
    """Save a view; one with the same name is replaced. Raises Invalid with the problem."""
    name = checked_name(" ".join(name.split()), most=100)
    if not ADDRESS.fullmatch(address):
        raise Invalid("This is not an address of the application.", "Save a view from its place.", "address")
    known = SavedView.objects.filter(site=site)
    if known.count() >= VIEWS_MAX and not known.filter(name=name).exists():
        raise Invalid(f"There are {VIEWS_MAX} views already.", "Delete one that is no longer used.", "name")
    view, _ = SavedView.objects.update_or_create(site=site, name=name, defaults={"address": address, "user": actor.user})
    return shown(view)


@changes_site()
def remove(actor: Actor, site: Site, view_id: int) -> None:
    gone, _ = SavedView.objects.filter(site=site, id=view_id).delete()
    if not gone:
        raise NotFound("This view does not exist.", "Someone may have deleted it.")


def shown(view: SavedView) -> dict[str, Any]:
    by = view.user.get_username() if view.user else None
    return {"id": view.id, "name": view.name, "address": view.address, "by": by}
