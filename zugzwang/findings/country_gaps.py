"""Country gaps: queries that rank worse in one country than in others."""

from typing import Any

import polars as pl

from zugzwang.core.clicks.country_gaps import WEEKS_NEEDED, country_gaps
from zugzwang.core.facts.countries import country_letters
from zugzwang.core.facts.grains import PAGE_QUERY
from zugzwang.core.words import sentences
from zugzwang.findings.columns import CLICKS, EVIDENCE, IMPRESSIONS, PAGES, POSITION, QUERY
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.view import View

COLUMNS = ("day", "page", "query", "country", "clicks", "impressions", "position")


def find_country_gaps(view: View) -> Found:
    """The gaps, most impressions first."""
    facts = view.snapshot.facts.rows(PAGE_QUERY, view.period, view.setting.part, COLUMNS)
    gaps, tested = country_gaps(view.without_brand(view.chosen(facts)), view.min_impressions)
    lacking = []
    if not tested:
        lacking = [f"Search data by country are needed, with {WEEKS_NEEDED} weeks in which a query was shown in two countries."]
    letters = [country_letters(code) for code in gaps["country"]]
    rows = gaps.with_columns(country=pl.Series(letters, dtype=pl.String))
    says = [sentences.country_gap(*row) for row in rows.select("country", "position", "elsewhere", "gap", "weeks").iter_rows()]
    return Found(rows.with_columns(sentence=pl.Series(says, dtype=pl.String)), {"tested": tested}, lacking)


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    if found.lacking:
        return found.lacking
    tested = f"{found.behind['tested']} pairs of query and country had data enough to tell."
    if rows.is_empty():
        return [f"No query ranks clearly worse in one country than in the others. {tested}"]
    return [f"{rows.height} times a query ranks clearly worse in one country than in the others. {tested}"]


COUNTRY_GAPS = Finding(
    name="country-gaps",
    place=("queries", 6),
    title="Country gaps",
    question="Which queries rank worse in one country than in the others?",
    method="country-gaps",
    claims=("gap", "gaps"),
    order="impressions",
    makes=("device", "country", *PAGES, "text", "query_group", "topic", "branded", "min_impressions"),
    chooses=("evidence",),
    columns=(
        QUERY.listed(),
        Column("country", "text", "country", "country where it ranks worse (ISO 3166)", shown="list", low=True),
        Column("gap", "amount", "gap", "positions worse than elsewhere", "places", "list"),
        POSITION.listed(null=False),
        Column("elsewhere", "position", "elsewhere", "average position in all other countries", shown="list", low=True),
        CLICKS.listed(),
        IMPRESSIONS.listed(),
        EVIDENCE.listed(),
        Column("share_shown", "share", "share there", "share of its impressions in that country", shown="extra"),
        Column("weeks", "count", "weeks", "weeks with impressions both there and elsewhere", "weeks", "extra"),
        Column("q_value", "rate", "", "the share of false alarms among gaps at least as sure as this one"),
        Column("sentence", "text"),
    ),
    find=find_country_gaps,
    says=_says,
    key=("query", "country"),
)
