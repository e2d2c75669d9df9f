"""Queries of any page."""

from zugzwang.core.facts.grains import PAGE_QUERIES
from zugzwang.data.models import Site
from zugzwang.intake.kinds.kind import PAGE_WORDS, QUERY_WORDS, Field, Kind
from zugzwang.intake.kinds.making import of_any_address, of_any_pages


def _says(site: Site) -> str:
    return of_any_pages(site, PAGE_QUERIES)


KIND = Kind(
    name="page-queries",
    title="Queries of any page",
    holds="which queries bring competing pages visits",
    needed="queries of competing pages",
    order=80,
    grains=(PAGE_QUERIES,),
    fields=(
        Field("address", "text", ("address", "page address", *PAGE_WORDS), required=True),
        Field("query", "text", QUERY_WORDS, required=True),
        Field("position", "real", ("position", "rank", "current position", "average position"), least=1),
        Field("searches", "volume", ("searches", "volume", "search volume", "monthly searches")),
        Field("share", "share", ("share", "share of visits", "traffic share", "visits share", "traffic %")),
        Field("visits", "real", ("visits", "estimated visits", "traffic", "monthly visits"), required=True),
    ),
    telling=("visits", "share", "searches"),
    with_ids=False,
    rows=of_any_address,
    says=_says,
    notes={"address": "any site's", "share": "of the page's visits"},
)  # fmt: skip
