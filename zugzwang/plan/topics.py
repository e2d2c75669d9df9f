"""People's edits of topics: merged, split off, named, dropped; the last edit can be undone."""

from collections.abc import Sequence
from typing import Any

from zugzwang.access import Actor
from zugzwang.changing import changes_site
from zugzwang.core.topics.edits import EDIT_KINDS
from zugzwang.data.models import Query, Site, TopicEdit
from zugzwang.errors import Invalid, NotFound
from zugzwang.names import checked_name

NAME_MAX, QUERIES_MAX, EDITS_MAX = 200, 2_000, 5_000


@changes_site(plan=True)
def edit(actor: Actor, site: Site, kind: str, queries: Sequence[int], name: str = "") -> dict[str, Any]:
    """Save an edit of topics. `queries`: to merge, one query of each topic; to split off, all that leave; otherwise one of the
    topic.
    """
    name = checked_name(" ".join(name.split()), most=NAME_MAX, needed=kind == "name")
    if kind not in EDIT_KINDS:
        raise Invalid(f"Unknown change “{kind}”.", f"Changes: {', '.join(EDIT_KINDS)}.", "kind")
    least = 2 if kind == "join" else 1
    if not least <= len(set(queries)) <= QUERIES_MAX:
        raise Invalid(f"{least} to {QUERIES_MAX} queries are possible.", "Choose topics, or queries of one.", "queries")
    if Query.objects.filter(site=site, id__in=queries).count() < len(set(queries)):
        raise NotFound("The site has no such query.", "Choose from its lists.")
    if TopicEdit.objects.filter(site=site).count() >= EDITS_MAX:
        raise Invalid(f"{EDITS_MAX} changes of topics are possible.", "Take some back.", "kind")
    made = TopicEdit.objects.create(site=site, kind=kind, queries=list(dict.fromkeys(queries)), name=name, user=actor.user)
    return _described(made)


@changes_site(plan=True)
def undo(actor: Actor, site: Site, number: int) -> None:
    """Undo an edit, as if it had never been made."""
    found, _ = TopicEdit.objects.filter(site=site, id=number).delete()
    if not found:
        raise NotFound("This change of topics does not exist.", "Someone may have undone it.")


def held(site: Site) -> list[dict[str, Any]]:
    """The edits in force, latest first."""
    return [_described(one) for one in TopicEdit.objects.filter(site=site).select_related("user").order_by("-id")]


def _described(one: TopicEdit) -> dict[str, Any]:
    by = one.user.get_username() if one.user else None
    return {"id": one.id, "kind": one.kind, "queries": one.queries, "name": one.name, "by": by, "made_at": one.made_at}
