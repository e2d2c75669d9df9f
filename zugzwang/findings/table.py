"""The one path from a finding to its answer: find (cached), filter, sort, paginate, name."""

from dataclasses import dataclass, replace
from datetime import date
from functools import cached_property, partial
from typing import Any

import polars as pl

from zugzwang.core.words import sentences
from zugzwang.core.words.examples import example
from zugzwang.data.cache import store
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid
from zugzwang.findings.columns import POSITIONS
from zugzwang.findings.finding import NAMED, Finding, Found
from zugzwang.findings.view import NOTHING, View, ViewOptions, settle, span_of


@dataclass(frozen=True)
class Answer:
    """A finding's answer for a snapshot: the view, the result, and the filtered rows, in the finding's order."""

    finding: Finding
    view: View
    found: Found
    rows: pl.DataFrame

    @property
    def sentences(self) -> list[str]:
        return self.finding.says(self.view, self.found, self.rows, self.extras)

    @property
    def lacking(self) -> list[str]:
        return [*self.found.lacking, *self._without_pages(), *self.view.not_used(self.finding.looks_at)]

    def _without_pages(self) -> list[str]:
        """What to load where a finding needs pages and none are known."""
        of_pages = any(one.kind == "page" and not one.null for one in self.finding.columns) and not self.finding.plan
        finest = self.view.snapshot.facts.finest(self.view.period)
        return [sentences.needs_rows(finest)] if of_pages and finest == "query" else []

    @cached_property
    def extras(self) -> dict[str, Any]:
        """The further values for the filtered rows."""
        own = self.finding.extras(self.view, self.found, self.rows) if self.finding.extras else {}
        return {name: value for name, value in {**self.found.more, **own}.items() if name in self.finding.more}

    def sorted(self, sort: str, descending: bool) -> pl.DataFrame:
        """The rows by a column, nulls last, ties in the finding's order. Raises Invalid with the columns to sort by."""
        if not sort:
            return self.rows
        if sort not in self.finding.sorts or sort not in self.rows.columns:
            known = ", ".join(name for name in self.finding.sorts if name in self.rows.columns)
            raise Invalid(f"The rows have no column “{sort}” to be sorted by.", f"Columns: {known}.", "sort")
        rows, by = self.rows, pl.col(sort)
        column = self.finding.column(sort)
        if column is not None and column.kind in NAMED:
            rows = rows.with_columns(_text_of(self.view.snapshot, rows[sort], column.kind).alias("sorted by"))
            by = pl.col("sorted by").str.to_lowercase()
        elif rows.schema[sort] == pl.String:
            by = by.str.to_lowercase()
        elif isinstance(rows.schema[sort], pl.Enum):
            by = by.to_physical()
        return rows.sort(by, descending=descending, nulls_last=True, maintain_order=True).drop("sorted by", strict=False)

    def window(
        self, sort: str = "", descending: bool = True, offset: int = 0, limit: int | None = None
    ) -> list[dict[str, Any]]:
        """Rows `offset` to `offset + limit` as returned, each with its `key`."""
        return self._returned(self.sorted(sort, descending).slice(offset, limit))

    def _returned(self, rows: pl.DataFrame) -> list[dict[str, Any]]:
        return returned_rows(self.view, self.finding, rows).with_columns(self.finding.keys(rows)).to_dicts()

    def picked(self, key: str, sort: str = "", descending: bool = True) -> dict[str, Any] | None:
        """The row with a key, its index in the order, and the rule applied to it; None where it is not among the rows."""
        rows = self.sorted(sort, descending)
        found = (self.finding.keys(rows) == key).arg_true()
        if not found.len():
            return None
        row = self._returned(rows[int(found[0])])[0]
        return {"place": int(found[0]), "row": row, "example": example(self.finding.name, row)}

    def shown(
        self, sort: str = "", descending: bool = True, offset: int = 0, limit: int | None = None, key: str = ""
    ) -> dict[str, Any]:
        """The whole answer for a place, with a page of its rows, and the row of a key."""
        return {
            **self.extras,
            **self.view.periods(),
            "sentences": self.sentences,
            "behind": self.found.behind,
            "lacking": self.lacking,
            "month_share": self.view.month_share,
            "total": self.rows.height,
            "offset": offset,
            "rows": self.window(sort, descending, offset, limit),
            "picked": self.picked(key, sort, descending) if key else None,
        }

    def whole(self) -> pl.DataFrame:
        """All rows as a file has them."""
        return returned_rows(self.view, self.finding, self.rows)


def ask(snapshot: Snapshot, finding: Finding, options: ViewOptions, today: date) -> Answer:
    """The answer to a finding. Raises NotFound for a site without data, Invalid for a request for something that does not
    exist.
    """
    options = replace(options, by=options.by or finding.by)
    view = settle(snapshot, options, today, finding.compare, finding.branded, finding.all_weeks)
    found = find(view, finding)
    rows = found.rows
    for name in finding.chooses:
        if getattr(view.options, name) != getattr(NOTHING, name):
            rows = _chosen(view, finding, name, rows)
    return Answer(finding, view, found, rows)


def find(view: View, finding: Finding) -> Found:
    """All rows of a finding, cached under the fields it depends on."""
    seen = view.only(finding.makes)
    if finding.plan:
        return finding.find(seen)
    options = (f"finding {finding.name}", seen.question)
    return store().get(view.key, options, lambda: finding.find(seen), partial(_find_again, seen, finding.name))


def _find_again(view: View, name: str) -> Found:
    """The same in another process, which gets the finding's name."""
    from zugzwang.findings.registry import FINDINGS  # it imports all findings, which import this module

    return find(view, FINDINGS[name])


def _chosen(view: View, finding: Finding, name: str, rows: pl.DataFrame) -> pl.DataFrame:
    """The rows left by one filter of the view."""
    if name in finding.choose:
        return finding.choose[name](view, rows)
    options = view.options
    if name == "evidence":
        return rows.filter(pl.col("evidence").cast(pl.String).is_in(list(options.evidence)))
    if name in POSITIONS:
        return view.at_positions(rows)
    if name == "decided" and finding.decided is not None:
        done = finding.decided(view, rows)
        return rows.filter(done if options.decided == "settled" else ~done)
    return view.only((name, "compare")).chosen(rows)


def returned_rows(view: View, finding: Finding, rows: pl.DataFrame) -> pl.DataFrame:
    """Rows as returned: with late columns, texts in addition to ids, columns in the declared order."""
    if finding.dress is not None:
        rows = finding.dress(view, rows)
    columns: list[pl.Series] = []
    for column in finding.columns:
        if not column.included(view.options, view.before is not None) or column.name not in rows.columns:
            continue
        current = rows[column.name]
        if column.kind in NAMED:
            columns += [_text_of(view.snapshot, current, column.kind).alias(column.name), current.alias(f"{column.name}_id")]
        else:
            columns.append(current)
    return pl.DataFrame(columns)


def _text_of(snapshot: Snapshot, ids: pl.Series, kind: str) -> pl.Series:
    """The texts of pages or queries, in the order of their ids."""
    name = "page" if kind == "page" else "query"
    return snapshot.names.named(ids.alias(name).to_frame(), (name,))[name]


def whole_file(answer: Answer) -> dict[str, Any]:
    """The complete answer with what a reader needs to judge it, for the command line and exports. `rows` is a frame."""
    view, finding = answer.view, answer.finding
    filters = view.filters(finding.looks_at)
    return {
        "lens": finding.name,
        "site": view.site.slug,
        "period": span_of(view.period),
        "compared_with": filters["compared_with"],
        "filters": filters,
        "sentences": answer.sentences,
        "behind": answer.found.behind,
        "missing": view.missing(),
        "lacking": answer.lacking,
        **answer.extras,
        "rows": answer.whole(),
    }


def made_by(found: dict[str, Any]) -> dict[str, Any]:
    """A description of a list, to be written into its file."""
    names = ("site", "lens", "period", "compared_with", "sentences", "missing", "lacking")
    return {**{name: found[name] for name in names}, **found["filters"]}
