"""`manage.py demo`: create the demo's data, site and account, unless they exist.

Each step checks its result, so an interrupted demo continues where it stopped.
"""

import os
import subprocess
import sys
import time
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from typing import Any
from urllib.error import URLError
from urllib.parse import urlsplit
from urllib.request import urlopen

import polars as pl
from django.conf import settings
from django.contrib.auth.models import User
from django.utils import timezone

from demo.moves import (
    ACCEPTED,
    ACCEPTED_FOR,
    MOVES,
    PRICED_CHANGE,
    PRICED_HOPE,
    PRICED_NAME,
    REPORT_CONTACT,
    REPORT_LOGO,
    REPORT_NAME,
    REPORT_OWN_NAME,
    REPORT_WORDS,
    TRIED,
    TRIED_CHANGE,
    TRIED_HOPE,
    TRIED_NAME,
    TRIED_ON,
)
from demo.scenario import (
    BRAND_PATTERNS,
    CURRENCY,
    LAST_DAY,
    PAGE_TYPES,
    PRICED,
    PRICED_DAY,
    QUERY_GROUPS,
    SITE_ADDRESS,
    SITE_NAME,
    SITE_SLUG,
)
from demo.sources import write_sources
from zugzwang.access import OPERATOR, Actor
from zugzwang.cli.base import ProductCommand
from zugzwang.core.facts.cleaning import PageType, QueryGroup
from zugzwang.core.facts.grains import TEXT_SERVICE, Source
from zugzwang.data.decided import Subject
from zugzwang.data.models import Connection, Decision, Job, Load, Move, Page, Query, Report, ReportTemplate, Site, Trial
from zugzwang.data.rules import rules_of
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings.view import ViewOptions
from zugzwang.intake import cleaning, jobs
from zugzwang.intake.connections import connect
from zugzwang.intake.loading import LoadOptions as LoadRequest
from zugzwang.intake.loading import TableRequest, load_file, no_progress
from zugzwang.plan import moves, trials
from zugzwang.plan.decisions import Decided, decide
from zugzwang.plan.outcomes import measured
from zugzwang.plan.proposals import make_moves
from zugzwang.plan.reports import PartOf, Template, add_template, set_logo
from zugzwang.plan.reports import make as make_report
from zugzwang.plan.trials import Planned
from zugzwang.subjects.report import PARTS
from zugzwang.subjects.sites import add_site, change_site
from zugzwang.subjects.warming import warm

USERNAME, PASSWORD = "demo", "marrowbank"
SERVICES = "http://data.marrowbank.example"
TOKEN = "marrowbank-token"  # of the stand-ins, public on purpose
FILES: list[tuple[str, Source]] = [
    ("search-page-query", "search"),
    ("search-page", "search"),
    ("search-query", "search"),
    ("search-day", "search"),
    ("visits", "visits"),
    ("volumes", "volumes"),
    ("links", "links"),
    ("results", "results"),
    ("strengths", "strengths"),
    ("page-queries", "page-queries"),
    ("events", "events"),
]
VISITS_UNTIL = LAST_DAY - timedelta(days=9)  # so there is something to refresh


class Command(ProductCommand):
    help = "Create the demo scenario (Marrowbank Paddle Supply) with an account. Does nothing the second time."

    def handle(self, *args: Any, **options: Any) -> None:
        user = User.objects.filter(username=USERNAME).first()
        if user is None:
            self.stdout.write(f"Creating the demo account “{USERNAME}”.")
            # Set directly: the password is public and deliberately weak.
            user = User.objects.create_user(USERNAME, password=PASSWORD)
        site = Site.objects.filter(slug=SITE_SLUG).first()
        if site is None:
            self.stdout.write(f"Adding the site {SITE_NAME}.")
            site = add_site(Actor(user), SITE_NAME, SITE_ADDRESS, SITE_SLUG)
            change_site(OPERATOR, SITE_SLUG, brand_patterns=BRAND_PATTERNS)
            Site.objects.filter(slug=SITE_SLUG).update(currency=CURRENCY)
            rules = rules_of(site)
            types = tuple(PageType(name, patterns) for name, patterns in PAGE_TYPES.items())
            groups = tuple(QueryGroup(name, patterns) for name, patterns in QUERY_GROUPS.items())
            cleaning.keep(OPERATOR, SITE_SLUG, replace(rules, page_types=rules.page_types + types, query_groups=groups))
        folder = settings.DATA_DIR / "standins"
        if not (folder / "site.ndjson.gz").is_file():
            self.stdout.write("Generating sixteen months of data of every kind (15 seconds).")
            write_sources(folder)
        whole = folder / f"demo-{site.id}-is-whole"
        if not whole.exists():
            self._load(site, user, folder)
            self._plan(Site.objects.get(id=site.id), Actor(user))
            warm(Snapshot(Site.objects.get(id=site.id)), no_progress, timezone.localdate())
            whole.touch()
        self.stdout.write(f"The demo is ready. Sign in as “{USERNAME}” with the password “{PASSWORD}”.")

    def _load(self, site: Site, user: User, folder: Path) -> None:
        for name, source in FILES:
            path = folder / f"{name}.parquet"
            if source == "visits":
                path = folder / "visits-so-far.parquet"
                pl.read_parquet(folder / "visits.parquet").filter(pl.col("day") <= VISITS_UNTIL).write_parquet(path)
            if not Load.objects.filter(site=site, name=f"marrowbank-{name}.parquet").exists():
                asked = LoadRequest(tables={0: TableRequest(source=source)}, user=user)
                report = load_file(site, path, f"marrowbank-{name}.parquet", no_progress, asked).report
                self.stdout.write(f"Loaded {report.loaded:,} rows of {name}.")
            if name in ("search-page-query", "visits", "links", "volumes"):
                self._connect(site, source, source)
        self._connect(site, TEXT_SERVICE, "text")
        address = settings.HOST_MAP.get(urlsplit(SITE_ADDRESS).netloc)
        done = Job.objects.filter(site=site, state=Job.State.DONE).values_list("kind", flat=True)
        if address and not {Job.Kind.CRAWL, Job.Kind.ABOVE} <= {*done}:
            self._crawl(user, address)

    def _connect(self, site: Site, source: str, path: str) -> None:
        if not Connection.objects.filter(site=site, source=source).exists():
            connect(OPERATOR, SITE_SLUG, source, f"{SERVICES}/{path}", TOKEN, False, False)

    def _plan(self, site: Site, actor: Actor) -> None:
        """The moves and the decision that exist when the demo begins."""
        pages = dict(Page.objects.filter(site=site).values_list("text", "id"))
        queries = dict(Query.objects.filter(site=site).values_list("text", "id"))
        today = timezone.localdate()
        for one in MOVES:
            page, query = pages[one.page], queries[one.query]
            if Move.objects.filter(site=site, page=page, kind=one.kind).exists():
                continue
            # Their results use the data of that time.
            until = one.made_on - timedelta(days=1) if one.made_on else None
            asked = ViewOptions(first=until - timedelta(days=90), last=until) if until else ViewOptions()
            fields = {"kind": one.kind, "effort": one.effort, "note": one.note, "who": USERNAME, "due": one.due}
            (move,) = make_moves(actor, SITE_SLUG, asked, [Subject(page, query)], one.finding, fields, today)
            if one.state != "to do":
                made = {"made_on": one.made_on} if one.made_on else {}
                moves.change(actor, SITE_SLUG, move.id, move.version, {"state": one.state, **made})
            if one.kept:
                moves.keep_outcome(actor, SITE_SLUG, move.id, measured(Snapshot(site), move.id, today))
        if not Decision.objects.filter(site=site, query=queries[ACCEPTED]).exists():
            decide(actor, SITE_SLUG, Decided([Subject(query=queries[ACCEPTED])], "accept", note=ACCEPTED_FOR))
        guides = [Subject(number) for address, number in sorted(pages.items()) if TRIED in address]
        tried = Planned(guides, TRIED_CHANGE, TRIED_ON, TRIED_NAME, hope=TRIED_HOPE, design="randomised", seed=3)
        rental = [Subject(number) for address, number in sorted(pages.items()) if urlsplit(address).path in PRICED]
        priced = Planned(rental, PRICED_CHANGE, PRICED_DAY, PRICED_NAME, hope=PRICED_HOPE, seed=3)
        for trial in (tried, priced):
            if Trial.objects.filter(site=site, name=trial.name).exists():
                continue
            trials.read(actor, SITE_SLUG, trials.start(actor, SITE_SLUG, trial, today).id)

        if not Report.objects.filter(site=site).exists():
            self._report(actor, site)

    def _report(self, actor: Actor, site: Site) -> None:
        ReportTemplate.objects.filter(site=site, name=REPORT_NAME).delete()  # from an interrupted attempt
        parts = [PartOf(name, REPORT_WORDS if name == "changes" else "") for name in PARTS]
        template = add_template(
            actor, SITE_SLUG, Template(REPORT_NAME, parts, own_name=REPORT_OWN_NAME, contact=REPORT_CONTACT)
        )  # fmt: skip
        set_logo(actor, SITE_SLUG, template.id, REPORT_LOGO)
        make_report(actor, SITE_SLUG, template.id)

    def _crawl(self, user: User, address: str) -> None:
        """Crawl the simulated site, which the stand-ins serve meanwhile."""
        self.stdout.write("Crawling the simulated site.")
        bind = [f"--listen={urlsplit(address).netloc}", "--threads=4"]
        command = [sys.executable, "-m", "waitress", *bind, "zugzwang.standins.app:application"]
        served = subprocess.Popen(command, env={**os.environ, "ZUGZWANG_DATA_DIR": str(settings.DATA_DIR)})
        try:
            for _ in range(100):
                try:
                    urlopen(f"{address}/search/about", timeout=1)
                except URLError as error:
                    if getattr(error, "code", None):
                        break
                    time.sleep(0.1)
            interrupted = Job.objects.filter(site__slug=SITE_SLUG, state__in=(Job.State.WAITING, Job.State.RUNNING))
            interrupted.update(state=Job.State.CANCELLED)
            job = jobs.ask_for_crawl(Actor(user), SITE_SLUG, {"hosts": ["staging.marrowbank.example"]})
            jobs.run_job.func(job.id)
            self.stdout.write("Fetching the competing pages of its SERPs.")
            jobs.run_job.func(jobs.fetch_competing_pages(Actor(user), SITE_SLUG, None).id)
        finally:
            served.terminate()
            served.wait(10)
