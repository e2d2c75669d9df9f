"""`make hostile-requests`: expensive requests, sent to a real installation by each role, on loopback only. Roles: anonymous
visitor, reader, analyst, owner, administrator, API token. Each sends REQUESTS (240) requests drawn by SEED, CLIENTS (6) at
once: nesting, size, repetition, encodings, patterns, forged ids, files. Bars: no request takes over 10 s, no 5xx except 503
with words, the web process stays below 1.2 GB, and health answers within a second.
"""

import gzip
import json
import os
import random
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import httpx

from bench.hostile import KINDS, Chance, clipped, installation, memory_mb, png

ROOT = Path(__file__).parent.parent
REQUESTS, CLIENTS, SEED = (int(os.environ.get(name, usual)) for name, usual in (("REQUESTS", 240), ("CLIENTS", 6), ("SEED", 1)))
SECONDS, HEALTH_SECONDS, WEB_MB = 10.0, 1.0, 1_200
ROLES = ("anonymous", "reader", "analyst", "owner", "administrator", "script")
MAKE = """
import django; django.setup()
import json, sys
from datetime import date, timedelta
from pathlib import Path
from django.contrib.auth.models import User
from django.test import Client
from django.utils import timezone
from tests.planted import planted_site
from zugzwang.access import OPERATOR, Actor
from zugzwang.data.models import Draft, Membership, Query, Site
from zugzwang.intake.loading import load_file
from zugzwang.people.tokens import add_token
from zugzwang.plan.reports import Template, add_template
rows = planted_site(queries=400, poor=6, movers=5).facts
import polars as pl
named = rows.select(pl.col("day").alias("date"), ("https://shop.example/p" + pl.col("page").cast(pl.String)).alias("page"),
                    ("query " + pl.col("query").cast(pl.String)).alias("query"), "clicks", "impressions", "position")
path = Path(sys.argv[1]); named.write_csv(path)
site = Site.objects.get(slug="shop")
load_file(site, path, "facts.csv")
cookies = {}
for name in ("reader", "analyst", "owner", "administrator"):
    user = User.objects.create_user(name, password="a long password", is_superuser=name == "administrator")
    if name != "administrator":
        Membership.objects.create(site=site, user=user, role=name)
    client = Client(); client.force_login(user)
    cookies[name] = client.cookies["sessionid"].value
owner = Actor(User.objects.get(username="owner"))
_, secret = add_token(owner, "script", ["shop"], "analyst", timezone.localdate() + timedelta(days=9))
add_template(owner, "shop", Template("Monthly"))
draft = Draft.objects.create(site=site, query=Query.objects.first(), name="A draft", text="<p>Words.</p>")
print(json.dumps({"cookies": cookies, "token": secret, "draft": draft.id}))
"""
Request = tuple[str, str, dict[str, Any]]  # method, path, what httpx sends


def deep(chance: Chance, opens: str, closes: str, most: int) -> str:
    number = chance.randrange(most // 10, most)
    return opens * number + closes * chance.choice([number, 0, number // 2])


def html(chance: Chance) -> str:
    texts: list[Callable[[], str]] = [
        lambda: deep(chance, "<blockquote>", "</blockquote>", 30_000),
        lambda: deep(chance, "<div>", "</div>", 60_000),
        lambda: "<p>same words</p>" * chance.randrange(1_000, 22_000),
        lambda: "<blockquote></i>" * chance.randrange(1_000, 24_000),
        lambda: "word " * chance.randrange(10_000, 80_000),
        lambda: "<img src=a>" * chance.randrange(1_000, 36_000),
        lambda: f"<a href='{'x' * 300_000}'>far</a>",
        lambda: "".join(f"<b title={n}>" for n in range(20_000)),
        lambda: "<table>" + "<tr><td>x" * 20_000,
        lambda: "&amp;" * 70_000,
        lambda: "\u202e\0\ufffe" * 9_000,
    ]
    return chance.choice(texts)()


def markdown(chance: Chance) -> str:
    return chance.choice(
        [
            "- x\n" * 4_900,
            "> " * 9_000,
            "*a **b " * 2_500,
            "[" * 19_000,
            "`" * 19_000,
            "[x]()",
            f"[x](http://{'y' * 9_000}.example)",
            "# x\n" * 590,
            "|a|b|\n" * 3_000,
            "".join(" " * n + "- x\n" for n in range(190)),
            "![x](file:///etc/passwd)",
        ]
    )


def pattern(chance: Chance) -> str:
    return chance.choice(
        [
            rf"\w{{{chance.randrange(20, 900)}}}0",
            r"(?:\w{14}){14}",
            r"(a+)+$",
            "(" * 90,
            r"[\w\d\s]{90}",
            r"\p{L}{90}",
            "x" * 190,
            r"(?i)" * 40,
            r"(?P<a>" * 20,
            r".*.*.*.*.*=",
            "[^" * 60,
            r"\pL" * 60,
        ]
    )


def forged(chance: Chance) -> str:
    return chance.choice(
        ["0", "-1", str(2**63), str(2**200), "1e9", "%00", "..%2f..%2fetc", "NaN", "1;drop table", "9" * 4_000]
    )


def words(chance: Chance) -> dict[str, str]:
    return {"title": "t" * chance.choice([5, 1_900, 900_000]), "description": "", "text": html(chance)}


def save_draft(chance: Chance, draft: int) -> Request:
    window, take = "window-here-1", {"window": "window-here-1", "take": True}
    if chance.random() < 0.3:
        return "POST", f"/sites/shop/drafts/{draft}/writer", {"json": take}
    base = {"title": "", "description": "", "text": html(chance)}
    return "PUT", f"/sites/shop/drafts/{draft}", {"json": {**words(chance), "seen": 0, "base": base, "window": window}}


def preview(chance: Chance, draft: int) -> Request:
    names = ("changes", "why", "found", "done", "trials", "links", "next")
    parts = [{"name": name, "words": markdown(chance)[:20_000]} for name in names]
    return "POST", "/sites/shop/reports/preview", {"json": {"name": "x", "parts": parts}}


def findings(chance: Chance, draft: int) -> Request:
    name = chance.choice(["low-ctr", "pages", "clashes", "topics", "titles", "mentions", "sections", "moves"])
    asked: list[tuple[str, Any]] = [("brand", pattern(chance)) for _ in range(chance.choice([0, 1, 90, 400]))]
    asked += [("phrase", "x" * 190) for _ in range(chance.choice([0, 0, 240]))]
    asked += [(chance.choice(["first", "last", "min_impressions", "offset", "limit", "position_from"]), forged(chance))]
    asked += [("text", chance.choice(["", "\\", "%", "\0", "é" * 400, "'" * 400]))]
    return "GET", f"/sites/shop/findings/{name}{chance.choice(['', '/file'])}", {"params": asked}


def brand(chance: Chance, draft: int) -> Request:
    asked = [("pattern", pattern(chance)) for _ in range(chance.choice([1, 90, 330]))]
    return "GET", "/sites/shop/brand", {"params": asked}


def settings(chance: Chance, draft: int) -> Request:
    result = chance.choice(
        [
            {"brand_patterns": [pattern(chance) for _ in range(chance.choice([1, 90, 10_000]))]},
            {"min_impressions": chance.choice([-1, 2**62, 10**400])},
            {"curve": [{"position": n % 100 + 1, "ctr": 0.5} for n in range(chance.choice([2, 200_000]))]},
        ]
    )
    return "PATCH", "/sites/shop", {"json": result}


def rules(chance: Chance, draft: int) -> Request:
    groups = [{"name": f"g{n}", "patterns": [pattern(chance) for _ in range(4)]} for n in range(chance.choice([2, 400]))]
    return (
        chance.choice(["PUT", "POST"]),
        chance.choice(["/sites/shop/rules", "/sites/shop/rules/effect"]),
        {"json": {"query_groups": groups, "left_out": [pattern(chance)], "apart": [], "drop_parameters": ["x" * 9_000]}},
    )


def numbers(chance: Chance, draft: int) -> Request:
    path = chance.choice(
        [
            "moves/{}",
            "drafts/{}",
            "jobs/{}",
            "loads/{}",
            "reports/{}",
            "drafts/{}/versions/{}/{}",
            "pages/{}",
            "queries/{}",
            "trials/{}",
            "audit?before={}",
        ]
    )
    return chance.choice(["GET", "DELETE", "POST", "PATCH"]), "/sites/shop/" + path.replace("{}", forged(chance)), {}


def odd_bodies(chance: Chance, draft: int) -> Request:
    bodies: list[Callable[[], bytes]] = [
        lambda: b"[" * 900_000,
        lambda: b'{"a":' * 200_000,
        lambda: gzip.compress(bytes(50_000_000)),
        lambda: b"\xff\xfe" * 90_000,
        lambda: b'{"name": "' + b"\\u0000" * 90_000 + b'"}',
        lambda: b'{"name": 1' + b"0" * 900_000 + b"}",
        lambda: b'{"name": "x", ' + b'"a": 1, ' * 200_000 + b'"b": 2}',
    ]
    body = chance.choice(bodies)()
    kind = chance.choice(["application/json", "application/json; charset=utf-16", "text/plain", "multipart/form-data", "x/y"])
    path = chance.choice(
        [
            "/sites",
            "/sites/shop/moves",
            "/sites/shop/views",
            "/session",
            "/sites/shop/trials/plan",
            "/sites/shop/planned-links",
            "/account/reset",
            "/invitations/x",
        ]
    )
    headers = {"Content-Type": kind, **({"Content-Encoding": "gzip"} if chance.random() < 0.3 else {})}
    return "POST", path, {"content": body, "headers": headers}


def names(chance: Chance, draft: int) -> Request:
    name = chance.choice(["x" * 1_000_000, "A\r\nBcc: a@desk.example", "\u202egnp", "\0", "", "é" * 250, "<script>"])
    path, more = chance.choice(
        [
            ("/sites/shop/views", {"address": "pages"}),
            ("/sites", {"address": "https://x.example", "slug": "x"}),
            ("/sites/shop/reports/templates", {}),
            ("/sites/shop/events", {"first_day": "2026-11-09", "title": name}),
            ("/sites/shop/invitations", {"email": f"{name[:50]}@desk.example", "role": "reader"}),
        ]
    )
    return "POST", path, {"json": {"name": name, **more}}


def files(chance: Chance, draft: int) -> Request:
    logos: list[Callable[[], bytes]] = [lambda: png(9_000, 9_000, True), lambda: clipped(20, True), lambda: clipped(900, False)]
    logo = chance.choice(logos)()
    kind = chance.choice(list(KINDS))
    path, content = chance.choice(
        [
            ("/sites/shop/reports/templates/1/logo", logo),
            ("/sites/shop/uploads", KINDS[kind](chance)),
            ("/site-archives", KINDS[kind](chance)),
        ]
    )
    return "POST", path, {"files": {"file": (f"{kind}.csv", content)}}


def addresses(chance: Chance, draft: int) -> Request:
    path = chance.choice(
        [
            "/../../etc/passwd",
            "/sites/%2e%2e/findings",
            "/sites/" + "x" * 7_000,
            "/sites/shop/findings/" + "a" * 900,
            "/static/../settings.py",
            "/sites/shop/facets?" + "a=1&" * 1_500,
            "/methods",
        ]
    )
    return chance.choice(["GET", "PUT", "FOO", "HEAD", "OPTIONS"]), path, {}


def sign_in(chance: Chance, draft: int) -> Request:
    result = {"username": chance.choice(["owner", "x" * 9_000, "\0", "unknown"]), "password": "x" * chance.choice([3, 900_000])}
    return "POST", "/session", {"json": result}


def check(chance: Chance, draft: int) -> Request:
    return "POST", f"/sites/shop/drafts/{draft}/check", {"json": words(chance)}


ALL: tuple[Callable[[Chance, int], Request], ...] = (
    save_draft,
    check,
    preview,
    findings,
    brand,
    settings,
    rules,
    numbers,
    odd_bodies,
    names,
    files,
    addresses,
    sign_in,
)


class Watch:
    """Watches health and the memory of the web process during requests."""

    def __init__(self, address: str, process: int) -> None:
        self.address, self.process = address, process
        self.waits: list[float] = []
        self.most_mb, self.over = 0.0, threading.Event()
        self.thread = threading.Thread(target=self._look)

    def _look(self) -> None:
        while not self.over.wait(0.1):
            begun = time.monotonic()
            assert httpx.get(f"{self.address}/healthz", timeout=60).status_code == 200
            self.waits.append(time.monotonic() - begun)
            self.most_mb = max(self.most_mb, own_mb(self.process))


def own_mb(process: int) -> float:
    """The memory of the process itself, without its children, in MB."""
    status = Path(f"/proc/{process}/status").read_text()
    return sum(int(line.split()[1]) for line in status.splitlines() if line.startswith("RssAnon")) / 1_000


def ask(address: str, headers: dict[str, str], request: Request) -> tuple[int, float, str]:
    method, path, sends = request
    sends = {**sends, "headers": {**headers, **sends.get("headers", {})}}
    begun = time.monotonic()
    try:
        with httpx.Client(timeout=120) as client:
            answer = client.request(method, f"{address}/api{path}", **sends)
    except httpx.InvalidURL:
        return 0, 0.0, "no address that can be sent"
    except httpx.TransportError as error:  # closed in the middle of a body that is not wanted
        return 1, time.monotonic() - begun, type(error).__name__
    return answer.status_code, time.monotonic() - begun, answer.text[:300]


def main() -> None:
    failed: list[str] = []
    with tempfile.TemporaryDirectory() as name, installation(Path(name), ZUGZWANG_METRICS="1") as (address, processes):
        command = [sys.executable, "-c", MAKE, str(Path(name) / "facts.csv")]
        env = {**os.environ, "ZUGZWANG_DATA_DIR": name, "DJANGO_SETTINGS_MODULE": "zugzwang.settings"}
        made = subprocess.run(command, cwd=ROOT, env=env, capture_output=True, text=True, check=True)
        result = json.loads(made.stdout.splitlines()[-1])
        watch = Watch(address, processes["web"].pid)
        watch.thread.start()
        for role in ROLES:
            headers = headers_of(role, address, result)
            chance = random.Random(f"{SEED} {role}")
            asked = [ALL[number % len(ALL)](chance, result["draft"]) for number in range(REQUESTS)]
            with ThreadPoolExecutor(CLIENTS) as pool:
                answers = list(pool.map(lambda one: ask(address, headers, one), asked))  # noqa: B023
            statuses = Counter(status for status, _, _ in answers)
            took = sorted(seconds for _, seconds, _ in answers)
            for (method, path, _), (status, seconds, text) in zip(asked, answers, strict=True):
                if seconds > SECONDS or (status >= 500 and not (status == 503 and "remedy" in text)):
                    failed.append(f"{role}: {method} {path[:80]} → {status} in {seconds:.1f} s {text[:200]}")
            said = f"slowest {took[-1]:.1f} s, median {statistics.median(took):.2f} s, {dict(sorted(statuses.items()))}"
            print(f"{role:14} {len(answers)} requests, {said}", flush=True)
        watch.over.set()
        watch.thread.join()
        alive = all(process.poll() is None for process in processes.values())
        total = memory_mb(processes["web"].pid)
    print("\n".join(failed[:20]))
    state = "alive" if alive else "DEAD"
    print(f"web and worker {state}; {len(failed)} requests over {SECONDS:.0f} s, or 5xx without words")
    print(f"web process at most {watch.most_mb:.0f} MB (now {total:.0f} MB with its children)")
    print(f"health at most {max(watch.waits):.2f} s of {len(watch.waits)}")
    current = alive and not failed and watch.most_mb < WEB_MB and max(watch.waits) < HEALTH_SECONDS
    sys.exit(0 if current else 1)


def headers_of(role: str, address: str, result: dict[str, Any]) -> dict[str, str]:
    if role == "anonymous":
        return {"Origin": address}
    if role == "script":
        return {"Authorization": f"Bearer {result['token']}"}
    cookie = f"sessionid={result['cookies'][role]}"
    token = httpx.get(f"{address}/api/session", headers={"Cookie": cookie}).cookies.get("csrftoken") or ""
    return {"Cookie": f"{cookie}; csrftoken={token}", "X-CSRFToken": token, "Origin": address, "Referer": f"{address}/"}


if __name__ == "__main__":
    main()
