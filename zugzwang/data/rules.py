"""A site's cleaning rules, validated, and the host they merge to. snapshot.py applies them."""

import ipaddress
import re
from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from zugzwang.core.facts.addresses import normal, parts
from zugzwang.core.facts.cleaning import PageType, QueryGroup, Rules
from zugzwang.core.words.wording import LANGUAGES
from zugzwang.data.models import Site
from zugzwang.data.patterns import patterns_for
from zugzwang.errors import Invalid

# Types found on most sites, by words in their addresses (common practice, no source).
USUAL_TYPES = (
    PageType("contact", (r"/(contact|contact-us|imprint|about)(/|$)",), exempt=("bounce",)),
    PageType("listing", (r"/(tag|tags|archive|author|page/\d+)(/|$)",), exempt=("queries",)),
    PageType(
        "utility", (r"/(login|sign-in|cart|basket|checkout|account|privacy|terms|search)(/|$)",), exempt=("bounce", "queries")
    ),
)

EXEMPTIONS = ("bounce", "queries")  # judgements that a page type can be exempt from
TYPES_MAX = 50
PATTERNS_MAX, PATTERNS_LETTERS_MAX = 2_000, 60_000


def host_of(site: Site) -> str:
    return parts(normal(site.address)).host


def bare_host(host: str) -> str:
    return host.removeprefix("www.")


def hosts_of(site: Site) -> tuple[str, ...]:
    """The site's host and its former hosts."""
    return (host_of(site), *rules_of(site).former_hosts)


def rules_of(site: Site) -> Rules:
    """A site's rules; those never set have their defaults."""
    return from_json(site.rules)


def from_json(result: Mapping[str, Any]) -> Rules:
    usual = Rules(page_types=USUAL_TYPES)
    current = {name: result[name] for name in vars(usual) if name in result}
    for name, value in current.items():
        if name == "page_types":
            current[name] = tuple(
                PageType(one["name"], *(tuple(one.get(part, ())) for part in ("patterns", "structured_data", "exempt")))
                for one in value
            )
        elif name == "query_groups":
            current[name] = tuple(QueryGroup(one["name"], tuple(one["patterns"])) for one in value)
        elif isinstance(value, list):
            current[name] = tuple(value)
    return Rules(**{**vars(usual), **current})


def as_json(rules: Rules) -> dict[str, Any]:
    return asdict(rules)


def checked(rules: Rules) -> Rules:
    """The rules without spaces around them and duplicates. Raises Invalid with the rule that makes no sense."""
    for network in rules.own_networks:
        try:
            ipaddress.ip_network(network, strict=False)
        except ValueError as error:
            raise Invalid(f"“{network}” is not a network.", "Write it as 192.0.2.0/24.", "own_networks") from error
    if rules.language not in LANGUAGES:
        raise Invalid(f"“{rules.language}” is not a supported language.", f"Languages: {', '.join(LANGUAGES)}.", "language")
    names = [*(one.name for one in rules.page_types), *(one.name for one in rules.query_groups)]
    if any(not name.strip() or len(name) > 60 for name in names):
        raise Invalid("A type or group needs a name of at most 60 characters.", "Name each briefly.", "page_types")
    for same in ([one.name for one in rules.page_types], [one.name for one in rules.query_groups]):
        if len(set(same)) < len(same):
            raise Invalid("Two have the same name.", "Put their patterns together.", "page_types")
    unknown = {part for one in rules.page_types for part in one.exempt} - set(EXEMPTIONS)
    if unknown:
        raise Invalid(f"A type cannot be exempt from “{unknown.pop()}”.", f"Possible: {', '.join(EXEMPTIONS)}.", "page_types")
    _check_patterns(rules)
    if len(rules.page_types) > TYPES_MAX or len(rules.query_groups) > 10 * TYPES_MAX:
        raise Invalid("Too many types or groups.", "Put some together.", "page_types")

    return Rules(
        drop_parameters=tuple(dict.fromkeys(name.strip() for name in rules.drop_parameters if name.strip())),
        fold_host=rules.fold_host,
        former_hosts=tuple(dict.fromkeys(_host(one) for one in rules.former_hosts if one.strip())),
        slash=rules.slash,
        separate=patterns_for(rules.separate, "separate", PATTERNS_MAX),
        left_out=patterns_for(rules.left_out, "left_out", PATTERNS_MAX),
        page_types=tuple(
            PageType(one.name.strip(), patterns_for(one.patterns, "page_types", PATTERNS_MAX), one.structured_data, one.exempt)
            for one in rules.page_types
        ),
        query_groups=tuple(
            QueryGroup(one.name.strip(), patterns_for(one.patterns, "query_groups", PATTERNS_MAX)) for one in rules.query_groups
        ),
        own_networks=rules.own_networks,
        language=rules.language,
        search_hosts=patterns_for(rules.search_hosts, "search_hosts", PATTERNS_MAX),
        crawlers=patterns_for(rules.crawlers, "crawlers", PATTERNS_MAX),
    )


def _check_patterns(rules: Rules) -> None:
    """Compile all patterns together, once. Raises Invalid with the field of the unusable one."""
    lists = [(name, getattr(rules, name)) for name in ("separate", "left_out", "search_hosts", "crawlers")]
    lists += [("page_types", one.patterns) for one in rules.page_types]
    lists += [("query_groups", one.patterns) for one in rules.query_groups]
    every = [pattern for _, patterns in lists for pattern in patterns]
    if len(every) > PATTERNS_MAX or sum(map(len, every)) > PATTERNS_LETTERS_MAX:
        message = f"At most {PATTERNS_MAX:,} patterns, with {PATTERNS_LETTERS_MAX:,} letters in all."
        raise Invalid("Too many or too long patterns.", message, "query_groups")
    try:
        patterns_for(every, "query_groups", PATTERNS_MAX)
    except Invalid as error:
        wrong = getattr(error.__cause__, "pattern", None)
        error.field = next((name for name, entry in lists if any(one.strip() == wrong for one in entry)), error.field)
        raise


def _host(values: str) -> str:
    """A host as people write it, with a scheme or without."""
    host = parts(normal(values if "//" in values else f"https://{values.strip()}")).host
    if not re.fullmatch(r"[a-z0-9-]+(\.[a-z0-9-]+)+", host):
        raise Invalid(f"“{values}” is not a host.", "Write it as www.shop.example.", "former_hosts")
    return host
