"""Kinds of tables: a declaration is enough for a new one."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import polars as pl
import pytest

from zugzwang.core.facts import grains
from zugzwang.core.facts.grains import Grain
from zugzwang.data.blocks import read_facts
from zugzwang.data.models import Site
from zugzwang.errors import FileRefused
from zugzwang.intake import kinds
from zugzwang.intake.fields import recognise
from zugzwang.intake.kinds.kind import PAGE_WORDS, Field, Kind
from zugzwang.intake.kinds.making import filled
from zugzwang.intake.loading import load_file
from zugzwang.intake.sources import sources

SPEEDS = Grain("speeds", "speeds", pl.Schema({"page": pl.UInt32(), "seconds": pl.Float64()}), ("page",), when=())
KIND = Kind(
    name="speeds",
    title="Loading times",
    holds="seconds until a page is there",
    needed="loading times",
    order=45,
    grains=(SPEEDS,),
    fields=(
        Field("page", "page", PAGE_WORDS, required=True),
        Field("seconds", "real", ("loading time", "seconds"), required=True),
    ),
    telling=("seconds",),
    rows=filled,
    says=lambda site: "Of one page.",
)


@pytest.fixture
def with_speeds(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """As if it were a module of intake/kinds."""
    monkeypatch.setitem(kinds.KINDS, "speeds", KIND)
    grains.declare("speeds", KIND.grains, served=True)
    yield
    del grains.GRAINS["speeds"]
    grains.SOURCES.remove("speeds")
    grains.SERVED.remove("speeds")


def test_a_declared_kind_is_recognised_loaded_and_shown(site: Site, tmp_path: Path, with_speeds: Any) -> None:
    header = ["URL", "Loading time"]
    assert recognise(header, [["/sea/", "1.2"]])[0] == "speeds"
    path = tmp_path / "speeds.csv"
    path.write_text("URL,Loading time\n/sea/,1.2\n/lake/,0.8\n/river/,x\n")
    with pytest.raises(FileRefused) as refused:
        load_file(site, path, path.name)
    assert refused.value.refusals.first[0].message == "seconds is no number"
    path.write_text("URL,Loading time\n/sea/,1.2\n/lake/,0.8\n")
    report = load_file(site, path, path.name).report
    assert (report.tables[0].source, report.tables[0].loaded) == ("speeds", 2)
    assert read_facts(site, SPEEDS)["seconds"].sort().to_list() == [0.8, 1.2]
    shown = next(one for one in sources(site) if one.source == "speeds")
    assert (shown.rows, shown.says) == (2, "Of one page.")


def test_declarations_are_sound() -> None:
    for kind in kinds.KINDS.values():
        names = [field.name for field in kind.fields]
        assert len(set(names)) == len(names)
        assert {*kind.telling, *kind.made_of, *kind.made_of.values(), *(note for note in kind.notes if note)} <= {*names}
        assert {name for check in kind.checks for name in check.field.split("+")} <= {*names}
        assert all(grains.GRAINS[grain.name] is grain for grain in kind.grains)
        assert all((kind.title, kind.holds, kind.needed))
