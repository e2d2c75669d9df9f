"""The rules of cleaning as a site keeps them, and the host they fold to. What they do is told by snapshot.py."""

from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from zugzwang.core.facts.addresses import normal, parts
from zugzwang.core.facts.cleaning import PageType, QueryGroup, Rules
from zugzwang.data.models import Site

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


def bare_host(host: str) -> str:
    return host.removeprefix("www.")


def hosts_of(site: Site) -> tuple[str, ...]:
    """The site's host, and those at which it was before."""
    return (host_of(site), *rules_of(site).former_hosts)


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
