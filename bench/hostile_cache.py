"""`make hostile-cache`: flip one bit of a cached file, FLIPS (300) times over all kinds of files of a site's cache. After each
flip, compare the answers of a fresh process with those before. Bars: every flip is noticed (counted as damaged, deleted,
computed again) and every answer is right.
"""

import json
import os
import random
import sys
import tempfile
from collections import Counter
from pathlib import Path
from typing import Any

FLIPS, SEED = int(os.environ.get("FLIPS", 300)), int(os.environ.get("SEED", 1))


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        os.environ |= {"ZUGZWANG_DATA_DIR": name, "DJANGO_SETTINGS_MODULE": "zugzwang.settings"}
        import django

        django.setup()
        sys.exit(0 if flipped(Path(name)) else 1)


def made(folder: Path) -> None:
    """A site with facts by page and query, without a crawl."""
    import polars as pl
    from django.core.management import call_command

    from tests.planted import planted_site
    from zugzwang.access import OPERATOR
    from zugzwang.intake.loading import load_file
    from zugzwang.subjects.sites import add_site

    call_command("migrate", verbosity=0)
    site = add_site(OPERATOR, "Shop", "https://shop.example", "shop")
    rows = planted_site(queries=1_500).facts
    page, query = (pl.col(name).cast(pl.String) for name in ("page", "query"))
    named = rows.select(
        pl.col("day").alias("date"), ("https://shop.example/p" + page).alias("page"), ("query " + query).alias("query"),
        "clicks", "impressions", "position",
    )  # fmt: skip
    named.write_csv(folder / "facts.csv")
    load_file(site, folder / "facts.csv", "facts.csv")


def answers() -> dict[str, str]:
    """The sentences and rows of each finding, read from disk."""
    from django.utils import timezone

    from zugzwang.data.cache import store
    from zugzwang.data.models import Site
    from zugzwang.data.snapshot import Snapshot
    from zugzwang.errors import ProductError
    from zugzwang.findings.registry import FINDINGS
    from zugzwang.findings.table import ask
    from zugzwang.findings.view import ViewOptions

    store().forget()
    result: dict[str, str] = {}
    for name, finding in FINDINGS.items():
        if finding.plan:
            continue
        try:
            answer: Any = ask(Snapshot(Site.objects.get()), finding, ViewOptions(), timezone.localdate()).shown(limit=200)
        except ProductError as error:
            answer = str(error)
        result[name] = json.dumps(answer, default=str, sort_keys=True)
    return result


def flipped(folder: Path) -> bool:
    from zugzwang.data import cache

    made(folder)
    cache.WORTH_A_FILE_SECONDS = 0.0  # so everything is kept on disk
    expected, chance = answers(), random.Random(SEED)
    answers()
    wrong, unnoticed, kinds, asked_for = list[str](), list[str](), Counter[str](), FLIPS
    for number in range(FLIPS):
        entries = sorted(path for path in folder.glob("cache/*/*/*/*") if path.is_file() and path.stat().st_size)
        by_kind: dict[str, list[Path]] = {}
        for path in entries:
            by_kind.setdefault(path.name if path.suffix != ".arrow" else "arrow", []).append(path)
        kind = sorted(by_kind)[number % len(by_kind)]
        path = chance.choice(by_kind[kind])
        content = bytearray(path.read_bytes())
        at, bit = chance.randrange(len(content)), chance.randrange(8)
        content[at] ^= 1 << bit
        path.write_bytes(content)
        before = cache._damaged._value.get()
        said = f"{path.name}, byte {at} of {len(content)}, bit {bit}"
        if answers() != expected:
            wrong.append(said)
        if cache._damaged._value.get() == before:
            # Nothing asked for it, for what was made of it is kept too: it is read as whoever asks for it does.
            asked_for -= 1
            read = cache._read(path.parent)
            if read is not None or path.exists() or cache._damaged._value.get() != before + 1:
                unnoticed.append(said)
        kinds[kind] += 1
    print(f"{FLIPS} flips {dict(kinds)}, {asked_for} of them in what the answers read")
    print(f"{len(unnoticed)} not noticed {unnoticed[:3]}, {len(wrong)} answers wrong {wrong[:3]}")
    return not wrong and not unnoticed


if __name__ == "__main__":
    main()
