"""Which of a file's columns is which field of a kind of table (intake/kinds), and which kind a table is.

Columns are suggested from the words in the header first, then, for required fields without a matching word, from the
values. An analyst's own choice is remembered by header (`ColumnMemory`).
"""

import hashlib
import json
import re
import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from zugzwang.core.facts.grains import Source
from zugzwang.errors import Invalid
from zugzwang.intake.header_words import DIFFERENCE, EARLIER
from zugzwang.intake.kinds import KINDS
from zugzwang.intake.kinds.kind import Field, Form


def plain(header: str) -> str:
    """A header in lower case without accents, with single spaces: "Avg. Position" → "avg position"."""
    return " ".join(re.findall(r"[^\W_]+", bare_letters(header).casefold()))


def bare_letters(text: str) -> str:
    """A text without accents: "Requêtes" → "Requetes"."""
    return "".join(letter for letter in unicodedata.normalize("NFKD", text) if not unicodedata.combining(letter))


def field_of(source: Source, name: str) -> Field:
    return next(field for field in KINDS[source].fields if field.name == name)


def required(source: Source) -> list[str]:
    return [field.name for field in KINDS[source].fields if field.required]


def missing(source: Source, mapping: Mapping[str, int]) -> list[str]:
    values = {*mapping, *(made for made, of in KINDS[source].made_of.items() if of in mapping)}
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
    for field in KINDS[source].fields:
        free = [[name if index not in found.values() else "" for index, name in enumerate(entry)] for entry in (names, firsts)]
        named = [entry.index(word) for word in field.every_word for entry in free if word in entry]
        fitting = [one for one in named if _can_be(field, one, samples)]
        if fitting:  # of several the one with the most values, otherwise by name
            found[field.name] = max(fitting, key=lambda one: _filled(field, one, samples))
    for field in KINDS[source].fields:
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
        telling = sum(name in mapping for name in KINDS[source].telling)
        return not missing(source, mapping), telling, len(mapping)

    fits = {source: fit(source) for source in KINDS if KINDS[source].fields}
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
    known = {word for field in KINDS[source].fields for word in field.every_word}
    found: dict[str, dict[str, int]] = {}
    for field in KINDS[source].fields:
        if field.form not in ("whole", "real", "share"):
            continue
        for index, name in enumerate(names):
            # "Engaged sessions" is a measure, not sessions of a period called "engaged".
            rest = _rest(name, field.every_word) if name not in known or name in field.every_word else None
            if rest is not None and not any(word in f" {rest} " for word in (f" {word} " for word in DIFFERENCE)):
                found.setdefault(rest, {}).setdefault(field.name, index)
    needed = {field.name for field in KINDS[source].fields if field.required and field.form in ("whole", "real")}
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
    known = [field.name for field in KINDS[source].fields]
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
