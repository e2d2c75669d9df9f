"""What may be stored about a site, and the days that a request means."""

from datetime import date

import pytest
from django.contrib.auth.models import User

from tests.conftest import WriteCsv
from zugzwang.access import OPERATOR, Actor
from zugzwang.core.facts.periods import Period
from zugzwang.data.models import Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid, NotFound
from zugzwang.findings.view import period_for
from zugzwang.intake.loading import load_file
from zugzwang.subjects.sites import add_site, change_site, site_days


@pytest.mark.parametrize(
    ("name", "address", "slug", "field"),
    [
        ("Shop", "ftp://shop.example", "shop", "address"),
        ("Shop", "shop", "shop", "address"),
        ("Shop", "https://shop.example", "my shop", "slug"),
        ("Shop", "https://shop.example", "sign-in", "slug"),
        ("Shop", "https://shop.example", "s" * 51, "slug"),
        (" ", "https://shop.example", "shop", "name"),
        ("Shop", "https://shop.example", "taken", "slug"),
    ],
)
def test_a_site_that_cannot_be(db: None, name: str, address: str, slug: str, field: str) -> None:
    Site.objects.create(slug="taken", name="Taken", address="https://taken.example")
    with pytest.raises(Invalid) as wrong:
        add_site(OPERATOR, name, address, slug)
    assert wrong.value.field == field
    assert Site.objects.count() == 1


def test_who_adds_a_site_may_change_it_and_others_do_not_see_it(db: None) -> None:
    maker, other = (Actor(User.objects.create_user(name)) for name in ("maker", "other"))
    site = add_site(maker, "Shop", "https://shop.example", "shop")
    assert maker.may_change(site)
    assert list(other.sites()) == []
    assert change_site(maker, "shop", min_impressions=7).min_impressions == 7


def test_which_days_a_question_means(site: Site, write_csv: WriteCsv) -> None:
    assert site_days(site) is None
    with pytest.raises(NotFound):
        period_for(Snapshot(site), None, None)
    days = [f"2026-{month:02}-{day:02}" for month in (9, 10) for day in range(1, 31) if (month, day) != (9, 20)]
    path = write_csv([day, "/a", "x", 1, 9, 2] for day in days)
    load_file(site, path, path.name)
    known = site_days(site)
    assert known is not None
    assert (known.first, known.last, known.missing) == (date(2026, 9, 1), date(2026, 10, 30), [date(2026, 9, 20)])
    assert period_for(Snapshot(site), None, None) == Period(date(2026, 9, 7), date(2026, 10, 25))
    assert period_for(Snapshot(site), date(2026, 10, 1), None) == Period(date(2026, 10, 1), date(2026, 10, 25))
    assert period_for(Snapshot(site), date(2026, 10, 28), None) == Period(date(2026, 10, 28), date(2026, 10, 30))
    with pytest.raises(Invalid, match=r"ends .* before it begins"):
        period_for(Snapshot(site), date(2026, 10, 2), date(2026, 10, 1))
    with pytest.raises(Invalid, match="no data on those days"):
        period_for(Snapshot(site), date(2027, 1, 1), None)
