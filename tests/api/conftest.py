import pytest

from tests.conftest import keep
from tests.planted import PlantedSite, planted_site
from zugzwang.data.models import Page, Query, Site


@pytest.fixture
def planted(site: Site) -> PlantedSite:
    """The site with a planted site's facts; page and query ids of the database are 1 more than the planted ones."""
    planted = planted_site(queries=400, poor=6, movers=5, seed=4)
    count = 400
    Page.objects.bulk_create(Page(id=n + 1, site=site, text=f"https://shop.example/p{n}") for n in range(count))
    Query.objects.bulk_create(Query(id=n + 1, site=site, text=f"query {n}") for n in range(count))
    facts = planted.facts.with_columns(page=planted.facts["page"] + 1, query=planted.facts["query"] + 1)
    keep(site, facts)
    return planted
