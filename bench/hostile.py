"""Hostile files, by kind and seed, sent to a real installation: `make hostile`. The web process must stay alive and answer
within a second, next to 200 half-sent requests; the worker must stay below 1.5 GB; every refusal must be in words.
"""

import gzip
import io
import os
import random
import re
import socket
import statistics
import struct
import subprocess
import sys
import tempfile
import threading
import time
import zipfile
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx
import polars as pl
import xlsxwriter

ROOT = Path(__file__).parent.parent
FILES = int(os.environ.get("FILES", 150))
HALF_OPEN = 200
WORKER_MB = 1_500
HEAD = "date,page,query,clicks,impressions,position\n"
ROW = "2026-11-09,https://shop.example/a,canoe,1,20,4.5\n"
Chance = random.Random


def workbook(sheet: Callable[[bytes], bytes]) -> bytes:
    """A workbook whose sheet XML was overwritten."""
    whole, made = io.BytesIO(), io.BytesIO()
    with xlsxwriter.Workbook(whole, {"in_memory": True}) as book:
        page = book.add_worksheet()
        page.write_row(0, 0, HEAD.strip().split(","))
        page.write_row(1, 0, ROW.strip().split(","))
    with zipfile.ZipFile(whole) as old, zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as new:
        for one in old.infolist():
            content = old.read(one)
            new.writestr(one, sheet(content) if one.filename.endswith("sheet1.xml") else content)
    return made.getvalue()


def far_cell(chance: Chance) -> bytes:
    cell = chance.choice([b"XFD1048576", b"A4000000000", b"ZZZZ99", b"XFD900000"])
    more = b'<row r="1048576"><c r="' + cell + b'"><v>1</v></c></row></sheetData>'
    return workbook(lambda sheet: sheet.replace(b"</sheetData>", more))


def entities(chance: Chance) -> bytes:
    made = "".join(f'<!ENTITY e{n} "{f"&e{n - 1};" * 10 if n else "x" * 50}">' for n in range(chance.randrange(8, 12)))
    return workbook(lambda sheet: sheet.replace(b"<worksheet", f"<!DOCTYPE w [{made}]><worksheet".encode(), 1))


def many_columns(chance: Chance) -> bytes:
    columns = chance.choice([5_000, 20_000, 100_000])
    lines = [",".join(f"{sign}{n}" for n in range(columns)) for sign in ("c", "", "")]
    return (HEAD.strip() + "," + "\n".join(lines)).encode()


def differing_keys(chance: Chance) -> bytes:
    return "\n".join(f'{{"key {chance.randrange(10**6)}":{n},"page":"/a"}}' for n in range(2_000)).encode()


def dense_parquet(chance: Chance) -> bytes:
    rows, made = chance.choice([1_000_000, 6_000_000]), io.BytesIO()
    text = "https://shop.example/" + "a" * chance.choice([1, 900])
    frame = {"page": pl.Series([text]).new_from_index(0, rows), "clicks": pl.Series([0]).new_from_index(0, rows)}
    day = pl.Series(["2026-11-09"]).new_from_index(0, rows)
    shown = pl.Series([9]).new_from_index(0, rows)
    pl.DataFrame({"date": day, **frame, "impressions": shown, "position": shown}).write_parquet(made, row_group_size=rows)
    return made.getvalue()


def long_field(chance: Chance) -> bytes:
    return (HEAD + ROW.replace("canoe", "x" * chance.choice([131_073, 400_000, 3_000_000]))).encode()


def many_digits(chance: Chance) -> bytes:
    digits = "9" * chance.choice([20, 400, 5_000])
    if chance.random() < 0.5:
        return f'[{{"date":"2026-11-09","page":"/a","query":"x","clicks":{digits},"impressions":1,"position":1}}]'.encode()
    return (HEAD + ROW.replace(",1,", f",{digits},")).encode()


def lone_surrogate(chance: Chance) -> bytes:
    result = '{"date":"2026-11-09","page":"/a","query":"\\ud800","clicks":1,"impressions":1,"position":1}'
    return (f"[{result}]" if chance.random() < 0.5 else f"{result}\n{result}").encode()


def carriage_returns(chance: Chance) -> bytes:
    del chance
    return (HEAD + ROW * 40).replace("\n", "\r").encode()


def strange_day(chance: Chance) -> bytes:
    return (HEAD + ROW + ROW.replace("2026-11-09", chance.choice(["9999-12-31", "0001-01-01", "1970-01-01"]))).encode()


def bomb(chance: Chance) -> bytes:
    whole = (HEAD + ROW * chance.choice([1_000_000, 4_000_000])).encode()
    if chance.random() < 0.5:
        return gzip.compress(whole, 9)
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("facts.csv", whole)
    return made.getvalue()


def nested(chance: Chance) -> bytes:
    deep = chance.choice([50, 1_000, 200_000])
    return b"[" * deep + b'{"a":1}' + b"]" * deep


def open_quote(chance: Chance) -> bytes:
    return (HEAD + ROW * 10 + '"' + ROW * chance.choice([10, 60_000])).encode()


def repeated_cells(chance: Chance) -> bytes:
    """An ODS whose only row is repeated a billion times."""
    times = chance.choice([10**6, 10**9])
    cells = "".join(f'<table:table-cell office:value-type="string"><text:p>{cell}</text:p></table:table-cell>' for cell in HEAD)
    names = " ".join(f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"' for name in ("office", "table", "text"))
    row = f'<table:table-row table:number-rows-repeated="{times}">{cells}</table:table-row>'
    body = (
        f'<office:body><office:spreadsheet><table:table table:name="a">{row}</table:table></office:spreadsheet></office:body>'
    )
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr(
            "content.xml", f"<?xml version='1.0'?><office:document-content {names}>{body}</office:document-content>"
        )
    return made.getvalue()


def calendar(chance: Chance) -> bytes:
    rule = chance.choice(["FREQ=SECONDLY", "FREQ=YEARLY;COUNT=99999999", "FREQ=DAILY;INTERVAL=0"])
    event = f"BEGIN:VEVENT\r\nDTSTART:20260101T000000Z\r\nRRULE:{rule}\r\nSUMMARY:{'x' * 100_000}\r\nEND:VEVENT\r\n"
    return f"BEGIN:VCALENDAR\r\n{event * 20}END:VCALENDAR\r\n".encode()


KINDS: dict[str, Callable[[Chance], bytes]] = {
    one.__name__: one
    for one in (
        far_cell, entities, many_columns, differing_keys, dense_parquet, long_field, many_digits, lone_surrogate,
        carriage_returns, strange_day, bomb, nested, open_quote, repeated_cells, calendar,
    )
}  # fmt: skip


def in_words(result: dict[str, Any]) -> bool:
    """Whether a refusal says what is wrong and what to do, rather than that something broke."""
    said = " ".join(
        [result.get("detail") or result.get("message") or "", *(one["message"] for one in result.get("problems", []))]
    )
    remedies = [result.get("remedy"), *(one["remedy"] for one in result.get("problems", []))]
    return bool(said) and "broke" not in said and any(remedies)


def png(wide: int, high: int, private_first: bool) -> bytes:
    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = chunk(b"IHDR", struct.pack(">IIBBBBB", wide, high, 8, 0, 0, 0, 0))
    before = chunk(b"prIv", struct.pack(">II", 1, 1) + bytes(8)) if private_first else b""
    rows = zlib.compress(bytes((wide + 1) * high), 9)
    return b"\x89PNG\r\n\x1a\n" + before + head + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


def clipped(levels: int, nested: bool) -> bytes:
    """Nested clip paths, each of which clips the next twice."""
    clips = [
        f'<clipPath id="c{at}">' + (f'<rect width="9" height="9" clip-path="url(#c{at + 1})"/>' if nested else "") * 2
        + '<rect width="9" height="9"/></clipPath>' for at in range(levels)
    ]  # fmt: skip
    shape = '<rect width="9" height="9" clip-path="url(#c0)"/>'
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9">{"".join(clips)}{shape}</svg>'.encode()


class Asker:
    """A signed-in analyst who uses the API."""

    def __init__(self, address: str, user: str, password: str) -> None:
        self.http = httpx.Client(base_url=address, timeout=120)
        self.http.get("/api/session")
        answer = self.http.post("/api/session", json={"username": user, "password": password})
        answer.raise_for_status()

    def post(self, path: str, **more: Any) -> httpx.Response:
        return self.http.post(path, headers={"X-CSRFToken": self.http.cookies["csrftoken"]}, **more)

    def load(self, site: str, name: str, content: bytes) -> tuple[str, dict[str, Any]]:
        """Upload and load a file. Returns its state and message."""
        sent = self.post(f"/api/sites/{site}/uploads", files={"file": (name, content)})
        if sent.status_code != 201:
            return str(sent.status_code), sent.json()
        asked = self.post(f"/api/sites/{site}/loads", json={"upload": sent.json()["upload"], "mode": "add"}).json()
        while True:
            job = self.http.get(f"/api/sites/{site}/jobs/{asked['id']}").json()
            if job["state"] not in ("waiting", "running"):
                return job["state"], job["outcome"]
            time.sleep(0.1)


def memory_mb(process: int) -> float:
    """The private memory of a process and its children, in MB."""
    result, waiting = 0, [process]
    while waiting:
        one = waiting.pop()
        try:
            status = Path(f"/proc/{one}/status").read_text()
            waiting += [int(child) for child in Path(f"/proc/{one}/task/{one}/children").read_text().split()]
        except OSError:
            continue
        found = re.search(r"RssAnon:\s+(\d+) kB", status)
        result += int(found.group(1)) if found else 0
    return result / 1_000


@contextmanager
def installation(folder: Path, **more: str) -> Iterator[tuple[str, dict[str, subprocess.Popen[bytes]]]]:
    """A server and a worker with a separate database."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    env = {**os.environ, "ZUGZWANG_DATA_DIR": str(folder), "DJANGO_SETTINGS_MODULE": "zugzwang.settings", **more}

    def run(*command: str) -> subprocess.Popen[bytes]:
        log = (folder / "log.txt").open("ab")
        return subprocess.Popen([sys.executable, *command], cwd=ROOT, env=env, stdout=log, stderr=log)

    make = (
        "import django; django.setup()\nfrom django.contrib.auth.models import User\nfrom zugzwang.access import Actor\n"
        "from zugzwang.subjects.sites import add_site\n"
        "add_site(Actor(User.objects.create_user('a', password='a long password')), 'Shop', 'https://shop.example', 'shop')"
    )
    run("manage.py", "migrate", "--verbosity", "0").wait()
    run("-c", make).wait()
    web = run("manage.py", "serve", "--listen", f"127.0.0.1:{port}")
    worker = run("manage.py", "db_worker", "--interval", "0.2", "--no-reload", "--no-startup-delay")
    try:
        for _ in range(1_200):
            try:
                httpx.get(f"http://127.0.0.1:{port}/api/session", timeout=2)
                break
            except httpx.HTTPError:
                time.sleep(0.1)
        yield f"http://127.0.0.1:{port}", {"web": web, "worker": worker}
    finally:
        for one in (web, worker):
            one.kill()
            one.wait()


def main() -> None:
    chance = Chance(int(os.environ.get("SEED", 1)))
    with tempfile.TemporaryDirectory() as folder, installation(Path(folder)) as (address, processes):
        host, port = address.removeprefix("http://").split(":")
        current = [socket.create_connection((host, int(port))) for _ in range(HALF_OPEN)]
        waits: list[float] = []
        most = {"web": 0.0, "worker": 0.0}
        over = threading.Event()

        def look() -> None:
            begun = time.monotonic()
            while not over.wait(0.1):
                for number, one in enumerate(current):
                    # Those that the server gave up are opened again, and all say a little now and then.
                    try:
                        if time.monotonic() - begun > 5:
                            one.send(b"G")
                    except OSError:
                        current[number] = socket.create_connection((host, int(port)))
                if time.monotonic() - begun > 5:
                    begun = time.monotonic()
                asked = time.monotonic()
                httpx.get(f"{address}/api/session", timeout=60)
                waits.append(time.monotonic() - asked)
                for name, process in processes.items():
                    most[name] = max(most[name], memory_mb(process.pid))

        looking = threading.Thread(target=look)
        looking.start()
        asker = Asker(address, "a", "a long password")
        result: dict[str, dict[str, int]] = {}
        wordless = []
        for number in range(FILES):
            kind = list(KINDS)[number % len(KINDS)]
            begun = time.monotonic()
            state, said = asker.load("shop", kind, KINDS[kind](chance))
            result.setdefault(kind, {})[state] = result.setdefault(kind, {}).get(state, 0) + 1
            if state != "done" and not in_words(said):
                wordless.append((kind, state, said))
            print(
                f"{kind:18}{state:10}{time.monotonic() - begun:6.1f} s", str(said)[:150] if state != "done" else "", flush=True
            )
        over.set()
        looking.join()
        alive = all(process.poll() is None for process in processes.values())
        slow = sum(wait > 1 for wait in waits)
        state = "alive" if alive else "DEAD"
        print(f"{FILES} files; web and worker {state}; refusals without words: {len(wordless)} {wordless[:3]}")
        print(
            f"answers beside them: median {1_000 * statistics.median(waits):.0f} ms, slowest {max(waits):.2f} s, "
            f"{slow} of {len(waits)} over 1 s; most memory: web {most['web']:.0f} MB, worker {most['worker']:.0f} MB"
        )
        sys.exit(0 if alive and not wordless and not slow and most["worker"] < WORKER_MB else 1)


if __name__ == "__main__":
    main()
