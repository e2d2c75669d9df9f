"""Planted queries with known topics: subjects crossed with kinds of question, different wordings, and pages and SERPs that
mostly match the subject.
"""

from dataclasses import dataclass

import numpy as np
import polars as pl

from zugzwang.core.topics.communities import Evidence

SUBJECTS, KINDS, EACH = 20, 10, 10
WORDS = [one + two for one in "ba ce di fo gu ka le mi po ra su te".split() for two in "nor lat vish dem rop kin".split()]  # noqa: SIM905


@dataclass(frozen=True)
class PlantedQueries:
    """`texts` and `topic` (number of the subject) of each query, and the data known about them."""

    texts: list[str]
    topic: list[int]
    evidence: Evidence


def planted_queries(seed: int = 1, results: bool = True, wrong: float = 0.15) -> PlantedQueries:
    """2,000 queries on 20 subjects. Each subject has three names and six pages, one of which ranks for a query; in a share
    `wrong` of cases it is one of another subject; a fifth has no ranking page. Each subject and kind has its own dozen of
    results.
    """
    rng = np.random.default_rng(seed)
    words = [f"{WORDS[int(one)]}{chr(97 + number % 26)}" for number, one in enumerate(rng.integers(0, len(WORDS), 400))]
    names = [words[3 * subject : 3 * subject + 3] for subject in range(SUBJECTS)]
    kinds = [words[100 + 2 * kind : 102 + 2 * kind] for kind in range(KINDS)]
    texts, topic, stems, shown, found = [], [], [], [], []
    for subject in range(SUBJECTS):
        pool = [f"https://s{subject}.example/{number}" for number in range(30)]
        for kind in range(KINDS):
            dozen = rng.choice(pool, 12, replace=False)
            for _ in range(EACH):
                number = len(texts)
                said = [str(rng.choice(names[subject])), str(rng.choice(kinds[kind]))]
                said += [words[150 + int(rng.integers(200))]] if rng.random() < 0.5 else []
                texts.append(" ".join(said))
                topic.append(subject)
                stems += [(number, one) for one in said]
                of = int(rng.integers(SUBJECTS)) if rng.random() < wrong else subject
                if rng.random() < 0.8:
                    shown += [(number, 6 * of + kind % 6, 90), (number, 6 * of + int(rng.integers(6)), 10)]
                if results:
                    page = [*rng.choice(dozen, 8, replace=False), f"https://all.example/{rng.integers(3)}"]
                    found += [(number, str(one)) for one in page]
    return PlantedQueries(
        texts,
        topic,
        Evidence(
            len(texts),
            pl.DataFrame(stems, {"query": pl.UInt32, "stem": pl.String}, orient="row").unique(),
            pl.DataFrame(shown, {"query": pl.UInt32, "page": pl.UInt32, "impressions": pl.UInt32}, orient="row")
            .group_by("query", "page", maintain_order=True)
            .agg(pl.col("impressions").sum()),
            pl.DataFrame(found, {"query": pl.UInt32, "address": pl.String}, orient="row"),
        ),
    )
