"""Links to any page: referring domains and backlinks."""

from zugzwang.core.facts.grains import STRENGTHS
from zugzwang.data.models import Site
from zugzwang.intake.kinds.kind import PAGE_WORDS, Field, Kind
from zugzwang.intake.kinds.making import of_any_address, of_any_pages


def _says(site: Site) -> str:
    return of_any_pages(site, STRENGTHS)


KIND = Kind(
    name="strengths",
    title="Links to any page",
    holds="referring domains and links of any page, yours or competitors'",
    needed="referring domains of any page",
    order=70,
    grains=(STRENGTHS,),
    fields=(
        Field("address", "text", ("address", "target", "target url", *PAGE_WORDS), required=True),
        Field(
            "referring_domains", "whole",
            ("referring domains", "linking sites", "linking domains", "domains", "linking hosts", "ref domains"), required=True,
        ),
        Field("links", "whole", ("links", "backlinks", "external links", "inbound links")),
    ),
    telling=("referring_domains", "links"),
    rows=of_any_address,
    says=_says,
    notes={"address": "any site's"},
)  # fmt: skip
