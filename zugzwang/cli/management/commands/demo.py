"""`manage.py demo`: make the demo scenario's data, site and account, unless they stand already."""

import tempfile
from pathlib import Path
from typing import Any

from django.contrib.auth.models import User

from demo.scenario import BRAND_PATTERNS, SITE_ADDRESS, SITE_NAME, SITE_SLUG, make_facts
from zugzwang.access import OPERATOR, Actor
from zugzwang.cli.base import ProductCommand
from zugzwang.desk.sites import add_site, change_site, site_days
from zugzwang.intake.loading import load_search_facts
from zugzwang.store.models import Site

USERNAME, PASSWORD = "demo", "marrowbank"


class Command(ProductCommand):
    help = "Make the demo scenario (Marrowbank Paddle Supply) and an account to look at it. Does nothing the second time."

    def handle(self, *args: Any, **options: Any) -> None:
        user = User.objects.filter(username=USERNAME).first()
        if user is None:
            self.stdout.write(f"Making the demo account “{USERNAME}”.")
            # Set directly: the password is public and meant to be weak.
            user = User.objects.create_user(USERNAME, password=PASSWORD)
        site = Site.objects.filter(slug=SITE_SLUG).first()
        if site is None:
            self.stdout.write(f"Adding the site {SITE_NAME}.")
            site = add_site(Actor(user), SITE_NAME, SITE_ADDRESS, SITE_SLUG)
            change_site(OPERATOR, SITE_SLUG, brand_patterns=BRAND_PATTERNS)
        if site_days(site) is None:
            self.stdout.write("Making sixteen months of search facts (a quarter of a minute).")
            with tempfile.TemporaryDirectory() as folder:
                path = Path(folder) / "marrowbank-search-facts.csv"
                make_facts().write_csv(path)
                self.stdout.write(f"Loading {path.stat().st_size / 1e6:.0f} MB of CSV.")
                report = load_search_facts(site, path, path.name, lambda *_: None).report
            self.stdout.write(f"Loaded {report.loaded:,} facts, {report.pages:,} pages, {report.queries:,} queries.")
        self.stdout.write(f"The demo stands. Sign in as “{USERNAME}” with the password “{PASSWORD}”.")
