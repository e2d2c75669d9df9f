"""Main queries that people choose for pages instead of the suggested ones."""

from zugzwang.access import Actor
from zugzwang.changing import changes_site
from zugzwang.data.models import MainQuery, Page, Query, Site
from zugzwang.errors import NotFound


@changes_site(plan=True)
def choose(actor: Actor, site: Site, page: int, query: int | None) -> None:
    """Save a page's main query; None: as suggested."""
    for kind, number, word in ((Page, page, "page"), (Query, query, "query")):
        if number is not None and not kind.objects.filter(site=site, id=number).exists():
            raise NotFound(f"The site has no such {word}.", "Choose from its lists.")
    if query is None:
        MainQuery.objects.filter(site=site, page_id=page).delete()
    else:
        result = {"query_id": query, "user": actor.user}
        MainQuery.objects.update_or_create(site=site, page_id=page, defaults=result)
