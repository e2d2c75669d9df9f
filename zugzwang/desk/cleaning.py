"""The rules of cleaning of a site: what they do now, what others would do, kept, and put back.

Rules change nothing that is stored: `folds` says under which page's id a page's facts count, and frames.py reads facts so.
"""

import ipaddress
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import polars as pl
from django.db import transaction
from django.db.models import F

from zugzwang.access import Actor
from zugzwang.core.addresses import normal, parts
from zugzwang.core.cleaning import LEFT_OUT, PageType, QueryGroup, Rules, fold, page_types, query_groups
from zugzwang.core.grains import CRAWL_PAGES, PAGE, PAGE_QUERY, QUERY
from zugzwang.core.patterns import PatternError, check_patterns
from zugzwang.core.wording import LANGUAGES
from zugzwang.errors import Invalid, NotFound
from zugzwang.store.blocks import read_facts
from zugzwang.store.dictionary import read_texts
from zugzwang.store.models import Page, Query, RuleChange, Site

EXAMPLES = 50
EXEMPTIONS = ("bounce", "queries")  # what a page type can be exempt from
TYPES_MAX = 50
# Types that most sites have, told by the words of their addresses (common practice, no source).
USUAL_TYPES = (
    PageType("contact", (r"/(contact|contact-us|imprint|about)(/|$)",), exempt=("bounce",)),
    PageType("listing", (r"/(tag|tags|archive|author|page/\d+)(/|$)",), exempt=("queries",)),
    PageType(
        "utility", (r"/(login|sign-in|cart|basket|checkout|account|privacy|terms|search)(/|$)",), exempt=("bounce", "queries")
    ),
)


def host_of(site: Site) -> str:
    return parts(normal(site.address)).host


def rules_of(site: Site) -> Rules:
    """The rules kept for a site; those that were never set are the usual ones."""
    return from_json(site.rules)


def from_json(told: Mapping[str, Any]) -> Rules:
    usual = Rules(page_types=USUAL_TYPES)
    held = {name: told[name] for name in vars(usual) if name in told}
    for name, value in held.items():
        if name == "page_types":
            held[name] = tuple(
                PageType(one["name"], *(tuple(one.get(part, ())) for part in ("patterns", "structured_data", "exempt")))
                for one in value
            )
        elif name == "query_groups":
            held[name] = tuple(QueryGroup(one["name"], tuple(one["patterns"])) for one in value)
        elif isinstance(value, list):
            held[name] = tuple(value)
    return Rules(**{**vars(usual), **held})


def as_json(rules: Rules) -> dict[str, Any]:
    return asdict(rules)


def checked(rules: Rules) -> Rules:
    """The rules, with blanks and repeats gone; Invalid says which of them makes no sense."""
    for network in rules.own_networks:
        try:
            ipaddress.ip_network(network, strict=False)
        except ValueError as error:
            raise Invalid(f"“{network}” is no network.", "Write it as 192.0.2.0/24.", "own_networks") from error
    if rules.language not in LANGUAGES:
        raise Invalid(f"“{rules.language}” is no language that has stems.", f"Languages: {', '.join(LANGUAGES)}.", "language")
    names = [*(one.name for one in rules.page_types), *(one.name for one in rules.query_groups)]
    if any(not name.strip() or len(name) > 60 for name in names):
        raise Invalid("A type or group has no name, or one of more than 60 letters.", "Name each briefly.", "page_types")
    for same in ([one.name for one in rules.page_types], [one.name for one in rules.query_groups]):
        if len(set(same)) < len(same):
            raise Invalid("Two have the same name.", "Put their patterns together.", "page_types")
    unknown = {part for one in rules.page_types for part in one.exempt} - set(EXEMPTIONS)
    if unknown:
        raise Invalid(
            f"A type cannot be exempt from “{unknown.pop()}”.", f"It can from: {', '.join(EXEMPTIONS)}.", "page_types"
        )
    if len(rules.page_types) > TYPES_MAX or len(rules.query_groups) > 10 * TYPES_MAX:
        raise Invalid("There are too many types or groups.", "Put some together.", "page_types")

    def patterns(given: Sequence[str], field: str) -> tuple[str, ...]:
        try:
            return check_patterns(given)
        except PatternError as error:
            raise Invalid(str(error), "A plain word will do; a regular expression may stand too.", field) from error

    return Rules(
        drop_parameters=tuple(dict.fromkeys(name.strip() for name in rules.drop_parameters if name.strip())),
        fold_host=rules.fold_host,
        slash=rules.slash,
        apart=patterns(rules.apart, "apart"),
        left_out=patterns(rules.left_out, "left_out"),
        page_types=tuple(
            PageType(one.name.strip(), patterns(one.patterns, "page_types"), one.structured_data, one.exempt)
            for one in rules.page_types
        ),
        query_groups=tuple(QueryGroup(one.name.strip(), patterns(one.patterns, "query_groups")) for one in rules.query_groups),
        own_networks=rules.own_networks,
        language=rules.language,
        search_hosts=patterns(rules.search_hosts, "search_hosts"),
    )


@lru_cache(maxsize=16)
def _crawled(site_id: int, version: int) -> pl.DataFrame:
    del version
    return read_facts(Site(id=site_id), CRAWL_PAGES, columns=["address", "redirect_to", "canonical", "structured_data"])


@lru_cache(maxsize=16)
def _pages(site_id: int, version: int) -> pl.DataFrame:
    del version
    return read_texts(Site(id=site_id), Page)


@lru_cache(maxsize=16)
def _folds(site_id: int, version: int, address: str, rules: Rules) -> pl.DataFrame:
    crawled = _crawled(site_id, version)
    points_to = crawled.select("address", points_to=pl.coalesce("redirect_to", "canonical"))
    return fold(_pages(site_id, version), address, rules, points_to)


def folds(site: Site, rules: Rules | None = None) -> pl.DataFrame:
    """Where each page's facts count, under rules or those that are kept: id, counts_as, folded, reasons (core/cleaning)."""
    return _folds(site.id, site.data_version, site.address, rules or rules_of(site))


def folds_of(site: Site, texts: pl.Series) -> pl.DataFrame:
    """Where some addresses count, also those that the site does not know yet; columns as `folds`."""
    known = _pages(site.id, site.data_version)
    fresh = texts.filter(~texts.is_in(known["text"].implode()))
    numbers = pl.int_range(pl.len(), dtype=pl.UInt32) + int(known["id"].max() or 0) + 1  # type: ignore[arg-type]
    pages = pl.concat([known, fresh.to_frame("text").select(id=numbers, text="text")])
    crawled = _crawled(site.id, site.data_version).select("address", points_to=pl.coalesce("redirect_to", "canonical"))
    held = fold(pages, site.address, rules_of(site), crawled)
    return held.filter(pages["text"].is_in(texts.implode()))


@dataclass(frozen=True)
class PageMap:
    """`to[id]` is the id under which a page counts, LEFT_OUT where it counts nowhere; None where every page stands for
    itself. `texts`: id, text of pages whose address differs from that of their id."""

    to: np.ndarray[Any, np.dtype[np.uint32]] | None
    texts: pl.DataFrame


@lru_cache(maxsize=16)
def page_map(site_id: int, version: int) -> PageMap:
    site = Site.objects.get(id=site_id)
    site.data_version = version
    held = folds(site)
    texts = _pages(site_id, version)
    renamed = held.filter(pl.col("id") == pl.col("counts_as")).join(texts, on="id").filter(pl.col("folded") != pl.col("text"))
    if held.is_empty() or held.select((pl.col("id") == pl.col("counts_as")).all()).item():
        return PageMap(None, renamed.select("id", text="folded"))
    to = np.arange(int(held["id"].max()) + 1, dtype=np.uint32)  # type: ignore[arg-type]
    to[held["id"].to_numpy()] = held["counts_as"].to_numpy()
    return PageMap(to, renamed.select("id", text="folded"))


def cleaned(facts: pl.DataFrame, pages: PageMap) -> pl.DataFrame:
    """Facts as they count: pages by the ids they fold into, those left out gone. Repeats are left to whoever adds up."""
    if pages.to is None or "page" not in facts.columns:
        return facts
    counted = facts.with_columns(pl.Series("page", pages.to[facts["page"].to_numpy()]))
    return counted.filter(pl.col("page") != LEFT_OUT)


def effect(site: Site, rules: Rules) -> dict[str, Any]:
    """What rules would do, with examples and how much stands behind: folds by reason, pages left out, types, groups."""
    rules = checked(rules)
    clicks = _clicks(site, "page")
    held = (
        folds(site, rules).join(clicks, left_on="id", right_on="page", how="left").with_columns(pl.col("clicks").fill_null(0))
    )
    held = held.join(_pages(site.id, site.data_version), on="id", how="left")
    total = int(held["clicks"].sum())
    folded = held.filter(pl.col("reasons").list.len() > 0, pl.col("counts_as") != LEFT_OUT).sort(
        "clicks", "text", descending=[True, False]
    )
    left_out = held.filter(pl.col("counts_as") == LEFT_OUT).sort("clicks", "text", descending=[True, False])
    counting = (
        held.filter(pl.col("counts_as") != LEFT_OUT)
        .group_by("counts_as")
        .agg(pl.col("clicks").sum(), text=pl.col("folded").first())
    )
    structured = _crawled(site.id, site.data_version).select(text="address", structured_data="structured_data")
    typed = page_types(counting, rules.page_types, structured)
    grouped = _clicks(site, "query").join(read_texts(site, Query), left_on="query", right_on="id")
    groups = query_groups(grouped, rules.query_groups).explode("groups", empty_as_null=True)
    return {
        "pages": held.height,
        "pages_counting": counting.height,
        "folded": folded.height,
        "folded_by_reason": dict(
            folded.explode("reasons", empty_as_null=True).group_by("reasons").len().sort("reasons").iter_rows()
        ),
        "folded_examples": folded.head(EXAMPLES)
        .select(pl.col("text").alias("from"), pl.col("folded").alias("to"), "reasons", "clicks")
        .to_dicts(),
        "left_out": left_out.height,
        "left_out_clicks_share": int(left_out["clicks"].sum()) / total if total else None,
        "left_out_examples": left_out.head(EXAMPLES).select("text", "clicks").to_dicts(),
        "types": _counted(typed, "type", [one.name for one in rules.page_types]),
        "groups": _counted(groups, "groups", [one.name for one in rules.query_groups]),
        "hosts": _other_hosts(site, held),
    }


def _clicks(site: Site, name: str) -> pl.DataFrame:
    """Clicks by page or query over all days, from the grain that tells most."""
    grains = (PAGE, PAGE_QUERY) if name == "page" else (QUERY, PAGE_QUERY)
    for grain in grains:
        facts = read_facts(site, grain, columns=[name, "clicks"])
        if facts.height:
            return facts.group_by(name).agg(pl.col("clicks").cast(pl.Int64).sum())
    return pl.DataFrame(schema={name: pl.UInt32, "clicks": pl.Int64})


def _counted(rows: pl.DataFrame, name: str, names: Sequence[str]) -> list[dict[str, Any]]:
    """For each name: how many rows have it, their clicks and the most clicked of them; last those that have none."""
    found = (
        rows.sort("clicks", descending=True)
        .group_by(name, maintain_order=True)
        .agg(pl.len().alias("count"), pl.col("clicks").sum(), pl.col("text").head(5).alias("examples"))
    )
    held = {row[name]: row for row in found.iter_rows(named=True)}
    empty = {"count": 0, "clicks": 0, "examples": []}
    return [{"name": one or "", **{key: (held.get(one) or empty)[key] for key in empty}} for one in [*names, None]]


def _other_hosts(site: Site, held: pl.DataFrame) -> list[dict[str, Any]]:
    """Hosts that are not the site's own, which one may want to leave out: staging copies, archives."""
    own = host_of(site).removeprefix("www.")
    hosts = held.with_columns(host=pl.col("folded").str.extract(r"^https?://([^/:]+)"))
    others = hosts.filter(pl.col("host").str.strip_prefix("www.") != own)
    return (
        others.group_by("host")
        .agg(pl.len().alias("pages"), pl.col("clicks").sum())
        .sort("clicks", "host", descending=True)
        .head(20)
        .to_dicts()
    )


def keep(actor: Actor, slug: str, rules: Rules, words: str = "") -> Site:
    """Keep rules for a site, with what they were before."""
    site = actor.site_to_change(slug)
    after = as_json(checked(rules))
    with transaction.atomic():
        site = Site.objects.select_for_update().get(id=site.id)
        before = as_json(rules_of(site))
        if after == before:
            return site
        RuleChange.objects.create(
            site=site, user=actor.user, before=before, after=after, words=(words or _said(before, after))[:300]
        )
        Site.objects.filter(id=site.id).update(rules=after, data_version=F("data_version") + 1)
    site.refresh_from_db()
    return site


_SAID = {
    "drop_parameters": "parameters that are dropped",
    "fold_host": "folding of scheme and www.",
    "slash": "trailing slashes",
    "apart": "addresses kept apart",
    "left_out": "pages left out",
    "page_types": "page types",
    "query_groups": "query groups",
    "own_networks": "own networks",
    "search_hosts": "hosts of search engines",
    "language": "the language of the site",
}


def _said(before: Mapping[str, Any], after: Mapping[str, Any]) -> str:
    changed = [words for name, words in _SAID.items() if before[name] != after[name]]
    return f"Changed: {', '.join(changed)}"


def put_back(actor: Actor, slug: str, change_id: int) -> Site:
    """The rules as they were before a change."""
    site = actor.site_to_change(slug)
    change = RuleChange.objects.filter(site=site, id=change_id).first()
    if change is None:
        raise NotFound("There is no such change.", "Look at the list of changes.")
    return keep(actor, slug, from_json(change.before), f"Put back as before “{change.words}”")


def changes(site: Site, limit: int = 30) -> list[RuleChange]:
    return list(RuleChange.objects.filter(site=site).select_related("user")[:limit])
