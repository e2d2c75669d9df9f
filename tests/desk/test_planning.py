"""Moves beside the facts: filled in, ranked, changed by two, measured."""

from datetime import timedelta

import polars as pl
import pytest
from django.contrib.auth.models import User
from django.utils import timezone

from tests.conftest import keep
from tests.desk.conftest import LAST, PAGES, TODAY
from zugzwang.access import Actor
from zugzwang.core.grains import PAGE_QUERY
from zugzwang.desk import planning, queries
from zugzwang.desk.findings import find, tell
from zugzwang.desk.scope import Scope
from zugzwang.errors import Conflict, Invalid, NotAllowed, NotFound
from zugzwang.plan import moves
from zugzwang.plan.decisions import Decided, Subject, decide, take_back
from zugzwang.plan.marks import marks
from zugzwang.plan.moves import Planned, make
from zugzwang.store.models import Decision, Membership, Move, Page, Query, Site


@pytest.fixture
def ann(shop: Site) -> Actor:
    return analyst(shop, "ann")


def analyst(site: Site, name: str, role: str = "analyst") -> Actor:
    user = User.objects.create_user(name)
    Membership.objects.create(site=site, user=user, role=role)
    return Actor(user)


def planned(page: int | None = 3, query: int | None = 3, gain: float = 40.0, **fields: object) -> Planned:
    given = {"kind": "rewrite", "effort": "hour", "note": "", "who": None, "due": None, **fields}
    return Planned(page, query, "low-ctr", "Because.", gain, gain, "firm", given)


def test_a_move_is_filled_in_with_what_its_finding_tells(shop: Site) -> None:
    """The gain of a row by its lens is that of the list, cautious beside it; a page's is its account, a clash's its loss."""
    answer = queries.ask(shop, queries.Question(lens="striking-distance", min_impressions=1), TODAY)
    row = answer.rows.filter(pl.col("page") == 3, pl.col("query") == 3).to_dicts()[0]
    told = planning.propose(shop, Scope(min_impressions=1), 3, 3, "striking-distance")
    assert told["kind"] == "deepen"
    assert told["gain"] == pytest.approx(row["headroom"] * answer.settled.month_share)
    assert 0 <= told["gain_cautious"] <= told["gain"]
    assert (told["page_text"], told["query_text"]) == (PAGES[3], "sea kayak")
    assert "sea kayak" in told["reason"]
    account = next(one for one in tell(shop, "pages", Scope(), TODAY).rows if one["page_id"] == 3)
    of_page = planning.propose(shop, Scope(), 3, None, "pages")
    assert of_page["gain_cautious"] == pytest.approx(account["gain_month"])
    clash = tell(shop, "clashes", Scope(), TODAY).rows[0]
    of_clash = planning.propose(shop, Scope(), None, clash["query_id"], "clashes")
    assert of_clash["gain"] == pytest.approx(clash["loss_month"])
    branded = planning.propose(shop, Scope(), 5, 4, "low-ctr")
    assert branded["gain"] is None
    assert "cannot be told" in branded["reason"]
    with pytest.raises(NotFound):
        planning.propose(shop, Scope(), 99, None, "")


TO_DO = {"kind": None, "effort": None, "note": "", "who": None, "due": None}


def test_moves_on_several_rows_are_each_filled_in_and_kept_all_or_none(shop: Site, ann: Actor) -> None:
    rows = [Subject(3, 3), Subject(3, 5), Subject(5, 4), Subject(3, 3)]  # one twice, one branded
    scope = Scope(min_impressions=1)
    one, other, branded = (planning.propose(shop, scope, *row, "striking-distance") for row in ((3, 3), (3, 5), (5, 4)))
    told = planning.propose_all(shop, scope, rows, "striking-distance")
    assert (told["subjects"], told["kind"]) == (3, "deepen")
    assert told["gain"] == pytest.approx(one["gain"] + other["gain"])
    assert "Of 1 it cannot be told" in told["reason"]
    page_too = planning.propose_all(shop, scope, [*rows, Subject(3)], "")
    assert page_too["gain"] == pytest.approx(planning.propose(shop, scope, 3, None, "")["gain"])  # its rows are counted in it
    subjects = dict.fromkeys(rows)
    with pytest.raises(NotFound):
        planning.make_moves(ann, "shop", scope, {**subjects, Subject(3, 99): None}, "striking-distance", TO_DO)
    assert Move.objects.count() == 0
    made = planning.make_moves(ann, "shop", scope, subjects, "striking-distance", {**TO_DO, "effort": "week"})
    assert [move.gain for move in made] == [one["gain"], other["gain"], branded["gain"]]
    assert {move.effort for move in made} == {"week"}
    with pytest.raises(Invalid, match="1 to 500"):
        planning.propose_all(shop, scope, [], "")


def test_a_clash_that_is_decided_becomes_a_move_which_goes_with_the_decision(shop: Site, ann: Actor) -> None:
    clash = tell(shop, "clashes", Scope(), TODAY).rows[0]

    def settle(choice: str) -> Move | None:
        decided = Decided([Subject(query=clash["query_id"])], choice, clash["lead_id"], "One guide.")
        (decision,) = planning.settle_clashes(ann, "shop", Scope(), decided, {"effort": None, "who": "ann", "due": None})
        return decision.moves.first()

    move = settle("point")
    assert move is not None
    assert (move.kind, move.effort, move.note, move.gain) == ("point", "hour", "One guide.", pytest.approx(clash["loss_month"]))
    told = planning.tell_move(shop, move.id, TODAY)["decided"]
    assert told.startswith(f"{clash['lead']} shall lead. Too early to tell")
    take_back(ann, "shop", move.decision_id)
    assert planning.tell_moves(shop, "", "", TODAY)["rows"] == []
    assert planning.tell_decided(shop, clash["lead_id"]) == []
    begun = settle("unite")
    assert begun is not None
    moves.change(ann, "shop", begun.id, 1, {"state": "under way"})
    take_back(ann, "shop", begun.decision_id)
    assert [row["id"] for row in planning.tell_moves(shop, "", "", TODAY)["rows"]] == [begun.id]  # somebody is at it
    to_do = {"effort": None, "who": None, "due": None}
    (proposed,) = planning.settle_as_proposed(ann, "shop", Scope(), [clash["query_id"]] * 2, "", to_do)
    assert (proposed.choice, proposed.lead_id) == (clash["resolution"], clash["lead_id"])
    assert planning.settle_as_proposed(ann, "shop", Scope(), [clash["query_id"]], "", to_do) == []  # it is decided
    take_back(ann, "shop", proposed.id)
    with pytest.raises(NotFound):
        planning.settle_as_proposed(ann, "shop", Scope(), [clash["query_id"], 2], "", to_do)  # over the second no pages fight
    assert proposed.id == Decision.objects.latest("id").id  # the first one neither
    assert settle("accept") is None
    told_of_lead = planning.tell_decided(shop, clash["lead_id"])
    assert {(one["word"], one["what"], one["query"]) for one in told_of_lead} == {
        ("under way", "merge the pages into one", clash["query"]),  # whoever is at it keeps it
        ("accept", "", clash["query"]),
    }


def test_moves_stand_in_the_order_of_gain_for_effort_and_count_nothing_twice(shop: Site, ann: Actor) -> None:
    make(ann, "shop", planned(gain=300.0, effort="week"))
    quick = make(ann, "shop", planned(query=5, gain=30.0, due=TODAY - timedelta(days=1)))
    make(ann, "shop", planned(query=None, gain=100.0, effort="day"))
    told = planning.tell_moves(shop, "", "", TODAY)
    assert [row["gain"] for row in told["rows"]] == [30.0, 100.0, 300.0]
    assert told["rows"][0]["late"]
    assert "3 moves to make, together at least 330 clicks a month; 1 is late" in told["sentences"][0]
    moves.change(ann, "shop", quick.id, 1, {"state": "under way"})
    assert [row["id"] for row in planning.tell_moves(shop, "under way", "", TODAY)["rows"]] == [quick.id]
    assert [row["query"] for row in planning.tell_moves(shop, "", "FOR THE SEA", TODAY)["rows"]] == ["kayak for the sea"]


def test_two_who_change_one_move_lose_nothing(shop: Site, ann: Actor) -> None:
    ben = analyst(shop, "ben")
    move = make(ann, "shop", planned())
    moves.change(ann, "shop", move.id, 1, {"note": "Ann's words"})
    other = moves.change(ben, "shop", move.id, 1, {"effort": "day"})  # another field: both stand
    assert (other.note, other.effort, other.version) == ("Ann's words", "day", 3)
    with pytest.raises(Conflict) as refused:
        moves.change(ben, "shop", move.id, 1, {"note": "Ben's words", "state": "under way"})
    assert refused.value.fields == ["note"]
    kept = moves.find(shop, move.id)
    assert (kept.note, kept.state, kept.version) == ("Ann's words", "to do", 3)  # nothing of the refused change
    moves.change(ben, "shop", move.id, 1, {"note": "Ann's words"})  # the same words are no conflict
    moves.change(ben, "shop", move.id, 3, {"note": "Both", "who": "ben"})
    told = planning.tell_move(shop, move.id, TODAY)["history"]
    assert [(one["field"], one["before"], one["after"], one["by"]) for one in told[:2]] == [
        ("note", "Ann's words", "Both", "ben"),
        ("who", None, "ben", "ben"),
    ]


def test_several_moves_are_changed_together_or_not_at_all(shop: Site, ann: Actor) -> None:
    first, second = make(ann, "shop", planned()), make(ann, "shop", planned(query=5))
    made = moves.change_all(ann, "shop", {first.id: 1, second.id: 1}, {"made_on": LAST, "who": "ann"})
    assert [(one.state, one.made_on, one.who_id) for one in made] == [("made", LAST, ann.user.id)] * 2
    ben = analyst(shop, "ben")
    moves.change(ben, "shop", second.id, 2, {"who": "ben"})
    with pytest.raises(Conflict):
        moves.change_all(ann, "shop", {first.id: 2, second.id: 2}, {"who": None})
    assert moves.find(shop, first.id).who_id == ann.user.id  # the first one neither
    with pytest.raises(Invalid, match="1 to 500"):
        moves.change_all(ann, "shop", {}, {"who": None})


def test_states_need_their_day_or_their_reason(shop: Site, ann: Actor) -> None:
    move = make(ann, "shop", planned())
    with pytest.raises(Invalid, match="for a reason"):
        moves.change(ann, "shop", move.id, 1, {"state": "left alone"})
    with pytest.raises(Invalid, match="in the future"):
        moves.change(ann, "shop", move.id, 1, {"made_on": timezone.localdate() + timedelta(days=3)})
    with pytest.raises(Invalid, match="may not change this site"):
        moves.change(ann, "shop", move.id, 1, {"who": "nobody"})
    with pytest.raises(Conflict, match="cannot be told yet"):
        planning.measured(shop, move.id)
    made = moves.change(ann, "shop", move.id, 1, {"made_on": LAST - timedelta(days=40)})
    assert made.state == "made"
    reader = analyst(shop, "rea", role="reader")
    with pytest.raises(NotAllowed):
        moves.change(reader, "shop", move.id, 2, {"note": "x"})


def test_a_dropped_move_is_gone_and_can_be_put_back(shop: Site, ann: Actor) -> None:
    move = make(ann, "shop", planned())
    moves.drop(ann, "shop", move.id)
    assert planning.tell_moves(shop, "", "", TODAY)["rows"] == []
    with pytest.raises(NotFound):
        moves.change(ann, "shop", move.id, 1, {"note": "late words"})
    moves.put_back(ann, "shop", move.id)
    assert len(planning.tell_moves(shop, "", "", TODAY)["rows"]) == 1


def test_what_has_a_move_or_is_set_aside_is_decided_until_its_day(shop: Site, ann: Actor) -> None:
    make(ann, "shop", planned(page=1, query=1))
    decide(ann, "shop", Decided([Subject(2, 2)], "aside", until=TODAY + timedelta(days=2), note="later"))
    held = {(one.page, one.query): one.word for one in marks(shop, TODAY)}
    assert held == {(1, 1): "to do", (2, 2): "set aside"}
    assert (2, 2) not in {(one.page, one.query) for one in marks(shop, TODAY + timedelta(days=2))}

    def rows(decided: str) -> set[tuple[int, int]]:
        question = queries.Question(lens="striking-distance", min_impressions=1, decided=decided)  # type: ignore[arg-type]
        return set(queries.ask(shop, question, TODAY).rows.select("page", "query").iter_rows())

    assert rows("settled") == {(1, 1), (2, 2)}
    assert rows("open") & {(1, 1), (2, 2)} == set()
    contested = find(shop, "clashes", Scope(), TODAY)["rows"][0]["query_id"]
    decide(ann, "shop", Decided([Subject(query=contested)], "aside", until=TODAY + timedelta(days=2)))
    open_ones = [row["query_id"] for row in find(shop, "clashes", Scope(decided="open"), TODAY)["rows"]]
    assert contested not in open_ones
    later = find(shop, "clashes", Scope(decided="open"), TODAY + timedelta(days=3))["rows"]
    assert contested in [row["query_id"] for row in later]


@pytest.fixture
def many(site: Site) -> Site:
    """Sixty pages of one row each, steady but for noise of the days; page 1 doubles its clicks 30 days before the end."""
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
    told = planning.tell_move(many, moved.id, TODAY)["outcome"]
    facts = pl.DataFrame({"n": range(1, 29)}).select(((10 + (7 + 30 - pl.col("n")) % 4) * 2).sum()).item()
    assert told["after"]["clicks"] == facts  # the 28 days behind the day of the move
    assert told["came_of_it"] == pytest.approx(facts / 28 / 2, rel=0.03)
    assert told["places_gained"] == pytest.approx(2.0)
    assert told["untouched"] == 57  # of 59 others, two pages are touched by other moves
    assert told["evidence"] == "likely"
    assert "Of 57 untouched rows of its size none rose as far. Likely the move." in told["sentences"][1]
    of_page = planning.tell_move(many, quiet.id, TODAY)["outcome"]
    assert of_page["evidence"] == "thin"
    assert abs(of_page["came_of_it"]) < 0.5
    waits = planning.tell_move(many, late.id, TODAY)
    assert waits["outcome"] is None
    assert "can be told with data to" in waits["waiting"]
    moves.keep_outcome(ann, "shop", moved.id, planning.measured(many, moved.id))
    Move.objects.filter(id=moved.id).update(made_on=LAST)  # whatever the data say later, the record stays
    kept = planning.tell_move(many, moved.id, TODAY)
    assert (kept["state"], kept["outcome"]["came_of_it"]) == ("measured", told["came_of_it"])
