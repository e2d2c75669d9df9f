"""Saved views: an address under a name, for everybody who sees the site."""

import re
from typing import Any

from zugzwang.access import Actor
from zugzwang.data.models import SavedView, Site
from zugzwang.errors import Invalid, NotFound

VIEWS_MAX = 200
# A place of the application and its parameters; nothing that leads elsewhere.
_PLACES = "intake|standing|pages|queries|query|clashes|wording|links|topics|drafts|moves|reports"
ADDRESS = re.compile(rf"({_PLACES})(/[a-z0-9]+)?(\?[^#\s]*)?")


def of_site(site: Site) -> list[dict[str, Any]]:
    return [shown(one) for one in SavedView.objects.filter(site=site).select_related("user")]


def save(actor: Actor, slug: str, name: str, address: str) -> dict[str, Any]:
    """Keep a view; one of the same name is replaced. Invalid says what makes no sense."""
    site = actor.site_to_change(slug)
    name = " ".join(name.split())
    if not name:
        raise Invalid("A view needs a name.", "Write one.", "name")
    if not ADDRESS.fullmatch(address):
        raise Invalid("This is no address of the application.", "Save a view from the place that it shows.", "address")
    known = SavedView.objects.filter(site=site)
    if known.count() >= VIEWS_MAX and not known.filter(name=name).exists():
        raise Invalid(f"There are {VIEWS_MAX} views already.", "Take away one that nobody uses.", "name")
    view, _ = SavedView.objects.update_or_create(site=site, name=name, defaults={"address": address, "user": actor.user})
    return shown(view)


def remove(actor: Actor, slug: str, view_id: int) -> None:
    gone, _ = SavedView.objects.filter(site=actor.site_to_change(slug), id=view_id).delete()
    if not gone:
        raise NotFound("There is no such view.", "Somebody may have taken it away.")


def shown(view: SavedView) -> dict[str, Any]:
    by = view.user.get_username() if view.user else None
    return {"id": view.id, "name": view.name, "address": view.address, "by": by}
