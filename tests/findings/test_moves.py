"""Moves with facts: filled in, ranked, edited by two people, measured."""

from datetime import date, timedelta
from typing import Any

import polars as pl
import pytest
from django.contrib.auth.models import User
from django.utils import timezone

from tests.conftest import keep
from tests.findings.conftest import LAST, PAGES, TODAY, answer, rows
from zugzwang.access import Actor
from zugzwang.core.facts.grains import PAGE_QUERY, VISITS
from zugzwang.core.facts.visits import CHANNELS
from zugzwang.data.decided import Subject, marks
from zugzwang.data.models import Decision, Membership, Move, Page, Query, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Conflict, Invalid, NotAllowed, NotFound
from zugzwang.findings.view import ViewOptions
from zugzwang.plan import moves, outcomes, proposals, telling
from zugzwang.plan.decisions import Decided, decide, undo
from zugzwang.plan.moves import Planned, make


@pytest.fixture
def ann(shop: Site) -> Actor:
    return analyst(shop, "ann")


def analyst(site: Site, name: str, role: str = "analyst") -> Actor:
    user = User.objects.create_user(name)
    Membership.objects.create(site=site, user=user, role=role)
    return Actor(user)


def planned(page: int | None = 3, query: int | None = 3, gain: float = 40.0, **fields: object) -> Planned:
    values = {"kind": "rewrite", "effort": "hour", "note": "", "who": None, "due": None, **fields}
    return Planned(page, query, "low-ctr", "Because.", gain, gain, "firm", values)


def propose(shop: Site, asked: ViewOptions, subject: Subject, finding: str) -> dict[str, Any]:
    return proposals.propose(Snapshot(shop), asked, [subject], finding, TODAY)[0]


def test_a_move_is_filled_in_with_what_its_finding_tells(shop: Site) -> None:
    """A row's gain is that of its list, with the cautious gain; a page's is its account, a clash's its loss."""
    found = answer(shop, "striking-distance", min_impressions=1)
    row = found.rows.filter(pl.col("page") == 3, pl.col("query") == 3).to_dicts()[0]
    result = propose(shop, ViewOptions(min_impressions=1), Subject(3, 3), "striking-distance")
    assert result["kind"] == "deepen"
    assert result["gain"] == pytest.approx(row["potential"] * found.view.month_share)
    assert 0 <= result["gain_cautious"] <= result["gain"]
    assert (result["page_text"], result["query_text"]) == (PAGES[3], "sea kayak")
    assert "sea kayak" in result["reason"]
    account = next(one for one in rows(shop, "pages") if one["page_id"] == 3)
    of_page = propose(shop, ViewOptions(), Subject(3, None), "pages")
    assert of_page["gain_cautious"] == pytest.approx(account["gain_month"])
    clash = rows(shop, "clashes")[0]
    of_clash = propose(shop, ViewOptions(), Subject(None, clash["query_id"]), "clashes")
    assert of_clash["gain"] == pytest.approx(clash["loss_month"])
    branded = propose(shop, ViewOptions(), Subject(5, 4), "low-ctr")
    assert branded["gain"] is None
    assert "cannot be estimated" in branded["reason"]
    with pytest.raises(NotFound):
        propose(shop, ViewOptions(), Subject(99, None), "")


TO_DO = {"kind": None, "effort": None, "note": "", "who": None, "due": None}


def test_moves_on_several_rows_are_each_filled_in_and_kept_all_or_none(shop: Site, ann: Actor) -> None:
    several = [Subject(3, 3), Subject(3, 5), Subject(5, 4), Subject(3, 3)]  # one twice, one branded
    asked = ViewOptions(min_impressions=1)
    one, other, branded = (propose(shop, asked, one, "striking-distance") for one in several[:3])
    result = proposals.propose_together(Snapshot(shop), asked, several, "striking-distance", TODAY)
    assert (result["subjects"], result["kind"]) == (3, "deepen")
    assert result["gain"] == pytest.approx(one["gain"] + other["gain"])
    assert "For 1 of them the gain cannot be estimated" in result["reason"]
    page_too = proposals.propose_together(Snapshot(shop), asked, [*several, Subject(3)], "", TODAY)
    assert page_too["gain"] == pytest.approx(propose(shop, asked, Subject(3, None), "")["gain"])  # its rows are counted in it
    subjects = dict.fromkeys(several)
    with pytest.raises(NotFound):
        proposals.make_moves(ann, "shop", asked, [*subjects, Subject(3, 99)], "striking-distance", TO_DO, TODAY)
    assert Move.objects.count() == 0
    made = proposals.make_moves(ann, "shop", asked, list(subjects), "striking-distance", {**TO_DO, "effort": "week"}, TODAY)
    assert [move.gain for move in made] == [one["gain"], other["gain"], branded["gain"]]
    assert {move.effort for move in made} == {"week"}
    with pytest.raises(Invalid, match="1 to 500"):
        proposals.propose_together(Snapshot(shop), asked, [], "", TODAY)


def test_a_clash_that_is_decided_becomes_a_move_which_goes_with_the_decision(shop: Site, ann: Actor) -> None:
    clash = rows(shop, "clashes")[0]

    def settle(choice: str) -> Move | None:
        decided = Decided([Subject(query=clash["query_id"])], choice, clash["lead_id"], "One guide.")
        (decision,) = proposals.settle_clashes(
            ann, "shop", ViewOptions(), decided, {"effort": None, "who": "ann", "due": None}, TODAY
        )
        return decision.moves.first()

    move = settle("point")
    assert move is not None
    assert (move.kind, move.effort, move.note, move.gain) == ("point", "hour", "One guide.", pytest.approx(clash["loss_month"]))
    result = telling.tell_move(Snapshot(shop), move.id, TODAY)["decided"]
    assert result.startswith(f"{clash['lead']} should rank. Too early to tell")
    undo(ann, "shop", [move.decision_id])
    assert rows(shop, "moves") == []
    assert telling.tell_decided(shop, clash["lead_id"]) == []
    begun = settle("unite")
    assert begun is not None
    moves.change(ann, "shop", begun.id, 1, {"state": "in progress"})
    undo(ann, "shop", [begun.decision_id])
    assert [row["id"] for row in rows(shop, "moves")] == [begun.id]  # someone is at it
    to_do = {"effort": None, "who": None, "due": None}
    (proposed,) = proposals.settle_as_proposed(ann, "shop", ViewOptions(), [clash["query_id"]] * 2, "", to_do, TODAY)
    assert (proposed.choice, proposed.lead_id) == (clash["resolution"], clash["lead_id"])
    assert (
        proposals.settle_as_proposed(ann, "shop", ViewOptions(), [clash["query_id"]], "", to_do, TODAY) == []
    )  # it is decided
    undo(ann, "shop", [proposed.id])
    with pytest.raises(NotFound):
        proposals.settle_as_proposed(
            ann, "shop", ViewOptions(), [clash["query_id"], 2], "", to_do, TODAY
        )  # over the second no pages fight
    assert proposed.id == Decision.objects.latest("id").id  # the first one neither
    assert settle("accept") is None
    told_of_lead = telling.tell_decided(shop, clash["lead_id"])
    assert {(one["word"], one["what"], one["query"]) for one in told_of_lead} == {
        ("in progress", "merge the pages into one", clash["query"]),  # whoever is at it keeps it
        ("accept", "", clash["query"]),
    }


def test_moves_stand_in_the_order_of_gain_for_effort_and_count_nothing_twice(shop: Site, ann: Actor) -> None:
    make(ann, "shop", planned(gain=300.0, effort="week"))
    quick = make(ann, "shop", planned(query=5, gain=30.0, due=TODAY - timedelta(days=1)))
    make(ann, "shop", planned(query=None, gain=100.0, effort="day"))
    result = answer(shop, "moves")
    assert [row["gain"] for row in result.window()] == [30.0, 100.0, 300.0]
    assert result.window()[0]["late"]
    assert "3 moves to make, together about 330 clicks a month by a cautious estimate; 1 is late" in result.sentences[0]
    moves.change(ann, "shop", quick.id, 1, {"state": "in progress"})
    assert [row["id"] for row in rows(shop, "moves", state="in progress")] == [quick.id]
    assert [row["query"] for row in rows(shop, "moves", text="FOR THE SEA")] == ["kayak for the sea"]


def test_two_who_change_one_move_lose_nothing(shop: Site, ann: Actor) -> None:
    ben = analyst(shop, "ben")
    move = make(ann, "shop", planned())
    moves.change(ann, "shop", move.id, 1, {"note": "Ann's words"})
    other = moves.change(ben, "shop", move.id, 1, {"effort": "day"})  # another field: both are
    assert (other.note, other.effort, other.version) == ("Ann's words", "day", 3)
    with pytest.raises(Conflict) as refused:
        moves.change(ben, "shop", move.id, 1, {"note": "Ben's words", "state": "in progress"})
    assert refused.value.fields == ["note"]
    kept = moves.find(shop, move.id)
    assert (kept.note, kept.state, kept.version) == ("Ann's words", "to do", 3)  # nothing of the refused change
    moves.change(ben, "shop", move.id, 1, {"note": "Ann's words"})  # the same words are no conflict
    moves.change(ben, "shop", move.id, 3, {"note": "Both", "who": "ben"})
    result = telling.tell_move(Snapshot(shop), move.id, TODAY)["history"]
    assert [(one["field"], one["before"], one["after"], one["by"]) for one in result[:2]] == [
        ("note", "Ann's words", "Both", "ben"),
        ("who", None, "ben", "ben"),
    ]


def test_several_moves_are_changed_together_or_not_at_all(shop: Site, ann: Actor) -> None:
    first, second = make(ann, "shop", planned()), make(ann, "shop", planned(query=5))
    made = moves.change_all(ann, "shop", {first.id: 1, second.id: 1}, {"made_on": LAST, "who": "ann"})
    assert [(one.state, one.made_on, one.who_id) for one in made] == [("done", LAST, ann.user.id)] * 2
    ben = analyst(shop, "ben")
    moves.change(ben, "shop", second.id, 2, {"who": "ben"})
    with pytest.raises(Conflict):
        moves.change_all(ann, "shop", {first.id: 2, second.id: 2}, {"who": None})
    assert moves.find(shop, first.id).who_id == ann.user.id  # the first one neither
    with pytest.raises(Invalid, match="1 to 500"):
        moves.change_all(ann, "shop", {}, {"who": None})


def test_states_need_their_day_or_their_reason(shop: Site, ann: Actor) -> None:
    move = make(ann, "shop", planned())
    with pytest.raises(Invalid, match="needs a reason"):
        moves.change(ann, "shop", move.id, 1, {"state": "dismissed"})
    with pytest.raises(Invalid, match="in the future"):
        moves.change(ann, "shop", move.id, 1, {"made_on": timezone.localdate() + timedelta(days=3)})
    with pytest.raises(Invalid, match="before 1995"):
        moves.change(ann, "shop", move.id, 1, {"made_on": date(1026, 11, 3)})
    with pytest.raises(Invalid, match="may not change this site"):
        moves.change(ann, "shop", move.id, 1, {"who": "nobody"})
    with pytest.raises(Conflict, match="too early for a result"):
        outcomes.measured(Snapshot(shop), move.id, TODAY)
    made = moves.change(ann, "shop", move.id, 1, {"made_on": LAST - timedelta(days=40)})
    assert made.state == "done"
    reader = analyst(shop, "rea", role="reader")
    with pytest.raises(NotAllowed):
        moves.change(reader, "shop", move.id, 2, {"note": "x"})


def test_a_dropped_move_is_gone_and_can_be_put_back(shop: Site, ann: Actor) -> None:
    move = make(ann, "shop", planned())
    moves.drop(ann, "shop", [move.id])
    assert rows(shop, "moves") == []
    with pytest.raises(NotFound):
        moves.change(ann, "shop", move.id, 1, {"note": "late words"})
    moves.restore(ann, "shop", move.id)
    assert len(rows(shop, "moves")) == 1


def test_what_is_settled_is_answered_from_what_is_decided_now(shop: Site, ann: Actor) -> None:
    """Only the latest decision counts: earlier ones that were dropped and restored leave no moves behind."""

    def settled() -> set[tuple[int, int]]:
        found = answer(shop, "striking-distance", min_impressions=1, decided="settled")
        return set(found.rows.select("page", "query").iter_rows())

    one = make(ann, "shop", planned(page=1, query=1))
    assert settled() == {(1, 1)}
    moves.drop(ann, "shop", [one.id])
    assert settled() == set()
    other = make(ann, "shop", planned(page=2, query=2))
    assert settled() == {(2, 2)}
    moves.restore(ann, "shop", one.id)
    assert settled() == {(1, 1), (2, 2)}
    moves.drop(ann, "shop", [other.id])
    assert settled() == {(1, 1)}


def test_several_are_undone_all_or_none(shop: Site, ann: Actor) -> None:
    made = [make(ann, "shop", planned(page=number, query=number)).id for number in (1, 2)]
    with pytest.raises(NotFound):
        moves.drop(ann, "shop", [*made, 999])
    assert len(rows(shop, "moves")) == 2
    moves.drop(ann, "shop", made)
    assert rows(shop, "moves") == []
    decisions = [
        one.id
        for one in decide(ann, "shop", Decided([Subject(1, 1), Subject(2, 2)], "snooze", until=TODAY + timedelta(days=9)))
    ]
    with pytest.raises(NotFound):
        undo(ann, "shop", [*decisions, 999])
    assert len(marks(shop, TODAY)) == 2
    undo(ann, "shop", decisions)
    assert marks(shop, TODAY) == []


def test_what_is_decided_leaves_what_was_worked_out_from_the_facts(shop: Site, ann: Actor) -> None:
    answer(shop, "striking-distance")
    version = shop.data_version
    make(ann, "shop", planned(page=1, query=1))
    undo(ann, "shop", [decide(ann, "shop", Decided([Subject(2, 2)], "snooze", until=TODAY + timedelta(days=9)))[0].id])
    shop.refresh_from_db()
    assert shop.data_version == version


def test_what_has_a_move_or_is_set_aside_is_decided_until_its_day(shop: Site, ann: Actor) -> None:
    make(ann, "shop", planned(page=1, query=1))
    decide(ann, "shop", Decided([Subject(2, 2)], "snooze", until=TODAY + timedelta(days=2), note="later"))
    current = {(one.page, one.query): one.word for one in marks(shop, TODAY)}
    assert current == {(1, 1): "to do", (2, 2): "snoozed"}
    assert (2, 2) not in {(one.page, one.query) for one in marks(shop, TODAY + timedelta(days=2))}

    def held_rows(decided: str) -> set[tuple[int, int]]:
        found = answer(shop, "striking-distance", min_impressions=1, decided=decided)
        return set(found.rows.select("page", "query").iter_rows())

    assert held_rows("settled") == {(1, 1), (2, 2)}
    assert held_rows("open") & {(1, 1), (2, 2)} == set()
    contested = rows(shop, "clashes")[0]["query_id"]
    decide(ann, "shop", Decided([Subject(query=contested)], "snooze", until=TODAY + timedelta(days=2)))
    open_ones = [row["query_id"] for row in rows(shop, "clashes", decided="open")]
    assert contested not in open_ones
    later = rows(shop, "clashes", decided="open", today=TODAY + timedelta(days=3))
    assert contested in [row["query_id"] for row in later]


@pytest.fixture
def many(site: Site) -> Site:
    """Sixty pages of one row each with daily noise; page 1 doubles its clicks 30 days before the end."""
    Page.objects.bulk_create(Page(id=n, site=site, text=f"https://shop.example/{n}") for n in range(1, 61))
    Query.objects.bulk_create(Query(id=n, site=site, text=f"query {n}") for n in range(1, 61))
    days = [LAST - timedelta(days=number) for number in range(90)]
    rows = [
        (
            day,
            n,
            n,
            (10 + (n * 7 + number) % 4) * (2 if n == 1 and number < 30 else 1),
            100,
            5.0 if n > 1 or number >= 30 else 3.0,
        )
        for n in range(1, 61)
        for number, day in enumerate(days)
    ]
    keep(
        site,
        pl.DataFrame(rows, schema=["day", "page", "query", "clicks", "impressions", "position"], orient="row"),
        grain=PAGE_QUERY,
    )
    site.refresh_from_db()
    return site


def test_what_came_of_a_move_is_told_and_kept_on_record(many: Site) -> None:
    ann = analyst(many, "ann")
    made_on = LAST - timedelta(days=30)
    moved = make(ann, "shop", planned(page=1, query=1))
    quiet = make(ann, "shop", planned(page=2, query=None))
    late = make(ann, "shop", planned(page=3, query=3))
    for move, day in ((moved, made_on), (quiet, made_on), (late, LAST - timedelta(days=5))):
        moves.change(ann, "shop", move.id, 1, {"made_on": day})
    result = telling.tell_move(Snapshot(many), moved.id, TODAY)["outcome"]
    facts = pl.DataFrame({"n": range(1, 29)}).select(((10 + (7 + 30 - pl.col("n")) % 4) * 2).sum()).item()
    assert result["after"]["clicks"] == facts  # the 28 days behind the day of the move
    assert result["result_clicks"] == pytest.approx(facts / 28 / 2, rel=0.03)
    assert result["positions_gained"] == pytest.approx(2.0)
    assert result["controls"] == 57  # of 59 others, two pages are touched by other moves
    assert result["evidence"] == "likely"
    assert result["low"] <= result["result_clicks"] <= result["high"]
    assert "Of the 57 control rows nearest in size none rose as far. Likely the move." in result["sentences"][2]
    assert telling.tell_move(Snapshot(many), moved.id, TODAY)["crawled"] is None  # no access log reports crawlers
    crawler = CHANNELS.index("crawler")
    keep(
        many, pl.DataFrame({"day": [made_on, LAST], "page": [1, 2], "channel": [crawler] * 2, "sessions": [1, 1]}), grain=VISITS
    )
    many.refresh_from_db()
    assert "No search engine’s crawler is known" in (telling.tell_move(Snapshot(many), moved.id, TODAY)["crawled"] or "")
    assert "30 days after the change" in telling.tell_move(Snapshot(many), quiet.id, TODAY)["crawled"]
    with pytest.raises(Invalid, match="in the future"):
        moves.change(ann, "shop", moved.id, 2, {"recrawl_on": TODAY + timedelta(days=400)})
    of_page = telling.tell_move(Snapshot(many), quiet.id, TODAY)["outcome"]
    assert of_page["evidence"] == "too little data"
    assert abs(of_page["result_clicks"]) < 0.5
    waits = telling.tell_move(Snapshot(many), late.id, TODAY)
    assert waits["outcome"] is None
    assert "can be measured with data to" in waits["waiting"]
    moves.keep_outcome(ann, "shop", moved.id, outcomes.measured(Snapshot(many), moved.id, TODAY))
    Move.objects.filter(id=moved.id).update(made_on=LAST)  # whatever the data say later, the record stays
    kept = telling.tell_move(Snapshot(many), moved.id, TODAY)
    assert (kept["state"], kept["outcome"]["result_clicks"]) == ("measured", result["result_clicks"])
