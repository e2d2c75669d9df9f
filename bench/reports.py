"""`make bench-reports`: how long a large report takes to typeset, and 500 reports that are due at once, with workers killed
meanwhile. The mail stand-in receives the mails over SMTP and tells them apart by Message-ID. REPORTS=500 KILLS=50.
"""

import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

from tests.installation import Installation
from tests.planted import planted_site
from tests.standin_server import free_port
from zugzwang.core.reports.blocks import Block, Chart, Document, Part, Sentence, table
from zugzwang.core.reports.charts import bars, lines
from zugzwang.core.reports.typeset import as_pdf
from zugzwang.standins.mail import kept_mails, serve_mail

ROOT = Path(__file__).parent.parent
REPORTS, KILLS, TEMPLATES_A_SITE = int(os.environ.get("REPORTS", 500)), int(os.environ.get("KILLS", 50)), 10
PAGES, CHARTS, WORKERS, MINUTES = 12, 8, 2, 20
MAKE = """
import django; django.setup()
import sys
from datetime import date
from pathlib import Path
from zugzwang.access import OPERATOR
from zugzwang.data.models import ReportTemplate
from zugzwang.intake.loading import load_file
from zugzwang.plan.reports import Template, add_template
from zugzwang.subjects.sites import add_site
facts, sites, templates = Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])
for number in range(sites):
    site = add_site(OPERATOR, f"Shop {number}", f"https://shop-{number}.example", f"shop-{number}")
    load_file(site, facts, "facts.csv")
    for one in range(templates):
        told = Template(f"Report {one}", period="last-4-weeks", schedule="monthly", recipients=[f"{one}@shop-{number}.example"])
        add_template(OPERATOR, site.slug, told)
ReportTemplate.objects.update(begins=date(2026, 1, 1))
"""


def setting() -> None:
    """A report of twelve pages with eight charts, typeset five times."""
    rows = [(f"/guides/how-to-choose-a-paddle-of-the-right-length-{n}/", f"{n * 37:,}", f"{n * 31:,}") for n in range(36)]
    weeks = [float(1_000 + 13 * (n % 17)) for n in range(53)]
    drawn = (
        lines(weeks, weeks[::-1], ("3 Nov 2025", "2 Nov 2026"), "1,208 clicks"),
        bars([(f"part {n}", n - 5.0, str(n)) for n in range(12)]),
    )
    said = Sentence("A sentence that says what the part is about. " * 9, lead=True)
    result: list[Block] = [table(("page", "clicks", "before"), rows), *(Sentence("A paragraph. " * 40) for _ in range(3))]
    parts = [Part(f"Part {n}", (said, Chart(drawn[n % 2], "What it shows."), *result)) for n in range(CHARTS)]
    document = Document("A report", "shop.example", "Desk", "desk@desk.example", tuple(parts))
    taken = []
    for _ in range(5):
        begun = time.perf_counter()
        made = as_pdf(document)
        taken.append(time.perf_counter() - begun)
    pages = made.count(b"/Type/Page") + made.count(b"/Type /Page")
    print(f"{CHARTS} charts, {pages} page objects, {len(made) / 1000:.0f} kB: {min(taken):.2f} to {max(taken):.2f} s (bar 2)")


def states(installation: Installation) -> Counter[str]:
    return Counter(dict(installation.asked("SELECT state, COUNT(*) FROM store_reportsending GROUP BY state")))


def scheduled() -> bool:
    chance = random.Random(1)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        port = free_port()
        server = serve_mail(folder / "mail", port)
        installation = Installation(folder)  # on PostgreSQL where one is set
        env = {
            **installation.env,
            "ZUGZWANG_REPORTS_AT": "00:00",
            "ZUGZWANG_JOB_SILENCE_SECONDS": "5",
            "ZUGZWANG_MAIL": f"smtp://127.0.0.1:{port}",
        }

        def run(*command: str) -> "subprocess.Popen[bytes]":
            log = (folder / "log.txt").open("ab")
            return subprocess.Popen([sys.executable, *command], cwd=ROOT, env=env, stdout=log, stderr=log)

        def worker() -> "subprocess.Popen[bytes]":
            return run("manage.py", "db_worker", "--interval", "0.1", "--no-reload", "--no-startup-delay")

        facts = folder / "facts.csv"
        planted_site(queries=150, poor=3, movers=3).facts.rename({"day": "date"}).write_csv(facts)
        assert run("manage.py", "migrate", "--verbosity", "0").wait() == 0
        sites = max(REPORTS // TEMPLATES_A_SITE, 1)
        assert run("-c", MAKE, str(facts), str(sites), str(TEMPLATES_A_SITE)).wait() == 0, (folder / "log.txt").read_text()
        workers, clock = [worker() for _ in range(WORKERS)], run("manage.py", "clock")
        begun, killed, result = time.monotonic(), 0, 0.0
        wanted = sites * TEMPLATES_A_SITE
        # Spread over what the whole is thought to take, so no kill is left for an idle worker.
        next_kill = begun + 8
        while (sent := states(installation)["sent"]) < wanted and time.monotonic() - begun < 2 * 60 * MINUTES:
            now = time.monotonic()
            if killed < KILLS and now > next_kill:
                at = chance.randrange(WORKERS)
                workers[at].send_signal(signal.SIGKILL)
                workers[at].wait()
                workers[at] = worker()
                killed += 1
                next_kill = now + chance.uniform(1, 6)
            if now - result > 30:
                result = now
                print(f"  {now - begun:.0f} s: {sent} sent, {killed} kills", flush=True)
            time.sleep(0.1)
        took = time.monotonic() - begun
        for one in (*workers, clock):
            one.kill()
            one.wait()
        server.stop()
        mails = kept_mails(folder / "mail")
        of = Counter(str(one["Message-ID"]) for one in mails)
        twice = sum(1 for count in of.values() if count > 1)
        to = Counter(str(one["To"]) for one in mails)
        print(f"{wanted} reports due, {killed} kills, {WORKERS} workers: {took / 60:.1f} minutes (bar {MINUTES}).")
        print(f"{len(of)} different mails to {len(to)} people arrived; {twice} of them came more than once.")
        print(f"As the application tells: {dict(states(installation))}.")
        return len(of) == wanted and len(to) == wanted and took <= 60 * MINUTES


def main() -> None:
    setting()
    sys.exit(0 if scheduled() else 1)


if __name__ == "__main__":
    main()
