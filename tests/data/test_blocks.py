"""Blocks against a plain model: whatever is loaded in whatever order, the blocks equal a dictionary of rows."""

import io
import random
from datetime import date, timedelta
from hashlib import sha256
from importlib import import_module

import polars as pl
import pytest
from django.apps import apps
from hypothesis import Phase, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase

from tests.conftest import keep
from tests.facts import filled
from zugzwang.core.facts.grains import CRAWL_PAGES, NOT_REPORTED, PAGE_QUERY
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.search import SCHEMA
from zugzwang.data import blocks
from zugzwang.data.models import Block, Load, Site

FIRST = date(2026, 1, 25)  # so days fall into three months
Key = tuple[date, int, int]

facts = st.lists(
    st.tuples(
        st.integers(0, 40), st.integers(1, 3), st.integers(1, 3), st.integers(0, 5), st.integers(5, 9), st.integers(1, 99)
    ),
    min_size=1,
    max_size=12,
)
loads = st.lists(st.tuples(facts, st.sampled_from(["replace", "add"])), min_size=1, max_size=5)


def frame(rows: list[tuple[int, ...]]) -> pl.DataFrame:
    dated = [
        (FIRST + timedelta(days=day), page, query, clicks, shown, float(at)) for day, page, query, clicks, shown, at in rows
    ]
    return pl.DataFrame(dated, schema=SCHEMA, orient="row")


def added_up(rows: pl.DataFrame) -> dict[Key, tuple[int, int, float]]:
    """Repeats of a key summed by hand: counts are added, positions weighted by impressions."""
    current: dict[Key, tuple[int, int, float]] = {}
    for day, page, query, clicks, shown, position in rows.iter_rows():
        clicks0, shown0, weighted0 = current.get((day, page, query), (0, 0, 0.0))
        current[day, page, query] = (clicks0 + clicks, shown0 + shown, weighted0 + shown * position)
    return {key: (clicks, shown, weighted / shown) for key, (clicks, shown, weighted) in current.items()}


class BlocksHoldWhatWasLoaded(TestCase):
    @settings(max_examples=40, deadline=None, database=None, phases=[Phase.explicit, Phase.generate])
    @given(loads)
    def test_any_order_of_loads(self, sequence: list[tuple[list[tuple[int, ...]], blocks.Mode]]) -> None:
        site = Site.objects.create(slug="model", name="Model", address="https://model.example")
        model: dict[Key, tuple[int, int, float]] = {}
        written: list[tuple[Load | None, pl.DataFrame, blocks.Mode]] = []
        for rows, days in sequence:
            new = frame(rows)
            rewrite = keep(site, new, days)
            written.append((Load.objects.latest("id") if rewrite.blocks else None, new, days))
            current, on_days = added_up(new), set(new["day"])
            gone = {key for key in model if key[0] in on_days and key not in current}
            if days == "replace":
                assert rewrite.changed.lost == len(gone)
                model = {key: value for key, value in model.items() if key not in gone}
            model |= current
        stored = blocks.read_facts(site, PAGE_QUERY, Period(FIRST, FIRST + timedelta(days=60)), SCHEMA.names())
        assert added_up(stored) == pytest.approx(model)
        assert stored.height == len(model)
        assert blocks.read_days(site, PAGE_QUERY) == sorted({day for day, _, _ in model})
        half = Period(FIRST + timedelta(days=10), FIRST + timedelta(days=20))
        in_half = {key for key in model if half.first <= key[0] <= half.last}
        assert set(added_up(blocks.read_facts(site, PAGE_QUERY, half, SCHEMA.names()))) == in_half
        assert sum(Block.objects.filter(site=site).values_list("rows", flat=True)) == len(model)
        self.taking_one_back_is_as_if_it_had_never_been(site, written)

    def taking_one_back_is_as_if_it_had_never_been(
        self, site: Site, written: list[tuple[Load | None, pl.DataFrame, blocks.Mode]]
    ) -> None:
        gone = len(written) // 2
        taken = written[gone][0]
        if taken is None:
            return  # it changed nothing, so there is nothing to undoes
        blocks.undo(site, taken, blocks.prepare_without(site, taken), None)
        again = Site.objects.create(slug="again", name="Again", address="https://again.example")
        for number, (load, rows, mode) in enumerate(written):
            if number != gone and load is not None:
                keep(again, rows, mode)
        theirs, ours = (blocks.read_facts(one, PAGE_QUERY).to_dicts() for one in (site, again))
        assert theirs == ours


def test_a_write_that_was_overtaken_is_told_and_leaves_nothing(site: Site) -> None:
    ours = blocks.prepare(site, [(PAGE_QUERY, filled(frame([(0, 1, 1, 0, 5, 1)])))], "replace")
    keep(Site.objects.get(id=site.id), frame([(1, 1, 1, 0, 5, 1)]))
    with pytest.raises(blocks.OvertakenError):
        blocks.write(site, ours, {"search": Load(site=site, source="search", name="ours")})
    assert blocks.read_days(site, PAGE_QUERY) == [FIRST + timedelta(days=1)]


def test_blocks_from_before_loads_were_kept_outlive_what_is_taken_back(site: Site) -> None:
    """The third migration: without it, undoing a later load would remove the old facts."""
    migration = import_module("zugzwang.data.migrations.0003_loads_of_old_blocks")
    keep(site, frame([(0, 1, 1, 0, 5, 1), (40, 1, 1, 0, 7, 1)]))
    Load.objects.all().delete()
    migration.give_old_blocks_a_load(apps, None)
    keep(site, frame([(0, 1, 1, 0, 99, 1)]))
    later = Load.objects.latest("id")
    blocks.undo(site, later, blocks.prepare_without(site, later), None)
    assert blocks.read_facts(site, PAGE_QUERY)["impressions"].to_list() == [5, 7]


def test_every_flipped_bit_is_noticed_and_healed(site: Site) -> None:
    """60 random bit flips: each block is rebuilt from its load's rows; where no load has them, it is reported."""
    chance = random.Random(7)
    rows = [(day, page, 1, page % 3, 5 + page, 1.5) for day in range(40) for page in range(9)]
    keep(site, frame([(*row[:5], int(row[5])) for row in rows]))
    whole = blocks.read_facts(site, PAGE_QUERY)
    for _ in range(60):
        block = chance.choice(list(Block.objects.filter(site=site)))
        broken = bytearray(block.payload)
        broken[chance.randrange(len(broken))] ^= 1 << chance.randrange(8)
        Block.objects.filter(id=block.id).update(payload=bytes(broken))
        assert blocks.read_facts(site, PAGE_QUERY).equals(whole)
        assert bytes(Block.objects.get(id=block.id).payload) == block.payload
    Load.objects.all().delete()
    Block.objects.filter(id=block.id).update(payload=bytes(broken))
    with pytest.raises(blocks.Damaged, match="are damaged on disk"):
        blocks.read_facts(site, PAGE_QUERY)


def test_a_column_that_came_after_a_block_is_not_known_in_it(site: Site) -> None:
    """Not 0, which would be a number; not an empty list either. Device and country say "not reported"."""
    keep(site, frame([(0, 1, 1, 0, 5, 1)]))
    pages = pl.DataFrame({"address": ["https://shop.example/"], "headings": [["h1 Shop"]], "words": [3]})
    keep(site, pages, grain=CRAWL_PAGES)
    for grain, then in ((PAGE_QUERY, ["day", "page", "query", "clicks"]), (CRAWL_PAGES, ["address", "status"])):
        block = Block.objects.get(site=site, grain=grain.name)
        payload = io.BytesIO()
        pl.read_parquet(io.BytesIO(block.payload)).select(then).write_parquet(payload)
        Block.objects.filter(id=block.id).update(payload=payload.getvalue(), checksum=sha256(payload.getvalue()).hexdigest())
    row = blocks.read_facts(site, PAGE_QUERY).to_dicts()[0]
    assert (row["clicks"], row["impressions"], row["position"]) == (0, None, None)
    assert (row["device"], row["country"]) == (NOT_REPORTED, NOT_REPORTED)
    page = blocks.read_facts(site, CRAWL_PAGES).to_dicts()[0]
    assert (page["address"], page["headings"], page["words"]) == ("https://shop.example/", None, None)
    keep(site, pages.with_columns(address=pl.lit("https://shop.example/new")), "add", CRAWL_PAGES)
    assert blocks.read_facts(site, CRAWL_PAGES).sort("address")["headings"].to_list() == [None, ["h1 Shop"]]
