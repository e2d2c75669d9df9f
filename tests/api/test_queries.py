"""The lens over HTTP and on the command line: the same rows, complete, in the requested order with the requested filters."""

import csv
import io
import json
from datetime import date

import polars as pl
import pytest
from django.core.management import CommandError, call_command
from django.test import Client

from tests.conftest import keep
from tests.planted import PlantedSite
from zugzwang.core.facts.grains import VOLUMES
from zugzwang.data.models import Query, Site
from zugzwang.findings.registry import FINDINGS

PERIOD = {"first": "2026-08-17", "last": "2026-11-15"}
URL = "/api/sites/shop/findings/{}"


def rows(client: Client, lens: str = "low-ctr", **asked: object) -> list[dict[str, object]]:
    found: list[dict[str, object]] = []
    while True:
        answer = client.get(URL.format(lens), {**PERIOD, **asked, "offset": len(found), "limit": 50}).json()
        found += answer["rows"]
        if len(found) >= answer["total"]:
            return found


def findings(*arguments: str) -> dict:  # type: ignore[type-arg]
    out = io.StringIO()
    call_command("findings", *arguments, "--site", "shop", stdout=out)
    return json.loads(out.getvalue())


def test_windows_make_up_the_whole_lens(signed_in: Client, planted: PlantedSite) -> None:
    through_http = rows(signed_in)
    at_once = findings("low-ctr")
    assert len(through_http) == len(at_once["rows"]) > 50
    assert [row["query"] for row in through_http] == [row["query"] for row in at_once["rows"]]
    strong = {int(str(row["query_id"])) - 1 for row in through_http if row["evidence"] in ("firm", "likely")}
    assert planted.poor <= strong


def test_the_shape_of_findings(planted: PlantedSite) -> None:
    found = findings("striking-distance", "--from", "2026-09-01", "--to", "2026-10-31", "--min-impressions", "300")
    judged_by = {"compared_with", "sentences", "behind", "missing", "lacking"}
    assert set(found) == {"lens", "site", "period", "filters", "rows", *judged_by, *FINDINGS["low-ctr"].more}
    assert found["period"] == {"from": "2026-09-01", "to": "2026-10-31"}
    row = found["rows"][0]
    assert set(row) == {
        *(
            "page",
            "page_id",
            "query",
            "query_id",
            "clicks",
            "impressions",
            "ctr",
            "position",
            "expected_clicks",
            "expected_ctr",
        ),
        *(
            "shortfall",
            "lost",
            "potential",
            "opportunity",
            "opportunity_month",
            "taken",
            "taken_month",
            "explained",
            "by_volume",
            "expected_with_features",
            "lost_month",
            "potential_month",
            "q_value",
            "probability",
            "usual_ctr_low",
            "usual_ctr_high",
            "evidence",
        ),
    }
    assert all(4 <= row["position"] <= 20 and row["impressions"] >= 300 for row in found["rows"])


def test_brand_given_at_the_command_line_is_left_out(planted: PlantedSite, site: Site) -> None:
    giant = f"query {planted.giant}"
    assert giant in [row["query"] for row in findings("low-ctr")["rows"]]
    assert giant not in [row["query"] for row in findings("low-ctr", "--brand", f"{giant}$")["rows"]]
    site.brand_patterns = [f"^{giant}$"]
    site.save()
    assert giant not in [row["query"] for row in findings("low-ctr")["rows"]]


def test_csv_at_the_command_line(planted: PlantedSite) -> None:
    out = io.StringIO()
    call_command("findings", "outperformers", "--site", "shop", "--format", "csv", stdout=out)
    listed = list(csv.DictReader(io.StringIO(out.getvalue())))
    assert [row["query"] for row in listed] == [row["query"] for row in findings("outperformers")["rows"]]


def test_mistakes_at_the_command_line_are_told(site: Site) -> None:
    with pytest.raises(CommandError, match="no data yet"):
        findings("low-ctr")
    with pytest.raises(CommandError, match="cannot be used"):
        findings("low-ctr", "--brand", "(")


@pytest.mark.parametrize(
    ("asked", "holds"),
    [
        ({"evidence": ["firm"]}, lambda row: row["evidence"] == "firm"),
        ({"position_from": 3, "position_to": 8}, lambda row: 3 <= row["position"] <= 8),
        ({"min_impressions": 900}, lambda row: row["impressions"] >= 900),
        ({"text": "QUERY 1"}, lambda row: "query 1" in row["query"]),
        ({"text": "/p2"}, lambda row: "/p2" in row["page"]),
    ],
)
def test_filters_show_what_fits_and_change_nothing_else(signed_in: Client, planted: PlantedSite, asked, holds) -> None:  # type: ignore[no-untyped-def]
    every = {row["query_id"]: row for row in rows(signed_in)}
    shown = rows(signed_in, **asked)
    assert shown
    assert len(shown) < len(every)
    assert all(holds(row) for row in shown)
    assert {row["query_id"] for row in shown} == {query for query, row in every.items() if holds(row)}
    if "min_impressions" not in asked:
        assert all(row == every[row["query_id"]] for row in shown)


@pytest.mark.parametrize("sort", ["ctr", "position", "clicks", "q_value", "query"])
def test_sorting(signed_in: Client, planted: PlantedSite, sort: str) -> None:
    for descending in (True, False):
        values = [row[sort] for row in rows(signed_in, sort=sort, descending=descending)]
        assert values == sorted(values, reverse=descending)


def test_comparison_stands_beside_each_row(signed_in: Client, planted: PlantedSite) -> None:
    asked = {"first": "2026-10-05", "last": "2026-11-01", "compare": "previous", "sort": "change", "descending": False}
    answer = signed_in.get(URL.format("low-ctr"), asked).json()
    assert answer["before"]["first"] == "2026-09-07"
    changes = [row["clicks"] - row["clicks_before"] for row in answer["rows"]]
    assert changes == sorted(changes)
    query = int(answer["rows"][0]["query_id"]) - 1
    of_row = planted.facts.filter(planted.facts["query"] == query)
    before = of_row.filter(of_row["day"].is_between(date(2026, 9, 7), date(2026, 10, 4)))
    assert answer["rows"][0]["clicks_before"] == before["clicks"].sum()
    lacking = signed_in.get(URL.format("low-ctr"), {**PERIOD, "compare": "year"}).json()
    assert lacking["before"] is None
    assert lacking["comparison"]["sentence"].startswith("No comparison: none of the 91 days")


def test_the_evidence_of_a_row_adds_up(signed_in: Client, planted: PlantedSite) -> None:
    row = rows(signed_in)[0]
    proof = signed_in.get(
        f"/api/sites/shop/rows/{row['page_id']}/{row['query_id']}", {**PERIOD, "lens": "low-ctr", "compare": "previous"}
    ).json()
    assert sum(day["clicks"] for day in proof["days"]) == proof["clicks"] == row["clicks"]
    assert sum(day["expected_clicks"] for day in proof["days"]) == pytest.approx(row["expected_clicks"])
    assert proof["usual_low"] <= proof["expected_clicks"] <= proof["usual_high"]
    assert proof["finding"]["q_value"] == row["q_value"]
    assert f"at position {row['position']:.1f}" in proof["sentences"][0]


def test_the_field_holds_every_tested_row_and_marks_the_findings(signed_in: Client, planted: PlantedSite) -> None:
    field = signed_in.get("/api/sites/shop/field", {**PERIOD, "lens": "low-ctr", "evidence": ["firm", "likely"]}).json()
    assert len(field["dots"]) == field["tested"]
    marked = {dot["query_id"] - 1 for dot in field["dots"] if dot["evidence"]}
    assert planted.poor <= marked
    assert all(point["low"] < point["ctr"] < point["high"] for point in field["curve"])


def test_the_exported_list_is_whole_and_carries_its_filters(signed_in: Client, planted: PlantedSite) -> None:
    response = signed_in.get("/api/sites/shop/findings/low-ctr/file", {**PERIOD, "min_impressions": 200})
    listed = list(csv.DictReader(io.StringIO(response.getvalue().decode("utf-8-sig"))))
    assert [row["query"] for row in listed] == [row["query"] for row in rows(signed_in, min_impressions=200)]
    assert json.loads(listed[0]["filters"])["min_impressions"] == 200
    assert "attachment" in response["Content-Disposition"]


def test_brand_patterns_show_what_they_would_leave_out_and_are_kept(signed_in: Client, planted: PlantedSite) -> None:
    effect = signed_in.get("/api/sites/shop/brand", {"pattern": ["query 1$", "query 2$"]}).json()
    assert (effect["queries"], set(effect["examples"])) == (2, {"query 1", "query 2"})
    wrong = signed_in.get("/api/sites/shop/brand", {"pattern": ["("]})
    assert (wrong.status_code, wrong.json()["fields"][0]["field"]) == (422, "patterns")
    signed_in.patch("/api/sites/shop", {"brand_patterns": ["query 1$"]}, "application/json")
    assert "query 1" not in [row["query"] for row in rows(signed_in, min_impressions=0)]


def test_a_curve_set_by_hand_is_used_until_it_is_taken_back(signed_in: Client, planted: PlantedSite) -> None:
    curve = [{"position": 1, "ctr": 0.9}, {"position": 100, "ctr": 0.5}]
    assert signed_in.patch("/api/sites/shop", {"curve": curve}, "application/json").status_code == 200
    assert signed_in.get(URL.format("low-ctr"), PERIOD).json()["curve_basis"] == "own"
    rising = [{"position": 1, "ctr": 0.1}, {"position": 10, "ctr": 0.5}]
    assert signed_in.patch("/api/sites/shop", {"curve": rising}, "application/json").status_code == 422
    signed_in.patch("/api/sites/shop", {"curve": "fitted"}, "application/json")
    assert signed_in.get(URL.format("low-ctr"), PERIOD).json()["curve_basis"] == "site"


def test_search_volumes_raise_a_forecast_to_a_limit_and_never_how_sure_it_is(signed_in: Client, planted: PlantedSite) -> None:
    """A rough volume of 31,623 a month for every query: potential beyond page one grows to at most five times; evidence and
    the order by evidence stay, and the sentence names its source.
    """
    before = {row["query_id"]: row for row in rows(signed_in, "striking-distance")}
    site = Site.objects.get(slug="shop")
    queries = list(Query.objects.filter(site=site).values_list("id", flat=True))
    keep(site, pl.DataFrame({"query": queries}).with_columns(searches=31_623, rough=True), grain=VOLUMES)
    site.refresh_from_db()
    after = {row["query_id"]: row for row in rows(signed_in, "striking-distance")}
    assert before.keys() <= after.keys()
    raised = [query for query, row in after.items() if row["by_volume"]]
    assert raised
    for query, row in before.items():
        there = after[query]
        assert (there["evidence"], there["q_value"]) == (row["evidence"], pytest.approx(row["q_value"]))
        current = max(row["clicks"], row["expected_clicks"])
        assert there["potential"] + current <= 5.001 * (row["potential"] + current)
        assert there["by_volume"] == (there["potential"] > row["potential"] + 1e-9) == (row["position"] > 10)
    row = after[raised[0]]
    result = signed_in.get(f"/api/sites/shop/rows/{row['page_id']}/{row['query_id']}", {**PERIOD, "lens": "striking-distance"})
    assert "(based on search volume, a rough range)" in " ".join(result.json()["sentences"])
