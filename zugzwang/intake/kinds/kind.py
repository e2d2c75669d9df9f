"""What a kind of table is: one declaration, from which everything else about it follows.

The order of recognition, the fields and their header words, how rows become facts, the checks of a row, what the product says
of it, docs/files.md, the API's choices and the front end's labels: all come from the `Kind` in its module.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import TYPE_CHECKING, Literal

import polars as pl

from zugzwang.core.facts.grains import Grain
from zugzwang.intake.header_words import OTHER_WORDS

if TYPE_CHECKING:
    from zugzwang.data.models import Site

# How a field is written: its reader in `values.py`.
Form = Literal[
    "day", "page", "query", "text", "whole", "real", "share", "yes", "placement", "device", "country", "channel", "volume",
    "status",
]  # fmt: skip


@dataclass(frozen=True)
class Field:
    """A field of a source: its name, header words (plain, most common first), how it is written. `concept`: the key of its
    words in other languages; `may_be_empty`: rows may lack it though the table must have the column; `says`: its name
    on screens, where that is not its own.
    """

    name: str
    form: Form
    words: tuple[str, ...]
    required: bool = False
    least: float | None = 0  # the smallest possible number
    concept: str = ""
    may_be_empty: bool = False
    says: str = ""

    @property
    def label(self) -> str:
        """Its name on screens."""
        return self.says or self.name.replace("_", " ")

    @property
    def every_word(self) -> tuple[str, ...]:
        return (*self.words, *OTHER_WORDS.get(self.concept or self.name, ()))


DAY_WORDS = ("day", "date", "datum")
MONTH_WORDS = ("month", "year month", "month of year", *OTHER_WORDS["month"])
PAGE_WORDS = (
    "page", "address", "url", "landing page", "page url", "page address", "page path", "pages",
    "top pages", "landing page path", "full address", "full url",
)  # fmt: skip
QUERY_WORDS = ("query", "search term", "keyword", "term", "search query", "queries", "top queries", "keywords", "search terms")
LANDING_WORDS = (
    "landing page",
    "landing page query string",
    "landing page path",
    "entry page",
    "entrance page",
    *OTHER_WORDS["landing"],
    *PAGE_WORDS,
)
CHANNEL_WORDS = (
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
LINKING_WORDS = (
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
LINKED_WORDS = ("to", "to address", "target", "target url", "target page", "linked page", "destination", *PAGE_WORDS)
DEVICE = Field("device", "device", ("device", "device category", "devices", "device type"))
COUNTRY = Field("country", "country", ("country", "countries", "region", "location", "country code"))


ROW = "row"  # the column with the number of a row in its file


@dataclass(frozen=True)
class Check:
    """A reason to refuse a row, in terms of the typed columns, and what its owner can do about it."""

    field: str
    bad: pl.Expr
    message: str
    remedy: str
    of_text: bool = False  # applies to a text wherever it occurs


@dataclass(frozen=True)
class DayLoaded:
    """A day of a source: its rows and its measure (clicks or sessions)."""

    day: date
    rows: int
    measure: int


@dataclass(frozen=True)
class GrainLoaded:
    """A grain of search facts, or the single table of another source."""

    name: str
    rows: int
    first_day: date | None
    last_day: date | None
    days: list[DayLoaded]
    missing: list[date]
    clicks: int | None = None
    withheld_clicks: int | None = None  # totals minus named queries: the anonymised ones


@dataclass(frozen=True)
class Unsound:
    """A problem that an analyst should check before trusting the source: in words, with examples."""

    message: str
    remedy: str
    examples: list[str] = field(default_factory=list)
    count: int = 0


@dataclass
class Assembled:
    """The rows of a file as one grain's table, and the number of rows left out."""

    grain: Grain
    rows: pl.DataFrame
    page_texts: pl.Series
    new_pages: int = 0
    never_shown: int = 0
    own_visits: int = 0
    ctr_differs: int = 0
    ctr_differs_first: int | None = None
    of_no_page: int = 0
    of_own_site: int = 0
    of_other_sites: int = 0


@dataclass(frozen=True)
class Making:
    """What rows are made for: the site, its own networks, the channel of a file without one, and whether new texts are kept.
    `made` counts what is left out.
    """

    site: "Site"
    made: Assembled
    own_networks: Sequence[str] = ()
    channel: str | None = None
    keep: bool = True


Rows = Callable[[pl.DataFrame, Making], pl.DataFrame]


def _nothing(site: "Site") -> str:
    return ""


def _sound(site: "Site", grains: Sequence[GrainLoaded]) -> list[Unsound]:
    return []


@dataclass(frozen=True)
class Kind:
    """A kind of table.

    `name`: in the API and on the command line; `title`, `holds`: on screens; `needed`: in "also possible with …"; `order`:
    among all kinds. `grains`: its tables, without span totals; none where the rows are no facts. `fields`: its columns;
    `telling`: those that no other kind has, by which it is recognised; `made_of`: fields that can be computed from others.
    `checks`: over several fields of a row; a check's `field` joins their names with "+". `with_ids`: whether pages and queries
    get ids. `leave_out`: removes rows before that. `rows`: makes the columns of the grain. `says`: what a site has of it, in a
    sentence; `unsound`: its problems; `count`: its rows, where they are no facts. `served`: a service can provide it.
    `notes`: docs/files.md on a field, and on the kind under "".
    """

    name: str
    title: str
    holds: str
    needed: str
    order: int
    grains: tuple[Grain, ...] = ()
    fields: tuple[Field, ...] = ()
    telling: tuple[str, ...] = ()
    made_of: Mapping[str, str] = field(default_factory=dict)
    checks: tuple[Check, ...] = ()
    with_ids: bool = True
    leave_out: Rows | None = None
    rows: Rows | None = None
    says: Callable[["Site"], str] = _nothing
    unsound: Callable[["Site", Sequence[GrainLoaded]], list[Unsound]] = _sound
    count: Callable[["Site"], int] | None = None
    served: bool = True
    notes: Mapping[str, str] = field(default_factory=dict)

    @property
    def has_spans(self) -> bool:
        """Whether a table without days is totals of a span."""
        return any(grain.dated for grain in self.grains)
