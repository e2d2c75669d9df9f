"""Links to and from a page, with merged addresses counted as one page; faults of a site with known links."""

import networkx as nx
import polars as pl
import pytest

from tests.conftest import keep
from tests.findings.conftest import PAGES, answer, rows
from tests.findings.links_site import PAGES as PAGES_PLANTED
from tests.findings.links_site import SITE, Planted, plant, subject
from zugzwang.core.facts.grains import CRAWL_LINKS, LINKS
from zugzwang.data.models import Page, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings.linking import linked
from zugzwang.subjects.page import links_of


def test_links_count_pages_not_addresses_and_tell_the_menu_from_the_text(shop: Site) -> None:
    assert links_of(Snapshot(shop), 1) is None  # no crawl reported links yet
    Page.objects.create(id=6, site=shop, text=f"{PAGES[2]}?utm_source=letter")  # folds into page 2
    unseen = "https://shop.example/never-shown/"
    rows = [
        (PAGES[2], PAGES[1], "paddle size", True),
        (f"{PAGES[2]}?utm_source=letter", PAGES[1], "paddle size", True),  # the same page once more
        (PAGES[3], PAGES[1], "Guides", False),
        (unseen, PAGES[1], "Guides", False),
        (PAGES[1], PAGES[1], "to the top", True),  # its own link is none
        (PAGES[1], PAGES[3], "boats", True),
        (PAGES[1], unseen, "more", True),
    ]
    names = ["from_address", "to_address", "anchor", "in_body"]
    keep(shop, pl.DataFrame(rows, schema=names, orient="row").with_columns(followed=True), grain=CRAWL_LINKS)
    shop.refresh_from_db()
    result = links_of(Snapshot(shop), 1)
    assert result == {
        "pages_in": 3,
        "pages_in_body": 1,
        "anchors": [{"anchor": "Guides", "pages": 2}, {"anchor": "paddle size", "pages": 1}],
        "from_body": [PAGES[2]],
        "pages_out": 2,
        "sites": None,
    }
    others = pl.DataFrame(
        {"from_address": ["https://a.example/x", "https://www.a.example/y"], "page": [1, 1], "anchor": ["a", "b"]}
    )
    keep(shop, others.with_columns(followed=True), grain=LINKS)
    shop.refresh_from_db()
    result = links_of(Snapshot(shop), 1)
    assert result is not None
    assert result["sites"] == 1  # two pages of one site


def test_what_is_planted_in_links_is_found_and_nothing_else(site: Site) -> None:
    planted = plant(site)
    needs = {row["page_id"] - 1: row for row in rows(site, "needs-links")}
    assert {page for page, row in needs.items() if "orphan" in row["problems"]} == planted.orphans
    assert {page: row["links_out_body"] for page, row in needs.items() if page in range(1, PAGES_PLANTED + 1)} == {
        page: len(needed - {page}) for page, needed in body_links(planted).items()
    }
    wants = {page for page, row in needs.items() if row["action"] == "needs links"}
    assert planted.short <= wants
    assert len(wants - planted.short - planted.orphans) <= 1  # a page whose opportunity is near the bound
    found = {(row["page_id"] - 1, row["target_id"] - 1) for row in rows(site, "mentions") if row["kind"] == "not linked"}
    assert found == planted.mentions
    faults = rows(site, "broken-links")
    for fault, name, wanted in (("to a redirect", "moved", planted.moved), ("to a missing page", "gone", planted.gone)):
        result = {(row["page_id"] - 1, row["to"]) for row in faults if row["fault"] == fault}
        assert result == {(page, f"{SITE}/{name}-{number}/") for page, number in wanted}
    extras = answer(site, "needs-links").extras
    for groups in ("sections", "types", "topics"):
        assert sum(one["wants_links"] for one in extras[groups]) == len(wants)
    plan = rows(site, "suggested-links")
    assert {row["to_id"] - 1 for row in plan} == wants
    assert sum(subject(row["from_id"] - 1) == subject(row["to_id"] - 1) for row in plan) >= 0.9 * len(plan)
    assert not {(row["from_id"] - 1, row["to_id"] - 1) for row in plan} & pairs(planted)


def test_where_nothing_is_planted_nothing_is_to_mend_and_no_mention_lacks_its_link(site: Site) -> None:
    plant(site, seed=4, nothing=True)
    assert rows(site, "broken-links") == []
    assert [row for row in rows(site, "mentions") if row["kind"] == "not linked"] == []
    problems = {one for row in rows(site, "needs-links") for one in row["problems"]}
    assert problems <= {"too few links"}


def body_links(planted: Planted) -> dict[int, set[int]]:
    """The body links of each page: planted links and mentions."""
    extra = {page: min(planted.links[page]) for page in range(1, PAGES_PLANTED + 1)}
    return {page: planted.links[page] | {extra[page]} for page in extra}


def pairs(planted: Planted) -> set[tuple[int, int]]:
    return {(page, other) for page, others in planted.links.items() for other in others}


def test_the_plan_of_one_page_is_the_authority_of_the_graph_with_its_links(site: Site) -> None:
    """Computed again with networkx on all links, including the planned ones."""
    planted = plant(site)
    target = min(planted.short) + 1
    result = answer(site, "suggested-links", page=f"{SITE}/p{target - 1}/")
    plan = result.window()
    assert {row["to_id"] for row in plan} == {target}
    current = linked(result.view.snapshot)
    pages = current.graph.pages.to_list()
    graph = nx.DiGraph()
    graph.add_nodes_from(pages)
    for source, other, weight in current.graph.edges.iter_rows():
        graph.add_edge(pages[source], pages[other], weight=weight)
    jumps = dict(zip(pages, current.jumps.tolist(), strict=True))
    before = nx.pagerank(graph, alpha=0.85, personalization=jumps, dangling=jumps, tol=1e-10, max_iter=500)
    graph.add_edges_from([(row["from_id"], target, {"weight": 1.0}) for row in plan])
    after = nx.pagerank(graph, alpha=0.85, personalization=jumps, dangling=jumps, tol=1e-10, max_iter=500)
    assert result.extras["authority_before"] == pytest.approx(before[target], rel=1e-5)
    assert result.extras["authority_after"] == pytest.approx(after[target], rel=1e-5)
    assert after[target] > 1.5 * before[target]
