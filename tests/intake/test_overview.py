"""The page of all sites: from stored figures, never outdated ones, and fast for any number of sites."""

from datetime import timedelta

import polars as pl
import pytest
from django.contrib.auth.models import User
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from tests.conftest import keep
from zugzwang.access import Actor
from zugzwang.core.facts.grains import PAGE_QUERY
from zugzwang.data.blocks import read_facts
from zugzwang.data.models import Block, LoadPart, Membership, Site
from zugzwang.intake import overview

pytestmark = pytest.mark.usefixtures("planted")


def state(user: User, slug: str = "shop") -> overview.SiteState:
    return next(one for one in overview.portfolio(Actor(user)) if one.slug == slug)


def test_what_is_kept_is_what_would_be_worked_out_and_follows_the_facts(site: Site, analyst: User) -> None:
    first = state(analyst)
    assert first.ready
    assert (first.clicks or 0) > 1_000
    assert (first.lost or 0) > 10
    site.refresh_from_db()
    assert overview.stored_figures(site, timezone.localdate()) is not None
    assert state(analyst) == first
    # Tomorrow's is calculated tomorrow; other facts, or other decisions, are never reported by those of before.
    assert overview.stored_figures(site, timezone.localdate() + timedelta(days=1)) is None
    half = read_facts(site, PAGE_QUERY).with_columns(clicks=pl.col("clicks") // 2)
    keep(site, half)
    site.refresh_from_db()
    assert overview.stored_figures(site) is None
    second = state(analyst)
    assert (second.clicks or 0) < 0.6 * (first.clicks or 0)
    Site.objects.filter(id=site.id).update(plan_version=1)
    assert overview.stored_figures(Site.objects.get(id=site.id), timezone.localdate()) is None


def test_a_thousand_sites_are_asked_for_as_one_is(site: Site, analyst: User, monkeypatch: pytest.MonkeyPatch) -> None:
    def queries() -> int:
        with CaptureQueriesContext(connection) as asked:
            overview.portfolio(Actor(analyst))
        return len(asked)

    state(analyst)
    alone = queries()
    more = Site.objects.bulk_create(
        Site(slug=f"site-{n}", name=f"Site {n}", address="https://shop.example") for n in range(200)
    )
    Membership.objects.bulk_create(
        Membership(site=one, user=analyst, role="reader" if n % 2 else "analyst") for n, one in enumerate(more)
    )
    # No one waits for all of them: what is not calculated says so, and the clock sees to it.
    monkeypatch.setattr(overview, "ASKED_SECONDS", 0.0)
    assert not state(analyst, "site-7").ready
    assert overview.make_all(600) == 200
    assert state(analyst, "site-7").ready
    assert not state(analyst, "site-7").may_change
    assert state(analyst, "site-8").may_change
    assert queries() == alone
    assert overview.make_all(600) == 0


def test_a_damaged_site_is_told_and_spoils_no_other(site: Site, analyst: User) -> None:
    Block.objects.filter(site=site).update(payload=b"damaged")
    LoadPart.objects.filter(load__site=site).update(payload=b"damaged")
    assert overview.make_all(60) == 1
    result = state(analyst)
    assert result.ready
    assert "damaged on disk" in result.unsound[0]
    assert result.clicks is None


def test_an_answer_worked_out_of_older_facts_is_not_kept(site: Site, analyst: User) -> None:
    old = Site.objects.get(id=site.id)
    Site.objects.filter(id=site.id).update(data_version=5)
    overview.make(old, timezone.localdate())
    assert Site.objects.get(id=site.id).overview == {}
