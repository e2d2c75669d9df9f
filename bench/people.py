"""`make bench-people`: thirty people at once on a site of 4 million facts, nothing cached, next to large uploads. Each opens
every place in a different order, as the front end does; a request that has to wait is repeated. The wait is measured to the
answer. All start at the same moment and read each answer for some seconds (PAUSE, the mean of an exponential). Meanwhile
health is requested all the time, and one person keeps signing in. ROWS=4000000 PEOPLE=30 UPLOADS=5 UPLOAD_MB=400 PAUSE=3;
UPLOADS=0 for people alone.
"""

import json
import os
import random
import shutil
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx

from bench.make_facts import make
from bench.portfolio import memory_of
from tests.installation import Installation
from tests.standin_server import free_port

ROOT = Path(__file__).parent.parent
ROWS, PEOPLE = int(os.environ.get("ROWS", 4_000_000)), int(os.environ.get("PEOPLE", 30))
UPLOADS, UPLOAD_MB = int(os.environ.get("UPLOADS", 5)), int(os.environ.get("UPLOAD_MB", 400))
PAUSE = float(os.environ.get("PAUSE", 3))
PIECE = 1_000_000
MAKE = """
import django; django.setup()
import json, sys
from pathlib import Path
from django.contrib.auth.models import User
from django.test import Client
from zugzwang.access import OPERATOR
from zugzwang.data.models import Membership
from zugzwang.findings.registry import FINDINGS
from zugzwang.intake.loading import load_file
from zugzwang.subjects.sites import add_site
site = add_site(OPERATOR, "Large", "https://large.example", "large")
load_file(site, Path(sys.argv[1]), "facts.csv")
cookies = []
for number in range(int(sys.argv[2])):
    user = User.objects.create_user(f"person-{number}", password="a long password")
    Membership.objects.create(site=site, user=user)
    client = Client()
    client.force_login(user)
    cookies.append(client.cookies["sessionid"].value)
print(json.dumps({"cookies": cookies, "findings": [name for name, one in FINDINGS.items() if one.opens and not one.plan]}))
"""


class Asked:
    def __init__(self, address: str) -> None:
        self.address = address
        self.waits: dict[str, list[float]] = {"cold": [], "warm": []}
        self.turned_away = 0
        self.slowest: tuple[float, str] = (0.0, "")

    def person(self, cookie: str, paths: list[str], when: str, reading: random.Random) -> None:
        with httpx.Client(base_url=self.address, cookies={"sessionid": cookie}, timeout=120) as client:
            for path in paths:
                begun = time.monotonic()
                for attempt in range(60):
                    answer = client.get(path)
                    if answer.status_code != 503:
                        break
                    self.turned_away += 1
                    time.sleep(min(2**attempt, 4))
                assert answer.status_code in (200, 404, 422), (path, answer.status_code, answer.text[:300])
                waited = time.monotonic() - begun
                self.waits[when].append(waited)
                self.slowest = max(self.slowest, (waited, path))
                time.sleep(reading.expovariate(1 / PAUSE) if PAUSE else 0)

    def all(self, cookies: list[str], paths: list[str], when: str) -> None:
        threads = []
        for number, cookie in enumerate(cookies):
            own = random.Random(number).sample(paths, len(paths))
            threads.append(threading.Thread(target=self.person, args=(cookie, own, when, random.Random(number))))
        for one in threads:
            one.start()
        for one in threads:
            one.join()
        waits = sorted(self.waits[when])
        most = waits[int(len(waits) * 0.95)]
        result = f"median {statistics.median(waits):.2f} s, 95 % under {most:.2f} s, longest {waits[-1]:.2f} s"
        print(f"{when}: {len(waits)} answers, {result} ({self.slowest[1]}); {self.turned_away} times asked again", flush=True)


def upload(address: str, cookie: str, result: list[Any]) -> None:
    line = b"2026-11-09,https://large.example/a,canoe,1,20,4.5\n"
    piece = line * (PIECE // len(line))
    head = b'--x\r\nContent-Disposition: form-data; name="file"; filename="facts.csv"\r\n\r\n'

    def body() -> Any:
        yield head
        for _ in range(UPLOAD_MB):
            yield piece
        yield b"\r\n--x--\r\n"

    length = str(len(head) + UPLOAD_MB * len(piece) + len(b"\r\n--x--\r\n"))
    with httpx.Client(base_url=address, cookies={"sessionid": cookie}, timeout=600) as client:
        token = client.get("/api/session").cookies.get("csrftoken") or ""
        headers = {
            "Content-Type": "multipart/form-data; boundary=x",
            "Content-Length": length,
            "X-CSRFToken": token,
            "Referer": address,
        }
        result.append(client.post("/api/sites/large/uploads", content=body(), headers=headers).status_code)


def tell_beside(when: str, extras: dict[str, list[float]]) -> None:
    """Print what health and sign-in took so far, and start again."""
    result = []
    for name, waits in extras.items():
        current = sorted(waits)
        waits.clear()
        result.append(
            f"{name} at most {current[-1]:.2f} s, 95 % under {current[int(len(current) * 0.95)]:.2f} s of {len(current)}"
        )
    print(f"beside {when}: {'; '.join(result)}", flush=True)


def took(ask: Callable[[], httpx.Response]) -> float:
    begun = time.monotonic()
    assert ask().status_code == 200
    return time.monotonic() - begun


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        facts = make(folder / "facts.csv", ROWS)
        installation = Installation(folder / "data")
        assert installation.run("manage.py", "migrate", "--verbosity", "0").wait() == 0
        command = [sys.executable, "-c", MAKE, str(folder / "facts.csv"), str(PEOPLE)]
        made = subprocess.run(command, cwd=ROOT, env=installation.env, capture_output=True, text=True, check=True)
        result = json.loads(made.stdout.splitlines()[-1])
        shutil.rmtree(folder / "data" / "cache", ignore_errors=True)
        port = free_port()
        web = installation.run("manage.py", "serve", "--listen", f"127.0.0.1:{port}")
        asked, sent = Asked(f"http://127.0.0.1:{port}"), list[int]()
        for _ in range(1_200):
            try:
                httpx.get(f"{asked.address}/healthz")
                break
            except httpx.TransportError:
                time.sleep(0.1)
        paths = [f"/api/sites/large/findings/{one}?compare=year&limit=100" for one in result["findings"]]
        paths += ["/api/sites/large/changes?compare=year", "/api/sites/large/sources", "/api/portfolio", "/api/sites"]
        uploads_said = f"{UPLOADS} uploads of {UPLOAD_MB} MB meanwhile"
        print(f"{facts:,} facts, {PEOPLE} people, {len(paths)} questions each, {uploads_said}", flush=True)
        peak, over = [0], threading.Event()

        def watch() -> None:
            while not over.wait(0.5):
                peak[0] = max(peak[0], memory_of(web.pid))

        extras = {"health": list[float](), "signing in": list[float]()}

        def looks() -> None:
            while not over.wait(0.5):
                extras["health"].append(took(lambda: httpx.get(f"{asked.address}/healthz", timeout=60)))

        def signs_in() -> None:
            result = {"username": "person-0", "password": "a long password"}
            while not over.wait(3):
                extras["signing in"].append(took(lambda: httpx.post(f"{asked.address}/api/session", json=result, timeout=60)))

        for work in (watch, looks, signs_in):
            threading.Thread(target=work).start()
        cookies = result["cookies"]
        sending = [(asked.address, cookies[number % PEOPLE], sent) for number in range(UPLOADS)]
        uploads = [threading.Thread(target=upload, args=one) for one in sending]
        for one in uploads:
            one.start()
        asked.all(cookies, paths, "cold")
        for one in uploads:
            one.join()
        tell_beside("cold", extras)
        asked.slowest = (0.0, "")
        asked.all(cookies, paths, "warm")
        over.set()
        tell_beside("warm", extras)
        print(f"uploads answered {sent}; the web server's own memory at most {peak[0]:,} MB", flush=True)
        web.terminate()
        web.wait()


if __name__ == "__main__":
    main()
