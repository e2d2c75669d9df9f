"""Use cases for cleaning: the effect of current and proposed rules, saving and restoring them. Rules never change stored
data."""

import hashlib
import json
from collections.abc import Mapping, Sequence
from typing import Any

import polars as pl

from zugzwang.access import Actor
from zugzwang.changing import changes_site
from zugzwang.core.facts.cleaning import LEFT_OUT, Rules, page_types, query_groups
from zugzwang.core.facts.grains import PAGE, PAGE_QUERY, QUERY
from zugzwang.data.audit import note
from zugzwang.data.blocks import read_facts
from zugzwang.data.dictionary import read_texts
from zugzwang.data.models import Page, Query, RuleChange, Site, next_version
from zugzwang.data.rules import as_json, checked, from_json, host_of, rules_of
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Conflict, NotFound

EXAMPLES = 50


def effect(site: Site, rules: Rules) -> dict[str, Any]:
    """The effect of rules, with examples and clicks: merged URLs by reason, excluded pages, types, groups."""
    rules = checked(rules)
    clicks = _clicks(site, "page")
    snapshot = Snapshot(site)
    rows = (
        snapshot.pages.folds(rules)
        .join(clicks, left_on="id", right_on="page", how="left")
        .with_columns(pl.col("clicks").fill_null(0))
    )
    rows = rows.join(snapshot.names.texts(Page), on="id", how="left")
    total = int(rows["clicks"].sum())
    folded = rows.filter(pl.col("reasons").list.len() > 0, pl.col("counts_as") != LEFT_OUT).sort(
        "clicks", "text", descending=[True, False]
    )
    left_out = rows.filter(pl.col("counts_as") == LEFT_OUT).sort("clicks", "text", descending=[True, False])
    counting = (
        rows.filter(pl.col("counts_as") != LEFT_OUT)
        .group_by("counts_as")
        .agg(pl.col("clicks").sum(), text=pl.col("folded").first())
    )
    structured = snapshot.pages.crawled().select(text="address", structured_data="structured_data")
    typed = page_types(counting, rules.page_types, structured)
    grouped = _clicks(site, "query").join(read_texts(site, Query), left_on="query", right_on="id")
    groups = query_groups(grouped, rules.query_groups).explode("groups", empty_as_null=True)
    return {
        "pages": rows.height,
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
        "hosts": _other_hosts(site, rows),
    }


def _clicks(site: Site, name: str) -> pl.DataFrame:
    """Clicks by page or query over all days, from the most complete grain."""
    grains = (PAGE, PAGE_QUERY) if name == "page" else (QUERY, PAGE_QUERY)
    for grain in grains:
        facts = read_facts(site, grain, columns=[name, "clicks"])
        if facts.height:
            return facts.group_by(name).agg(pl.col("clicks").cast(pl.Int64).sum())
    return pl.DataFrame(schema={name: pl.UInt32, "clicks": pl.Int64})


def _counted(rows: pl.DataFrame, name: str, names: Sequence[str]) -> list[dict[str, Any]]:
    """For each name: how many rows have it, their clicks and the most clicked of them; rows without a name come last."""
    found = (
        rows.sort("clicks", descending=True)
        .group_by(name, maintain_order=True)
        .agg(pl.len().alias("count"), pl.col("clicks").sum(), pl.col("text").head(5).alias("examples"))
    )
    current = {row[name]: row for row in found.iter_rows(named=True)}
    empty = {"count": 0, "clicks": 0, "examples": []}
    return [{"name": one or "", **{key: (current.get(one) or empty)[key] for key in empty}} for one in [*names, None]]


def _other_hosts(site: Site, rows: pl.DataFrame) -> list[dict[str, Any]]:
    """Hosts other than the site's own that could be excluded: staging copies, archives."""
    own = host_of(site).removeprefix("www.")
    hosts = rows.with_columns(host=pl.col("folded").str.extract(r"^https?://([^/:]+)"))
    others = hosts.filter(pl.col("host").str.strip_prefix("www.") != own)
    return (
        others.group_by("host")
        .agg(pl.len().alias("pages"), pl.col("clicks").sum())
        .sort("clicks", "host", descending=True)
        .head(20)
        .to_dicts()
    )


def version_of(rules: Rules) -> str:
    """A digest that differs for different rules."""
    return hashlib.sha256(json.dumps(as_json(rules), sort_keys=True).encode()).hexdigest()[:16]


def keep(actor: Actor, slug: str, rules: Rules, words: str = "", seen: str | None = None) -> Site:
    """Save a site's rules, with the previous ones. `seen`: the version that they are based on. Raises Conflict where others
    changed them since.
    """
    actor.site_to_change(slug)
    return _store(actor, slug, as_json(checked(rules)), words, seen)


@changes_site()
def _store(actor: Actor, site: Site, after: dict[str, Any], words: str, seen: str | None) -> Site:
    before = as_json(rules_of(site))
    if seen is not None and seen != version_of(rules_of(site)):
        raise Conflict("Someone else changed the rules.", "Reload the page, and make your change again.", ["rules"])
    if after == before:
        return site
    RuleChange.objects.create(
        site=site, user=actor.user, before=before, after=after, words=(words or _said(before, after))[:300]
    )
    site.rules, site.data_version = after, next_version()
    site.save(update_fields=["rules", "data_version"])
    note(actor.user, site, "rules", words or _said(before, after))
    return site


_SAID = {
    "drop_parameters": "dropped parameters",
    "fold_host": "merging of scheme and www.",
    "former_hosts": "former hosts",
    "slash": "trailing slashes",
    "separate": "addresses never merged",
    "left_out": "pages left out",
    "page_types": "page types",
    "query_groups": "query groups",
    "own_networks": "own networks",
    "search_hosts": "search engine hosts",
    "crawlers": "search engine crawlers",
    "language": "site language",
}


def _said(before: Mapping[str, Any], after: Mapping[str, Any]) -> str:
    changed = [words for name, words in _SAID.items() if before[name] != after[name]]
    return f"Changed: {', '.join(changed)}"


def restore(actor: Actor, slug: str, change_id: int) -> Site:
    """Restore the rules from before a change."""
    site = actor.site_to_change(slug)
    change = RuleChange.objects.filter(site=site, id=change_id).first()
    if change is None:
        raise NotFound("This change does not exist.", "Check the list of changes.")
    return keep(actor, slug, from_json(change.before), f"Restored as before “{change.words}”")


def changes(site: Site, limit: int = 30) -> list[RuleChange]:
    return list(RuleChange.objects.filter(site=site).select_related("user")[:limit])
