"""The fields of each source, and which of a file's columns is which.

Columns are suggested from the words in the header first, then, for required fields without a matching word, from the
values. An analyst's own choice is remembered by header (`ColumnMemory`).
"""

import hashlib
import json
import re
import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from zugzwang.core.facts.grains import SOURCES, Source
from zugzwang.errors import Invalid
from zugzwang.intake.header_words import DIFFERENCE, EARLIER, OTHER_WORDS

# How a field is written: its reader in `values.py`.
Form = Literal[
    "day", "page", "query", "text", "whole", "real", "share", "yes", "placement", "device", "country", "channel", "volume",
    "status",
]  # fmt: skip


@dataclass(frozen=True)
class Field:
    """A field of a source: its name, header words (plain, most common first), how it is written. `concept`: the key of its
    words in other languages; `may_be_empty`: rows may lack it though the table must have the column.
    """

    name: str
    form: Form
    words: tuple[str, ...]
    required: bool = False
    least: float | None = 0  # the smallest possible number
    concept: str = ""
    may_be_empty: bool = False

    @property
    def every_word(self) -> tuple[str, ...]:
        return (*self.words, *OTHER_WORDS.get(self.concept or self.name, ()))


_DAY_WORDS = ("day", "date", "datum")
MONTH_WORDS = ("month", "year month", "month of year", *OTHER_WORDS["month"])
_PAGE_WORDS = (
    "page", "address", "url", "landing page", "page url", "page address", "page path", "pages",
    "top pages", "landing page path", "full address", "full url",
)  # fmt: skip
_QUERY_WORDS = ("query", "search term", "keyword", "term", "search query", "queries", "top queries", "keywords", "search terms")
_LANDING_WORDS = (
    "landing page",
    "landing page query string",
    "landing page path",
    "entry page",
    "entrance page",
    *OTHER_WORDS["landing"],
    *_PAGE_WORDS,
)
_CHANNEL_WORDS = (
    "channel",
    "default channel group",
    "session default channel group",
    "first user default channel group",
    "first user primary channel group",
    "session primary channel group",
    "channel group",
    "session source medium",
    "source medium",
    "session medium",
    "medium",
    "first user source medium",
    "first user medium",
    "traffic",
)
_LINKING_WORDS = (
    "from",
    "from address",
    "source",
    "source url",
    "linking page",
    "referring page",
    "source page",
    "referring page url",
    "source page url",
    "linking url",
    "backlink url",
)
_LINKED_WORDS = ("to", "to address", "target", "target url", "target page", "linked page", "destination", *_PAGE_WORDS)
_DEVICE = Field("device", "device", ("device", "device category", "devices", "device type"))
_COUNTRY = Field("country", "country", ("country", "countries", "region", "location", "country code"))

FIELDS: dict[Source, tuple[Field, ...]] = {
    "search": (
        Field("day", "day", (*_DAY_WORDS, *OTHER_WORDS["day"], *MONTH_WORDS)),
        Field("page", "page", _PAGE_WORDS),
        Field("query", "query", _QUERY_WORDS),
        _DEVICE,
        _COUNTRY,
        Field("clicks", "whole", ("clicks", "click", "url clicks"), required=True),
        Field("impressions", "whole", ("impressions", "impression", "shown", "times shown"), required=True),
        Field(
            "position",
            "real",
            ("position", "average position", "avg position", "mean position", "rank", "average rank", "avg pos"),
            required=True,
            least=1,
        ),
        Field("position_sum", "real", ("sum position", "sum top position", "position sum", "sum of positions")),
        Field(
            "ctr",
            "share",
            ("ctr", "click through rate", "clickthrough rate", "click through", "url ctr", "site ctr", "average ctr"),
        ),
    ),
    "visits": (
        Field("day", "day", (*_DAY_WORDS, *OTHER_WORDS["day"], *MONTH_WORDS)),
        Field("page", "page", _LANDING_WORDS, required=True),
        Field("channel", "channel", _CHANNEL_WORDS),
        Field("sessions", "whole", ("sessions", "visits", "entrances", "session"), required=True),
        Field("users", "whole", ("users", "visitors", "unique visitors", "total users", "active users")),
        Field("bounces", "whole", ("bounces", "bounced sessions")),
        Field("engaged", "whole", ("engaged sessions", "engaged visits")),
        Field("bounce_rate", "share", ("bounce rate", "bounces rate")),
        Field("seconds", "real", ("seconds", "time on site", "total time", "duration", "session duration", "engagement time")),
        Field(
            "mean_seconds",
            "real",
            ("average session duration", "avg session duration", "seconds per session", "average seconds", "average time"),
        ),
        Field("conversions", "real", ("conversions", "goals", "orders", "transactions", "key events", "goal completions")),
        Field("value", "real", ("value", "revenue", "total revenue", "conversion value", "goal value"), least=None),
        Field("network_address", "text", ("network address", "ip", "ip address", "client address", "remote address")),
    ),
    "crawl": (
        Field("address", "page", ("address", "url", "page", "page url"), required=True),
        Field("status", "status", ("status code", "http status code", "http status", "response code", "status")),
        Field("redirect_to", "text", ("redirect to", "redirect url", "redirects to", "redirect target")),
        Field(
            "canonical",
            "text",
            ("canonical", "canonical link element", "canonical url", "canonical link", "canonical address"),
        ),
        Field("robots", "text", ("robots", "meta robots", "robots directives", "indexability", "indexability status")),
        Field("title", "text", ("title", "page title", "title tag", "titles"), required=True, may_be_empty=True),
        Field("description", "text", ("description", "meta description", "page description")),
        Field("heading", "text", ("h1", "heading", "main heading", "heading 1", "first heading")),
        Field("main_text", "text", ("text", "main text", "content", "body")),
        Field("words", "whole", ("words", "word count")),
    ),
    "links": (
        Field("from_address", "text", _LINKING_WORDS, required=True, concept="linking"),
        Field("page", "page", _LINKED_WORDS, required=True, concept="linked"),
        Field("anchor", "text", ("anchor", "anchor text", "link text", "text")),
        Field("followed", "yes", ("followed", "follow", "dofollow", "link type", "rel")),
        Field("not_followed", "yes", ("nofollow", "no follow")),
        Field("first_seen", "day", ("first seen", "found", "discovered", "first found")),
        Field("last_seen", "day", ("last seen", "last checked", "last found")),
    ),
    "volumes": (
        Field("query", "query", _QUERY_WORDS, required=True),
        _COUNTRY,
        Field("month", "day", ("month", "date", "year month")),
        Field(
            "searches",
            "volume",
            (
                "searches", "volume", "search volume", "monthly searches", "monthly volume", "avg monthly searches",
                "average monthly searches",
            ),
            required=True,
        ),
        Field("price_per_click", "real", ("price per click", "cpc", "cost per click", "avg cpc", "average cpc", "click price")),
    ),
    "results": (
        Field("query", "query", _QUERY_WORDS, required=True),
        _COUNTRY,
        _DEVICE,
        Field("captured", "day", ("captured", "captured on", "capture date", "checked on", *_DAY_WORDS), required=True),
        Field("rank", "whole", ("rank", "place", "block rank", "block place", "position", "order"), required=True, least=1),
        Field("block", "text", ("block", "block kind", "type", "feature", "kind"), required=True),
        Field("kind", "text", ("answer kind", "box kind", "kind", "subtype")),
        Field("height_px", "whole", ("height px", "height", "pixels", "height in pixels")),
        Field("title", "text", ("title", "result title", "heading")),
        Field("address", "text", ("address", "url", "link", "page", "result url", "source url")),
        Field("snippet", "text", ("snippet", "description", "text", "result text")),
    ),
    "strengths": (
        Field("address", "text", ("address", "target", "target url", *_PAGE_WORDS), required=True),
        Field(
            "referring_domains", "whole",
            ("referring domains", "linking sites", "linking domains", "domains", "linking hosts", "ref domains"), required=True,
        ),
        Field("links", "whole", ("links", "backlinks", "external links", "inbound links")),
    ),
    "page-queries": (
        Field("address", "text", ("address", "page address", *_PAGE_WORDS), required=True),
        Field("query", "text", _QUERY_WORDS, required=True),
        Field("position", "real", ("position", "rank", "current position", "average position"), least=1),
        Field("searches", "volume", ("searches", "volume", "search volume", "monthly searches")),
        Field("share", "share", ("share", "share of visits", "traffic share", "visits share", "traffic %")),
        Field("visits", "real", ("visits", "estimated visits", "traffic", "monthly visits"), required=True),
    ),
    "page-links": (
        Field("from_address", "text", _LINKING_WORDS, required=True, concept="linking"),
        Field("to_address", "text", _LINKED_WORDS, required=True, concept="linked"),
        Field("anchor", "text", ("anchor", "anchor text", "link text", "text")),
        Field(
            "in_body", "placement", ("link position", "position in page", "placement", "link location", "in body", "position")
        ),
        Field("followed", "yes", ("followed", "follow", "dofollow", "link type", "rel")),
        Field("not_followed", "yes", ("nofollow", "no follow")),
    ),
    "above": (),
    "events": (
        Field("first_day", "day", ("first day", "from", "start", "start date", "begin", "begins", *_DAY_WORDS), required=True),
        Field("last_day", "day", ("last day", "to", "until", "end", "end date", "ends")),
        Field("title", "text", ("title", "event", "name", "summary", "what"), required=True),
        Field("kind", "text", ("kind", "type", "category")),
        Field("note", "text", ("note", "notes", "description", "comment", "details")),
    ),
}  # fmt: skip
# Fields that can be computed from others where a file has those instead.
MADE_OF = {"position": "position_sum"}
# What distinguishes a source: fields or words that no other source has.
_TELLING: dict[Source, tuple[str, ...]] = {
    "search": ("clicks", "impressions", "position"),
    "visits": ("sessions", "bounces", "engaged", "bounce_rate", "conversions", "channel"),
    "crawl": ("title", "status", "canonical", "description", "heading", "words"),
    "links": ("from_address", "anchor", "followed"),
    "volumes": ("searches", "price_per_click"),
    "results": ("captured", "block", "rank", "snippet"),
    "strengths": ("referring_domains", "links"),
    "page-queries": ("visits", "share", "searches"),
    "page-links": ("from_address", "anchor", "followed"),
    "above": (),
    "events": ("first_day", "title"),
}


def plain(header: str) -> str:
    """A header in lower case without accents, with single spaces: "Avg. Position" → "avg position"."""
    return " ".join(re.findall(r"[^\W_]+", bare_letters(header).casefold()))


def bare_letters(text: str) -> str:
    """A text without accents: "Requêtes" → "Requetes"."""
    return "".join(letter for letter in unicodedata.normalize("NFKD", text) if not unicodedata.combining(letter))


def field_of(source: Source, name: str) -> Field:
    return next(field for field in FIELDS[source] if field.name == name)


def required(source: Source) -> list[str]:
    return [field.name for field in FIELDS[source] if field.required]


def missing(source: Source, mapping: Mapping[str, int]) -> list[str]:
    values = {*mapping, *(made for made, of in MADE_OF.items() if of in mapping)}
    return [name for name in required(source) if name not in values]


def of_something(source: Source, mapping: Mapping[str, int]) -> bool:
    """Whether a table names what its rows are about: search facts about an unsupported dimension are not loaded."""
    return source != "search" or bool({"day", "page", "query", "device", "country"} & mapping.keys())


def propose(source: Source, header: Sequence[str], samples: Sequence[Sequence[str]] = ()) -> dict[str, int]:
    """Field → index of the column: by header words, more common words first; then required fields by their values.

    `samples`: the first rows of the file.
    """
    names = [plain(name) for name in header]
    # "Title 1" and "H1-1": the first of several columns of one kind.
    firsts = [name.removesuffix(" 1") for name in names]
    found: dict[str, int] = {}
    for field in FIELDS[source]:
        free = [[name if index not in found.values() else "" for index, name in enumerate(entry)] for entry in (names, firsts)]
        named = [entry.index(word) for word in field.every_word for entry in free if word in entry]
        fitting = [one for one in named if _can_be(field, one, samples)]
        if fitting:  # of several the one with the most values, otherwise by name
            found[field.name] = max(fitting, key=lambda one: _filled(field, one, samples))
    for field in FIELDS[source]:
        if field.name not in found and (field.required or field.name == "day" or field.form in ("page", "query")):
            index = _by_values(field, header, samples, set(found.values()))
            if index is not None:
                found[field.name] = index
    return found | (_of_keys(header, samples, found) if source == "search" else {})


def _of_keys(header: Sequence[str], samples: Sequence[Sequence[str]], found: Mapping[str, int]) -> dict[str, int]:
    """Which of the columns "key 1", "key 2" … contains the query: the one whose values are nothing else."""
    left = [index for index, name in enumerate(header) if name.startswith("key ") and index not in found.values()]
    texts = [index for index in left if any(len(row[index]) > 3 for row in samples if index < len(row))]
    return {"query": texts[0]} if "query" not in found and len(texts) == 1 else {}


def _can_be(field: Field, index: int, samples: Sequence[Sequence[str]]) -> bool:
    """Whether most values of a column are possible for the field: numbers where it is a count."""
    if field.form not in ("whole", "real", "status", "share", "volume"):
        return True
    values = [row[index] for row in samples if index < len(row) and row[index].strip()]
    return not values or sum(bool(re.search(r"\d", value)) or value in "-–" for value in values) * 2 > len(values)


def _filled(field: Field, index: int, samples: Sequence[Sequence[str]]) -> int:
    """How well a column's values match a field: 2 where most look like its own, 1 where it has any, otherwise 0."""
    values = [row[index].strip() for row in samples if index < len(row) and row[index].strip()]
    looks = _LOOKS.get(field.form)
    alike = looks is not None and sum(bool(looks.match(value)) for value in values) * 2 > len(values)
    return 2 if values and (looks is None or alike) else int(bool(values))


_LOOKS: dict[Form, re.Pattern[str]] = {
    "day": re.compile(
        r"^(\d{4}[-/.]?\d{2}[-/.]?\d{2}|\d{1,2}[-/.]\d{1,2}[-/.]\d{4}|\d{1,2} \w{3,9} \d{4}|\w{3,9} \d{1,2}, \d{4})$"
    ),
    "page": re.compile(r"^(https?://|/)\S*$"),
}


def _by_values(field: Field, header: Sequence[str], samples: Sequence[Sequence[str]], taken: set[int]) -> int | None:
    """The only unassigned column whose values all look like the field's; None where there is none, or several."""
    looks = _LOOKS.get(field.form)
    if looks is None or len(samples) < 2:
        return None
    fitting = []
    for index in range(len(header)):
        values = [row[index].strip() for row in samples if index < len(row) and row[index].strip()]
        if index not in taken and len(values) >= 2 and all(looks.match(value) for value in values):
            fitting.append(index)
    return fitting[0] if len(fitting) == 1 else None


def recognise(header: Sequence[str], samples: Sequence[Sequence[str]] = ()) -> list[Source]:
    """The sources that a table could be, best first: those with all required fields come first, then those with more of their
    distinctive fields. Beyond the first, only sources that fit equally are listed.
    """

    def fit(source: Source) -> tuple[bool, int, int]:
        mapping = propose(source, header, samples)
        telling = sum(name in mapping for name in _TELLING[source])
        return not missing(source, mapping), telling, len(mapping)

    fits = {source: fit(source) for source in SOURCES if FIELDS[source]}
    best, *others = sorted(fits, key=lambda source: fits[source], reverse=True)
    if tells_ranks_alone(header, samples) and (best == "volumes" or not fits[best][0]):
        return ["search", "volumes"] if fits["volumes"][0] else ["search"]
    rivals = [one for one in others if fits[one][0] and fits[one][1] * 2 > fits[best][1]]
    return [best, *rivals]


def tells_ranks_alone(header: Sequence[str], samples: Sequence[Sequence[str]]) -> bool:
    """Whether a table has positions of queries without clicks or impressions, as rank tracking does."""
    current = propose("search", header, samples)
    return {"query", "position"} <= current.keys() and not {"clicks", "impressions"} & current.keys()


def recognised_by_hosts(
    found: list[Source], header: Sequence[str], samples: Sequence[Sequence[str]], own_host: str
) -> list[Source]:
    """Tables of links look alike: links are internal where most start on the site's own pages."""
    pair: list[Source] = ["links", "page-links"]
    if found[0] not in pair:
        return [one for one in found if one not in pair[1:]]
    column = propose("page-links", header, samples).get("from_address")
    bare = own_host.removeprefix("www.")
    hosts = [] if column is None else [_host(row[column]) for row in samples if column < len(row) and row[column].strip()]
    own = sum(host in ("", bare) or host.endswith(f".{bare}") for host in hosts)
    best, other = pair[::-1] if 2 * own > len(hosts) else pair
    rest = [one for one in found if one not in pair]
    return [best, *([other] if 0 < own < len(hosts) else []), *rest]


def _host(address: str) -> str:
    """The host of an address in lower case; empty for a path."""
    result = address.strip().lower()
    return "" if result.startswith("/") else re.sub(r"^(?:https?:)?//", "", result).partition("/")[0].removeprefix("www.")


@dataclass(frozen=True)
class Side:
    """One of the two periods in a comparison table: its words in the header, and its measure columns."""

    words: str
    measures: Mapping[str, int]


def sides(source: Source, header: Sequence[str]) -> tuple[Side, Side] | None:
    """The columns of the later and the earlier period where a table has each measure twice; otherwise None."""
    names = [plain(name) for name in header]
    known = {word for field in FIELDS[source] for word in field.every_word}
    found: dict[str, dict[str, int]] = {}
    for field in FIELDS[source]:
        if field.form not in ("whole", "real", "share"):
            continue
        for index, name in enumerate(names):
            # "Engaged sessions" is a measure, not sessions of a period called "engaged".
            rest = _rest(name, field.every_word) if name not in known or name in field.every_word else None
            if rest is not None and not any(word in f" {rest} " for word in (f" {word} " for word in DIFFERENCE)):
                found.setdefault(rest, {}).setdefault(field.name, index)
    needed = {field.name for field in FIELDS[source] if field.required and field.form in ("whole", "real")}
    whole = [(rest, measures) for rest, measures in found.items() if needed <= measures.keys() and len(measures) > 1]
    if len(whole) != 2:
        return None
    later, earlier = whole
    if any(word in later[0] for word in EARLIER):
        later, earlier = earlier, later
    return tuple(Side(_as_written(header, rest, measures), measures) for rest, measures in (later, earlier))  # type: ignore[return-value]


def _rest(name: str, words: Sequence[str]) -> str | None:
    """A header without one of the words: "clicks 1 aug to 31 aug" → "1 aug to 31 aug"; None without such a word."""
    for word in sorted(words, key=len, reverse=True):
        if name == word or name.startswith(f"{word} "):
            return name.removeprefix(word).strip()
        if name.endswith(f" {word}"):
            return name.removesuffix(word).strip()
    return None


def _as_written(header: Sequence[str], rest: str, measures: Mapping[str, int]) -> str:
    """The name of a period's column, with dates as written."""
    return header[next(iter(measures.values()))] if rest else ""


def check_mapping(source: Source, mapping: Mapping[str, int], header: Sequence[str]) -> dict[str, int]:
    """The mapping, if each field and column exists and no column is used twice. Raises Invalid with the problem."""
    known = [field.name for field in FIELDS[source]]
    unknown = [name for name in mapping if name not in known]
    if unknown:
        raise Invalid(f"Unknown field “{unknown[0]}”.", f"Fields: {', '.join(known)}.", "mapping")
    for name, index in mapping.items():
        if not 0 <= index < len(header):
            raise Invalid(f"There is no column {index + 1} for {name}.", f"Columns: {', '.join(header)}.", "mapping")
    twice = [name for name in mapping if list(mapping.values()).count(mapping[name]) > 1]
    if twice:
        raise Invalid(f"One column cannot be {' and '.join(twice)} at once.", "Use each field once.", "mapping")
    return dict(mapping)


def by_names(source: Source, pairs: Sequence[str], header: Sequence[str]) -> dict[str, int]:
    """Columns given by hand, as `field=Header text`."""
    chosen: dict[str, int] = {}
    for pair in pairs:
        name, equals, column = pair.partition("=")
        if not equals or column.strip() not in header:
            raise Invalid(f"“{pair}” names no column of the file.", f"Write FIELD=COLUMN; columns: {', '.join(header)}.", "map")
        chosen[name.strip()] = list(header).index(column.strip())
    return check_mapping(source, chosen, header)


def header_key(header: Sequence[str]) -> str:
    """A digest that identifies a header, whatever the file's name."""
    return hashlib.sha256(json.dumps([plain(name) for name in header]).encode()).hexdigest()
