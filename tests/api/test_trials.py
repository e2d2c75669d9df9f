"""Tests over HTTP: planned, started, run as data arrive, concluded once; what invalidates them, and their pooled results."""

import json
from collections.abc import Callable
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl
import pytest
from django.core.management import call_command
from django.test import Client

from tests.conftest import keep
from zugzwang.core.facts.grains import CRAWL_PAGES
from zugzwang.data.models import Event, Page, Query, Site, Trial
from zugzwang.plan import trials

PAGES, FIRST = 90, date(2026, 9, 1)
BEFORE_DAYS, AFTER_DAYS = 140, 40
Call = Callable[..., Any]


def facts(first: date, days: int, raised: dict[int, float], seed: int) -> pl.DataFrame:
    """One query for each page; clicks from the page's own level, some multiplied by a factor."""
    rng = np.random.default_rng(seed)
    level = np.random.default_rng(1).lognormal(1.2, 0.6, PAGES)
    result = []
    for day in range(days):
        clicks = rng.poisson(level * [raised.get(page + 1, 1.0) for page in range(PAGES)])
        result += [(first + timedelta(days=day), page + 1, page + 1, int(clicks[page]), 400, 5.0) for page in range(PAGES)]
    names = ["day", "page", "query", "clicks", "impressions", "position"]
    return pl.DataFrame(result, schema=names, orient="row")


@pytest.fixture
def shop(site: Site, monkeypatch: pytest.MonkeyPatch) -> Site:
    Page.objects.bulk_create(Page(id=n + 1, site=site, text=f"https://shop.example/p{n + 1}/") for n in range(PAGES))
    Query.objects.bulk_create(Query(id=n + 1, site=site, text=f"paddle {n + 1}") for n in range(PAGES))
    keep(site, facts(FIRST - timedelta(days=BEFORE_DAYS), BEFORE_DAYS, {}, 2))
    monkeypatch.setattr("django.utils.timezone.localdate", lambda *_: date(2026, 11, 1))
    return site


def days_come(site: Site, raised: dict[int, float], days: int = AFTER_DAYS) -> None:
    site.refresh_from_db()
    keep(site, facts(FIRST, days, raised, 3))
    site.refresh_from_db()


@pytest.fixture
def call(signed_in: Client) -> Call:
    def ask(method: str, path: str = "", expected: int = 200, **body: Any) -> Any:
        answer = signed_in.generic(method, f"/api/sites/shop/trials{path}", json.dumps(body), content_type="application/json")
        assert answer.status_code == expected, answer.content
        return answer.json()

    return ask


def asked(pages: range, **more: Any) -> dict[str, Any]:
    subjects = [{"page": page} for page in pages]
    return {
        "subjects": subjects,
        "change": "Titles that ask",
        "first_day": str(FIRST),
        "design": "randomised",
        "seed": 5,
        **more,
    }


def test_a_trial_by_lot_from_its_plan_to_its_verdict(call: Call, shop: Site) -> None:
    plan = call("POST", "/plan", **asked(range(1, 41)))
    assert (plan["problems"], plan["visible"]["changed"]) == ([], 20)
    assert "would be detected in four of five cases" in plan["sentence"]
    fewer = call("POST", "/plan", **asked(range(1, 15)))
    alone = call("POST", "/plan", **asked(range(1, 2), design="before-after"))
    assert plan["visible"]["smallest"] < fewer["visible"]["smallest"] < alone["visible"]["smallest"]
    assert Trial.objects.count() == 0

    trial = call("POST", "", 201, **asked(range(1, 41), hope="More clicks"))
    assert (trial["state"], trial["name"], len(trial["changed"]), len(trial["unchanged"])) == (
        "planned",
        "Titles that ask",
        20,
        20,
    )
    changed = [one["page_id"] for one in trial["changed"]]
    again = call("POST", "/plan", **asked(range(30, 60)))
    assert again["problems"] == ["Some of the pages are in the trial “Titles that ask” already."]
    call("POST", "", 422, **asked(range(30, 60)))

    days_come(shop, dict.fromkeys(changed, 1.5), 15)
    path = f"/{trial['id']}"
    running = call("GET", path)
    assert (running["state"], running["verdict"]) == ("running", None)
    assert "Do not judge it before" in running["waiting"]
    assert [len(running["weekly"]), running["weekly"][4]["first"]] == [6, "2026-09-02"]
    assert call("POST", f"{path}/verdict", 409)["detail"] == "The trial ends on 29 Sep 2026."

    days_come(shop, dict.fromkeys(changed, 1.5))
    Event.objects.create(site=shop, first_day=FIRST + timedelta(days=9), last_day=FIRST + timedelta(days=9), title="An update")
    ended = call("GET", path)
    assert (ended["state"], ended["verdict"]) == ("ended", None)
    assert any("An update (10 Sep 2026) falls into this time." in one for one in ended["faults"])
    result = call("POST", f"{path}/verdict")
    verdict = result["verdict"]
    assert (result["state"], verdict["controls"]) == ("concluded", 20)
    assert verdict["low"] < np.log(1.5) < verdict["high"]
    assert verdict["p_value"] < 0.01
    assert verdict["words"].startswith("It helped: +")
    assert len(verdict["lots"]) > 100
    assert result["worked"].startswith("1 trial of this kind here: +")
    # What is read stays, whatever comes later.
    days_come(shop, {})
    assert call("POST", f"{path}/verdict")["verdict"] == verdict
    assert call("POST", "/plan", **asked(range(30, 60)))["worked"] == result["worked"]
    call("POST", f"{path}/out", 409, page=80, why="A campaign")
    call("DELETE", path)
    call("GET", "/999", 404)
    assert call("POST", f"{path}/restore")["dropped"] is False


def test_beside_the_untouched_some_are_left_out_and_what_was_not_changed_is_told(call: Call, shop: Site) -> None:
    crawl = {"address": ["https://shop.example/p1/", "https://shop.example/p2/"], "status": [200, 200]}
    old = pl.DataFrame({**crawl, "title": ["Old one", "Old two"], "content": ["h1\tOne", "h1\tTwo"]})
    keep(shop, old, grain=CRAWL_PAGES)
    shop.refresh_from_db()
    trial = call("POST", "", 201, **asked(range(1, 5), design="before-after", name="Four titles"))
    path = f"/{trial['id']}"
    days_come(shop, {1: 2.0, 2: 2.0, 3: 2.0, 4: 2.0})
    keep(shop, old.with_columns(title=pl.Series(["New one", "Old two"])), grain=CRAWL_PAGES)
    shop.refresh_from_db()
    result = call("POST", f"{path}/out", page=80, why="A campaign of its own")
    assert [(one["page_id"], one["why"]) for one in result["out"]] == [(80, "A campaign of its own")]
    assert call("POST", f"{path}/out", page=80)["out"] == []
    call("POST", f"{path}/out", 422, page=1, why="x")
    call("POST", f"{path}/out", page=80, why="A campaign of its own")
    # The crawl came after the trial began and after its day: one page has its new title, the other has not.
    assert any("still shows the old title and text of https://shop.example/p2/." in one for one in result["faults"])
    assert [(one["page"], one["title"][0][0]["text"]) for one in result["texts"]] == [("https://shop.example/p1/", "Old")]
    verdict = call("POST", f"{path}/verdict")["verdict"]
    assert verdict["controls"] == PAGES - 4 - 1
    assert verdict["low"] < np.log(2.0) < verdict["high"]
    assert verdict["p_value"] <= 1 / 500


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        ({"weeks": 2}, "3 to 26 weeks"),
        ({"change": " "}, "Describe the change."),
        ({"first_day": "2030-01-01"}, "in more than a year"),
        ({"subjects": [{"page": 1}, {"page": 2, "query": 2}]}, "Choose one or the other."),
        ({"subjects": [{"query": 2}]}, "Choose one or the other."),
        ({"subjects": [{"page": page} for page in range(1, 9)]}, "needs 6 pairs"),
    ],
)
def test_what_makes_no_sense_is_refused(call: Call, shop: Site, wrong: dict[str, Any], says: str) -> None:
    problem = call("POST", "", 422, **{**asked(range(1, 41)), **wrong})
    assert says in problem["detail"] + problem["remedy"]
    assert Trial.objects.count() == 0


def test_rows_and_other_measures_and_the_command_line(shop: Site, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    pages = tmp_path / "pages.txt"
    pages.write_text("\n".join(f"/p{page}/\tpaddle {page}" for page in range(1, 31)))
    fields = {"site": "shop", "new": "Rows", "pages": pages, "change": "Short answers", "first_day": FIRST, "seed": 3}
    call_command("trials", **fields, kind="randomised", measure="ctr")
    changed = [unit[0] for unit in Trial.objects.get().changed]
    days_come(shop, dict.fromkeys(changed, 1.6))
    capsys.readouterr()
    call_command("trials", site="shop", conclude="Rows")
    (result,) = json.loads(capsys.readouterr().out)
    assert set(result) == {
        "name", "kind", "changed", "controls", "smallest_visible", "effect", "low", "high", "p_value", "verdict", "state",
    }  # fmt: skip
    assert (result["name"], result["kind"], result["changed"], result["controls"], result["state"]) == (
        "Rows",
        "randomised",
        15,
        15,
        "concluded",
    )
    assert result["low"] < np.log(1.6) < result["high"]
    # A change on a page that another move touched in those weeks is no unchanged one any more.
    assert trials.find(shop, Trial.objects.get().id).verdict == Trial.objects.get().verdict
