"""Cleaning: which addresses are merged and why, what is excluded, page types and query groups; and nothing is lost."""

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zugzwang.core.facts.cleaning import LEFT_OUT, PageType, QueryGroup, Rules, fold, page_types, query_groups
from zugzwang.core.facts.patterns import PatternError, check_patterns
from zugzwang.core.words.brand import suggest

SITE = "https://www.shop.example"


def folded(*texts: str, rules: Rules | None = None, crawled: pl.DataFrame | None = None) -> list[tuple[int, str, list[str]]]:
    pages = pl.DataFrame({"id": pl.Series(range(1, len(texts) + 1), dtype=pl.UInt32), "text": texts})
    return [tuple(row) for row in fold(pages, SITE, rules or Rules(), crawled).select("counts_as", "folded", "reasons").rows()]  # type: ignore[misc]


@pytest.mark.parametrize(
    ("variant", "reasons"),
    [
        (f"{SITE}/a/?utm_source=letter&utm_medium=email", ["parameters"]),
        (f"{SITE}/a/?gclid=1#top", ["fragment", "parameters"]),
        (f"{SITE}/a/#reviews", ["fragment"]),
        ("http://www.shop.example/a/", ["host or scheme"]),
        ("https://shop.example/a/", ["host or scheme"]),
        (f"{SITE}/x/../a/", ["spelling"]),
        (f"{SITE}/%61/", ["spelling"]),
        (f"{SITE}/a/;jsessionid=7F", ["spelling"]),
        (f"{SITE}/a", ["trailing slash"]),
    ],
)
def test_variants_of_a_page_count_as_it_with_their_reason(variant: str, reasons: list[str]) -> None:
    assert folded(f"{SITE}/a/", variant)[1] == (1, f"{SITE}/a/", reasons)


def test_pages_at_a_former_host_count_as_those_of_today() -> None:
    rules = Rules(former_hosts=("old.example",), separate=("^https://old.example/kept$",))
    old = ["http://old.example/a/", "https://www.old.example/a/?gclid=1", "https://old.example/kept", "https://bold.example/a/"]
    result = folded(f"{SITE}/a/", *old, rules=rules)
    assert [row[0] for row in result] == [1, 1, 1, 4, 5]
    assert result[1][2] == ["former host"]
    assert result[2][2] == ["parameters", "former host"]


def test_other_parameters_and_other_hosts_stay_apart() -> None:
    result = folded(f"{SITE}/a?colour=red", f"{SITE}/a?colour=blue", f"{SITE}/a?b=2&a=1", "https://staging.shop.example/a")
    assert [row[0] for row in result] == [1, 2, 3, 4]
    assert result[2][1:] == (f"{SITE}/a?a=1&b=2", ["order of parameters"])


def test_a_slash_folds_only_where_both_are_seen_and_as_most_have_it() -> None:
    assert [row[1] for row in folded(f"{SITE}/a", f"{SITE}/b/", f"{SITE}/c/")] == [f"{SITE}/a", f"{SITE}/b/", f"{SITE}/c/"]
    assert folded(f"{SITE}/a", f"{SITE}/a/", f"{SITE}/b", f"{SITE}/c")[1][1] == f"{SITE}/a"
    assert folded(f"{SITE}/f.pdf", f"{SITE}/", rules=Rules(slash="with"))[0][1] == f"{SITE}/f.pdf"
    assert folded(f"{SITE}/a", f"{SITE}/a/", rules=Rules(slash="separate"))[1][0] == 2


def test_the_crawl_says_which_slash() -> None:
    crawled = pl.DataFrame({"address": [f"{SITE}/a/"], "points_to": [f"{SITE}/a"]})
    assert folded(f"{SITE}/a/", f"{SITE}/b/", crawled=crawled)[0] == (1, f"{SITE}/a", ["trailing slash"])


def test_what_is_kept_apart_or_left_out() -> None:
    rules = Rules(separate=(r"utm_source=letter$",), left_out=(r"//staging\.",))
    result = folded(f"{SITE}/a/", f"{SITE}/a/?utm_source=letter", "https://staging.shop.example/a/", rules=rules)
    assert [row[0] for row in result] == [1, 2, LEFT_OUT]


def test_what_is_left_out_is_judged_by_the_address_that_counts() -> None:
    """Not by the original address: a dropped parameter excludes nothing, and every spelling of a page is treated alike."""
    of_parameter = Rules(left_out=("utm_source",))
    assert folded(f"{SITE}/a/?utm_source=letter", rules=of_parameter)[0][0] != LEFT_OUT
    of_page = Rules(left_out=(rf"^{SITE}/a/$",))
    assert folded("http://www.shop.example/a/?utm_source=letter#top", rules=of_page)[0][0] == LEFT_OUT


addresses = st.builds(
    "{}/{}{}{}".format,
    st.sampled_from([SITE, "http://shop.example", "https://other.example"]),
    st.sampled_from(["a", "b", "a/b", "ä", "%7E"]),
    st.sampled_from(["", "/", "/?x=1", "?x=1&utm_a=2", "?utm_a=2"]),
    st.sampled_from(["", "#top"]),
)


@given(st.lists(addresses, min_size=1, max_size=12, unique=True), st.sampled_from(["seen", "with", "without", "separate"]))
def test_folding_settles(texts: list[str], slash: str) -> None:
    """Merging is idempotent: merged pages have one address, and a second merge changes nothing."""
    result = folded(*texts, rules=Rules(slash=slash))  # type: ignore[arg-type]
    by_id: dict[int, set[str]] = {}
    for counts_as, address, _ in result:
        by_id.setdefault(counts_as, set()).add(address)
    assert all(len(entry) == 1 for entry in by_id.values())
    distinct = sorted({address for _, address, _ in result})
    again = folded(*distinct, rules=Rules(slash=slash))  # type: ignore[arg-type]
    assert [address for _, address, _ in again] == distinct


def test_the_first_type_that_matches_counts_by_address_or_by_structured_data() -> None:
    pages = pl.DataFrame({"text": [f"{SITE}/tag/red/", f"{SITE}/red-kayak/", f"{SITE}/else/"]})
    structured = pl.DataFrame(
        {"text": [f"{SITE}/red-kayak/", f"{SITE}/tag/red/"], "structured_data": [["Product"], ["Product"]]}
    )
    types = [PageType("listing", ("/tag/",)), PageType("product", structured_data=("Product",))]
    assert page_types(pages, types, structured)["type"].to_list() == ["listing", "product", None]


def test_a_query_may_be_in_several_groups() -> None:
    groups = [QueryGroup("hire", (r"\bhire\b", "rental")), QueryGroup("kayak", ("kayak",))]
    rows = query_groups(pl.DataFrame({"text": ["Kayak hire", "canoe rental", "paddle"]}), groups)
    assert rows["groups"].to_list() == [["hire", "kayak"], ["hire"], []]


def test_a_pattern_that_cannot_be_read_is_named() -> None:
    with pytest.raises(PatternError, match=r"“\[a” cannot be used: unclosed character class$"):
        check_patterns(["kayak", "[a"])


def test_brands_are_suggested_by_the_name_and_by_how_they_are_clicked() -> None:
    """Planted: "zorbo" has three times the CTR of other queries in position 1; "kayak" has not."""
    plain = [(f"kayak {n}", 60, 200, 1.1) for n in range(20)] + [(f"kayak deep {n}", 2, 200, 8.0) for n in range(20)]
    brand = [(f"zorbo {word}", 180, 200, 1.0) for word in ("boats", "shop", "jobs", "hours")] + [
        ("red shop hire", 90, 100, 1.0)
    ]
    rows = pl.DataFrame(plain + brand, schema=["query", "clicks", "impressions", "position"], orient="row")
    found = suggest(rows, "www.redshop.example", pl.Series([], dtype=pl.String))
    assert [(one.pattern, one.queries) for one in found] == [("red[ -]?shop", 1), (r"\bzorbo\b", 4)]
    assert found[1].ctr == pytest.approx(0.9)
    assert not suggest(rows, "www.other.example", rows["query"])
