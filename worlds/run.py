"""The claims of the rules on simulated sites: `make worlds` writes the table of docs/methods.md. Each world has `SEEDS` seeds.
Each figure has its 95 % interval: counts from the scatter between seeds, shares after Wilson.
"""

import re
import subprocess
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from worlds import breaks as breaks_worlds
from worlds import changes as changes_worlds
from worlds import clashes as clashes_worlds
from worlds import outcomes as outcomes_worlds
from worlds.breaks import HALVED
from worlds.breaks import WORLDS as BREAKLESS
from worlds.lenses import CLICKED, DAYS, MOVING, NULL, PLANTED, SMALL, Made, World, clicks_there, curve, make, true_gains
from worlds.trials import beside_the_untouched, randomised, sides_of
from zugzwang.core.clicks.click_curve import own_curve
from zugzwang.core.clicks.evidence import GRADES, SURE, wilson_interval
from zugzwang.core.clicks.headroom import target_position
from zugzwang.core.clicks.lenses import Appraisal, Lens, appraise, look, stakes
from zugzwang.core.contest.clashes import contenders_of, find_clashes
from zugzwang.core.pages.account import accounts, entries
from zugzwang.core.time.breaks import breaks, read_series
from zugzwang.core.time.change import change
from zugzwang.core.worth.outcomes import outcome

SEEDS = 10
SMALL_SITES = 60
TRIED_SITES, TRIED_PAGES = 400, 20
FLOOR = 100
TELLS = 20.0  # expected clicks of the rows of which the power is reported
DOCS = Path(__file__).parent.parent / "docs" / "methods.md"
NO_BRAND = pl.Series([], dtype=pl.UInt32)
_PLACES = (1.0, 2.0, 3.0, 5.0, 8.0, 10.0, 11.0, 20.0, 50.0, 100.0)
TRUE_CURVE = own_curve([(place, float(curve(np.array([place]))[0])) for place in _PLACES])
_MARKS = ("<!-- worlds -->\n", "<!-- /worlds -->\n")


def sure(current: Appraisal, lens: Lens) -> set[int]:
    """The rows claimed firm or likely."""
    rows = look(current, lens, FLOOR)
    return set(rows.filter(pl.col("evidence").cast(pl.String).is_in(SURE))["query"])


def a_site(counts: Sequence[int]) -> str:
    """The mean count per site, with its interval."""
    reach = 1.96 * float(np.std(counts, ddof=1)) / np.sqrt(len(counts))
    return f"{np.mean(counts):.1f} ± {reach:.1f}"


def share(some: int, of: int) -> str:
    if of == 0:
        return "–"
    low, high = wilson_interval(np.array([some]), np.array([of]))
    return f"{some / of:.2f} ({low[0]:.2f} to {high[0]:.2f})"


def _nothing_planted(world: World) -> list[str]:
    current = [appraise(make(world, seed).facts, NO_BRAND) for seed in range(SEEDS)]
    claims = [a_site([len(sure(one, lens)) for one in current]) for lens in ("outperformers", "low-ctr")]
    return [*claims, _graded(current)]


def _graded(sites: Sequence[Appraisal]) -> str:
    """The share of pages with ten rows each that are called firm or likely to lose clicks."""
    pages = [_accounts(one) for one in sites]
    graded = sum(page.filter(pl.col("evidence").cast(pl.String).is_in(SURE)).height for page in pages)
    return share(graded, sum(page.height for page in pages))


def _ordered(world: World) -> list[str]:
    """The true gain of the first twenty pages over that of the best twenty: in the order of the list, and by lost clicks
    alone.
    """
    result = np.zeros((2, SEEDS))
    for seed in range(SEEDS):
        made = make(world, seed)
        pages = _accounts(appraise(made.facts, NO_BRAND))
        lost, potential = (np.bincount(np.arange(world.rows) // 10, gain) for gain in true_gains(made))
        for number, (by, true) in enumerate((("gain", lost + potential), ("lost_cautious", lost))):
            first = pages.sort(by, descending=True)["page"].head(20).to_numpy()
            result[number, seed] = true[first].sum() / np.sort(true)[-20:].sum()
    return [f"{one.mean():.2f} ± {1.96 * one.std(ddof=1) / np.sqrt(SEEDS):.2f}" for one in result]


def _accounts(site: Appraisal) -> pl.DataFrame:
    """The accounts of pages with ten rows each, without clashes."""
    contested = pl.DataFrame(
        schema=dict.fromkeys(["page", "query"], pl.UInt32) | dict.fromkeys(["loss", "loss_cautious"], pl.Float64)
    )
    contested = contested.with_columns(lead=pl.lit(True), clash_evidence=pl.lit("too little data").cast(pl.Enum(GRADES)))
    return accounts(entries(stakes(site, FLOOR).with_columns(page=pl.col("query") // 10), contested))


def _contested(world: clashes_worlds.World) -> list[str]:
    called = 0
    for seed in range(SEEDS):
        made = clashes_worlds.make(world, seed)
        found = find_clashes(made.facts, contenders_of(made.facts, 0), TRUE_CURVE, made.people)
        called += found.queries.filter(pl.col("kind") != "double listing").height
    return ["yes" if world.fight else "no", share(called, SEEDS * clashes_worlds.QUERIES)]


def _planted(world: World) -> list[str]:
    found = there = claimed = false = third = real = 0
    for seed in range(SEEDS):
        made: Made = make(world, seed)
        current = appraise(made.facts, NO_BRAND)
        telling = current.rows.filter(pl.col("impressions") >= FLOOR, pl.col("expected_clicks") >= TELLS)["query"]
        every = set(np.flatnonzero(made.poor).tolist())
        rows = look(current, "low-ctr", FLOOR)
        told = set(rows.filter(pl.col("probability").is_between(0.25, 0.45))["query"])
        poor, called = every & set(telling), sure(current, "low-ctr")
        found, there = found + len(called & poor), there + len(poor)
        claimed, false = claimed + len(called), false + len(called - every)
        third, real = third + len(told), real + len(told & every)
    return [share(found, there), share(false, claimed), share(real, third)]


def _moved(world: World) -> list[str]:
    """Forecast over truth for striking-distance rows that do improve: all rows, the tenth with most impressions, rows below
    the curve; and how often the cautious forecast holds.
    """
    frame: list[pl.DataFrame] = []
    for seed in range(SEEDS):
        made = make(world, seed)
        rows = look(appraise(made.facts, NO_BRAND), "striking-distance", FLOOR)
        target = target_position(rows["position"].to_numpy(), "next-band")
        row = rows["query"].to_numpy().astype(np.intp)
        got = clicks_there(made, row, target, seed)
        now = DAYS * made.daily[row] * curve(made.home[row]) * made.factor[row]
        frame.append(rows.with_columns(got=pl.Series(got - now)))
    rows = pl.concat(frame)
    large = pl.col("impressions") >= pl.col("impressions").quantile(0.9)
    groups = (rows, rows.filter(large), rows.filter(pl.col("shortfall") > 0))
    cautious = rows.filter(pl.col("potential_cautious") > 0)
    known_rows = cautious.filter(pl.col("got") >= pl.col("potential_cautious")).height
    ratios = [f"{float(one['potential'].sum()) / float(one['got'].sum()):.2f}" for one in groups]
    return [*ratios, share(known_rows, cautious.height)]


def _small(world: World) -> list[str]:
    claims = 0
    for seed in range(SMALL_SITES):
        current = appraise(make(world, 1_000 + seed).facts, NO_BRAND)
        claims += bool(sure(current, "outperformers") or sure(current, "low-ctr"))
    return [share(claims, SMALL_SITES)]


def _nothing_done(world: outcomes_worlds.World) -> list[str]:
    """How often a move without effect is called a success: without the year before, and with it."""
    result = []
    for with_year in (False, True):
        helped = there = 0
        for seed in range(SEEDS):
            made = outcomes_worlds.make(world, seed)
            sides = sides_of(made)
            if not with_year:
                sides = sides.with_columns(pl.col("^.*_year_.*$") * None)
            for unit in made.picked:
                found = outcome(sides, int(unit), [], 28, 1 / 3)
                there += 1
                helped += found is not None and found.evidence != "too little data" and found.result_clicks > 0
        result.append(share(helped, there))
    return result


def _tried(world: outcomes_worlds.World) -> list[str]:
    """Tests with controls, randomised or not: how many without effect are called, how many intervals contain the true effect,
    and how many effects of the detectable size are called.
    """
    result = []
    for tried in (beside_the_untouched, randomised):
        none, some = ([tried(world, seed, TRIED_PAGES, raised) for seed in range(TRIED_SITES)] for raised in (0.0, 1.0))
        called = [sum(one.p_value <= 0.05 for one, _ in entry) for entry in (none, some)]
        hold = sum(one.low <= there <= one.high for one, there in (*none, *some))
        result += [share(called[0], TRIED_SITES), share(hold, 2 * TRIED_SITES), share(called[1], TRIED_SITES)]
    return result


def _split(world: changes_worlds.World) -> list[str]:
    """The shares of lost clicks attributed to impressions, to rank or demand, and to rankings."""
    result = []
    for seed in range(SEEDS):
        made = changes_worlds.make(world, seed)
        rows = change(made.before, made.after, 10.0)
        lost = float((rows["clicks_after"].cast(pl.Int64) - rows["clicks_before"].cast(pl.Int64)).sum())
        result.append([float(rows[part].sum()) / lost for part in ("shown", "rank_or_demand", "rank")])
    shares = np.array(result)
    reach = 1.96 * shares.std(axis=0, ddof=1) / np.sqrt(SEEDS)
    return [f"{mean:.2f} ± {far:.2f}" for mean, far in zip(shares.mean(axis=0), reach, strict=True)]


def _chosen(world: World) -> list[str]:
    current = [appraise(make(world, seed).facts, NO_BRAND) for seed in range(SEEDS)]
    return [share(sum(one.chosen is not None for one in current), SEEDS)]


def _breakless(world: breaks_worlds.World) -> list[str]:
    made = [breaks_worlds.make(world, seed).weekly for seed in range(SEEDS)]
    return [a_site([breaks(read_series(weekly, range(breaks_worlds.WEEKS))).height for weekly in made])]


def _halved(world: breaks_worlds.World) -> list[str]:
    found = there = 0
    for seed in range(SEEDS):
        made = breaks_worlds.make(world, seed)
        falls = breaks(read_series(made.weekly, range(breaks_worlds.WEEKS))).filter(pl.col("size") < 0)
        for page, at in made.broke.items():
            there += 1
            found += any(abs(week - at) <= 2 for week in falls.filter(pl.col("name") == page)["week"])
    return [share(found, there)]


Rows = list[tuple[str, list[str]]]


def _table(title: str, heads: Sequence[str], worlds: Sequence[Any], measure: Callable[[Any], list[str]]) -> str:
    rows: Rows = []
    for world in worlds:
        rows.append((world.name, measure(world)))
        print(title, *rows[-1], flush=True)
    lines = [f"| {' | '.join(heads)} |", f"|{'---|' * len(heads)}"]
    return "\n".join([*lines, *(f"| {' | '.join([name, *entry])} |" for name, entry in rows)])


def trials_part() -> list[str]:
    heads = [f"{how}: {what}" for how in ("before/after", "randomised") for what in ("called", "interval holds", "power")]
    return [
        "### Trials",
        f"Trials of {TRIED_PAGES} pages picked as people pick (randomised: half of them are changed), on {TRIED_SITES} "
        "sites each: share called at 5 % without a change, share of 95 % intervals that hold the truth, and share called "
        "at the effect announced as detectable in 80 of 100 cases.",
        _table("tried", ["world", *heads], outcomes_worlds.WORLDS, _tried),
    ]


def main() -> None:
    commit = subprocess.run(["git", "rev-parse", "--short", "HEAD"], capture_output=True, text=True, check=True).stdout.strip()
    parts = [
        f"Measured by `make worlds` on {datetime.now(UTC).date()}, commit {commit}; {SEEDS} sites a world.",
        "### Evidence",
        "Nothing planted, 1,500 rows in 91 days: rows claimed per site, and the share of pages with ten rows each graded "
        "firm or likely.",
        _table("null", ["world", "outperformers", "low click-through", "pages graded"], NULL, _nothing_planted),
        f"3 % of rows at a quarter of their clicks: how many of those with {TELLS:.0f} usual clicks or more are found, "
        "what share of all that is claimed was not planted, and how many of the rows told about 1 in 3 were planted.",
        _table("planted", ["world", "found", "false", "of 1 in 3"], PLANTED, _planted),
        f"Small sites of 25 rows, nothing planted ({SMALL_SITES} sites): share with any claim.",
        _table("small", ["world", "any claim"], SMALL, _small),
        "Files of clicked rows only, and complete files: share reported as selected by clicks.",
        _table("chosen", ["world", "reported"], CLICKED, _chosen),
        "### Lost and potential clicks",
        "Rows at 4 to 20 that really move to their targets: forecast over actual gain, of all rows, of the tenth with "
        "most impressions, and of rows below the curve. Last: how often they gain what the cautious forecast says.",
        _table("moved", ["world", "all", "large", "below the curve", "cautious forecast held"], MOVING, _moved),
        "### The account of a page",
        "Pages of ten rows, 3 % of the rows at a quarter of their clicks: the true gain of the first twenty pages over "
        "that of the best twenty.",
        _table("ordered", ["world", "lost and potential", "lost only"], [*PLANTED[:6], PLANTED[7]], _ordered),
        "### Clashes",
        f"{clashes_worlds.QUERIES} queries with two pages each: share called a clash.",
        _table("clashes", ["world", "a clash", "called one"], clashes_worlds.WORLDS, _contested),
        "### Breaks",
        "A hundred pages over 70 weeks in which nothing breaks: breaks reported.",
        _table("breaks", ["world", "false breaks"], BREAKLESS, _breakless),
        "Twenty of the pages lose half of forty clicks a week: share found within two weeks.",
        _table("halved", ["world", "found"], HALVED, _halved),
        "### Why clicks changed",
        f"{changes_worlds.ROWS} rows of which only positions or searches change. Share of the lost clicks attributed to "
        "impressions (demand), to ranking or demand, and to ranking.",
        _table("split", ["world", "impressions", "ranking or demand", "ranking"], changes_worlds.WORLDS, _split),
        "### Moves",
        "Pages to which nothing is done, picked as people pick: share reported as helped after four weeks.",
        _table("outcomes", ["world", "without the year before", "with it"], outcomes_worlds.WORLDS, _nothing_done),
        *trials_part(),
    ]
    text = DOCS.read_text()
    inside = "\n\n".join(parts)
    DOCS.write_text(re.sub(f"{_MARKS[0]}.*?{_MARKS[1]}", lambda _: f"{_MARKS[0]}{inside}\n{_MARKS[1]}", text, flags=re.DOTALL))


if __name__ == "__main__":
    main()
