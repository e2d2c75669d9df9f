"""Text of pages: `make bench-wording` (PAGES=10000, ROWS=20000). PAGES pages with some 600 words each and ROWS phrases, each
searched for on its own page, as "missing-queries" does: cold, as a ratio to a bare Aho–Corasick pass, and from cache. The
fetcher of competing pages, as a ratio to a bare loop with the same politeness: one page at a time per host.
"""

import asyncio
import os
import resource
import sys
import time
from pydoc_data.topics import topics
from typing import Any

import ahocorasick_rs
import numpy as np
import polars as pl

from zugzwang.core.words.occurrences import Reader, read_texts
from zugzwang.core.words.wording import words

PAGES, ROWS = int(os.environ.get("PAGES", "10000")), int(os.environ.get("ROWS", "20000"))
COLD_SECONDS, TIMES_BARE, MEMORY_MB = 15.0, 3.0, 2_000
SHORTEST = 8  # letters of a phrase: shorter ones are inside other words
HOSTS, PAGES_A_HOST, DELAY = 40, 25, 0.02


def pages_of(rng: np.random.Generator, pages: int = PAGES, rows: int = ROWS) -> tuple[pl.DataFrame, list[tuple[int, str]]]:
    """Pages cut from Python's documentation, which comes with Python, and phrases of two to four words from it."""
    known_rows = " ".join(topics.values()).split()
    result = []
    for page in range(pages):
        cuts = rng.integers(0, len(known_rows) - 60, 10)
        lines = [f"p\t{' '.join(known_rows[cut : cut + 60])}" for cut in cuts]
        result.append((page, f"Title {page}", "\n".join([f"h1\t{' '.join(known_rows[cuts[0] : cuts[0] + 5])}", *lines])))
    frame = pl.DataFrame(result, schema={"page": pl.UInt32, "title": pl.String, "content": pl.String}, orient="row")
    phrases: list[tuple[int, str]] = []
    while len(phrases) < rows:
        cut = int(rng.integers(0, len(known_rows) - 4))
        phrase = " ".join(words(" ".join(known_rows[cut : cut + int(rng.integers(2, 5))])))
        if len(phrase) >= SHORTEST:
            phrases.append((len(phrases) % pages, phrase))
    return frame, phrases


def said() -> bool:
    pages, phrases = pages_of(np.random.default_rng(1))
    begun = time.perf_counter()
    reader = Reader(read_texts(pages))
    opened = time.perf_counter()
    found = sum(reader.occurrences(page, phrase).exactly for page, phrase in phrases)
    cold = time.perf_counter() - begun
    warm = time.perf_counter() - opened
    begun = time.perf_counter()
    automaton = ahocorasick_rs.AhoCorasick([phrase for _, phrase in phrases])
    hits = sum(len(automaton.find_matches_as_indexes(text.lower(), overlapping=True)) for text in pages["content"])
    bare = time.perf_counter() - begun
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"unsaid: {PAGES:,} pages, {ROWS:,} phrases, {found} exact sayings ({hits} anywhere)")
    print(f"  cold {cold:.1f} s of {COLD_SECONDS:.0f}; asking alone {warm:.1f} s; memory {memory:.0f} MB of {MEMORY_MB:,}")
    print(f"  cold over a bare Aho–Corasick pass: {cold / bare:.2f} of {TIMES_BARE}")
    return cold <= COLD_SECONDS and cold / bare <= TIMES_BARE and memory <= MEMORY_MB


async def _serve() -> tuple[asyncio.Server, int]:
    body = b"<title>T</title><main><h1>H</h1>" + b"<p>Some words of a page, and a few more of them.</p>" * 40 + b"</main>"
    head = b"HTTP/1.1 200 OK\r\nContent-Type: text/html\r\nContent-Length: %d\r\n\r\n" % len(body)

    async def answer(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        while line := await reader.readline():
            while (await reader.readline()) not in (b"\r\n", b""):
                pass
            if b"robots.txt" in line:
                writer.write(b"HTTP/1.1 404 Not Found\r\nContent-Length: 0\r\n\r\n")
                continue
            await asyncio.sleep(DELAY)
            writer.write(head + body)

    server = await asyncio.start_server(answer, "0.0.0.0", 0)
    return server, int(server.sockets[0].getsockname()[1])


async def _bare(addresses: list[str]) -> float:
    """Fetch as many pages at once, one at a time per host; nothing else."""
    import httpx

    begun, turn, locks = time.perf_counter(), asyncio.Semaphore(8), {}  # type: ignore[var-annotated]
    async with httpx.AsyncClient() as client:

        async def fetch(address: str) -> None:
            async with turn, locks.setdefault(httpx.URL(address).host, asyncio.Lock()):
                (await client.get(address)).raise_for_status()

        await asyncio.gather(*(fetch(one) for one in addresses))
    return time.perf_counter() - begun


async def fetching() -> bool:
    from zugzwang.intake.fetching_above import Fetcher

    server, port = await _serve()
    addresses = [f"http://127.0.1.{host + 1}:{port}/{page}" for page in range(PAGES_A_HOST) for host in range(HOSTS)]
    async with server:
        bare = await _bare(addresses)
        fetcher = Fetcher(addresses, private_allowed=True)
        begun = time.perf_counter()
        await fetcher.run()
        ours = time.perf_counter() - begun
    done = sum(one.height for one in fetcher.stored_pages)
    print(f"fetching: {done} pages of {HOSTS} hosts; pages a second over a bare loop's: {bare / ours:.2f}, at least 0.8")
    return bare / ours >= 0.8


def main() -> None:
    import django

    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zugzwang.settings")
    django.setup()
    current: list[Any] = [said(), asyncio.run(fetching())]
    sys.exit(0 if all(current) else 1)


if __name__ == "__main__":
    main()
