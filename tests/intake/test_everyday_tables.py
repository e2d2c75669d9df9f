"""Typical files are recognised for what they are, with at most the one necessary question."""

from pathlib import Path

import pytest

from tests.intake.everyday_tables import SPAN, TABLES, Everyday
from zugzwang.core.facts.grains import GRAINS, OF_SPANS
from zugzwang.core.facts.periods import Period
from zugzwang.data.blocks import read_facts, read_spans
from zugzwang.data.models import Event, Site
from zugzwang.errors import FileRefused
from zugzwang.intake.loading import Loaded, LoadOptions, TableRequest, load_file
from zugzwang.intake.tables import Choices


def load(site: Site, folder: Path, table: Everyday, span: Period | None, dry_run: bool = False) -> Loaded:
    path = folder / "upload"
    path.write_bytes(table.bytes)
    request = {0: TableRequest(choices=Choices(span=span))} if span else {}
    return load_file(site, path, table.name, request=LoadOptions(request, dry_run=dry_run))


@pytest.mark.parametrize("table", TABLES, ids=lambda table: table.name)
def test_it_becomes_what_it_is(site: Site, tmp_path: Path, table: Everyday) -> None:
    if table.span is not None:
        with pytest.raises(FileRefused, match="nothing was loaded") as refused:
            load(site, tmp_path, table, None)
        assert "which period it covers" in str(refused.value.refusals.first[0])
    tried = load(site, tmp_path, table, table.span, dry_run=True).report
    report = load(site, tmp_path, table, table.span).report
    assert (tried.rows_new, tried.rows_lost, tried.notices) == (report.rows_new, report.rows_lost, report.notices)

    frame = {name: read_facts(site, grain).height for name, grain in GRAINS.items()}
    frame["events"] = Event.objects.filter(site=site).count()
    assert {name: rows for name, rows in frame.items() if rows} == table.becomes
    spans = {span for name in OF_SPANS for span in read_spans(site, GRAINS[name])}
    assert spans == set(table.reads)
    assert table.says in " ".join(report.notices)
    for name, value in table.holds.items():
        grain = GRAINS[next(iter(table.becomes))]
        assert read_facts(site, grain).row(0, named=True)[name] == pytest.approx(value)


def test_amounts_bring_their_currency_with_them(site: Site, tmp_path: Path) -> None:
    in_euros, in_dollars = (next(one for one in TABLES if one.name == f"volumes{name}.csv") for name in ("", " dollars"))
    load(site, tmp_path, in_euros, None)
    site.refresh_from_db()
    assert site.currency == "€"
    assert "in $, those of the site in €" in " ".join(load(site, tmp_path, in_dollars, None).report.notices)


def test_the_same_span_replaces_and_another_stands_beside(site: Site, tmp_path: Path) -> None:
    queries = TABLES[0]
    load(site, tmp_path, queries, SPAN)
    assert not load(site, tmp_path, queries, SPAN).report.changed
    other = Period(SPAN.first, SPAN.last.replace(day=14))
    load(site, tmp_path, queries, other)
    assert read_spans(site, GRAINS["query"]) == [SPAN, other]
    assert read_facts(site, OF_SPANS["query"]).height == 8


def test_links_of_other_sites_are_no_links_between_pages(site: Site, tmp_path: Path) -> None:
    path = tmp_path / "links.csv"
    path.write_text("Source,Destination\nhttps://other.example/a,https://shop.example/kayak/\n")
    with pytest.raises(FileRefused) as refused:
        load_file(site, path, "links.csv", request=LoadOptions({0: TableRequest(source="page-links")}))
    assert "all its links are on pages of other sites" in str(refused.value.refusals.first[0])
