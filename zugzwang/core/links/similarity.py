"""How similar pages are in what they say: the cosine of their weighted words.

Vectors: TF-IDF over stems of the title and the first FIRST_WORDS of a page, term frequency 1 + ln tf, inverse document
frequency ln((1 + N) / (1 + df)) + 1, unit length (Manning, Raghavan & Schütze 2008, chapter 6). Stems on one page only, and
with twenty or more pages those on more than half of them, do not help to compare pages and are left out.

Pages from one template are similar by habit, and pages by different authors rarely, so the threshold differs from page to
page: two pages are about the same where their cosine is in the top 5 % of all cosines of the page, and at least
ABOUT_LEAST, and they share at least COMMON_LEAST stems. Our own choice, no source.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt
import polars as pl
import scipy

from zugzwang.core.words.occurrences import Texts

FIRST_WORDS = 400
USUAL_PAGES = 20  # from this number of pages on, stems on more than half of them are ignored
ABOUT_SHARE = 0.95
ABOUT_LEAST = 0.1
COMMON_LEAST = 3
CHUNK = 256


@dataclass(frozen=True)
class Vectors:
    """`pages`: ids, sorted; `rows`: a row of unit length each."""

    pages: pl.Series
    rows: scipy.sparse.csr_matrix


def vectors(texts: Texts) -> Vectors:
    frame = texts.pages.filter(pl.col("length") > 0).sort("begins")
    number = np.repeat(np.arange(frame.height), frame["length"].to_numpy())
    tokens = pl.DataFrame({"page": number, "stem": texts.stem, "nth": texts.nth}, schema_overrides={"page": pl.UInt32})
    counts = tokens.filter(pl.col("stem") > 0, pl.col("nth") <= FIRST_WORDS).group_by("page", "stem").len()
    in_pages = counts.group_by("stem").agg(df=pl.len())
    most = frame.height / 2 if frame.height >= USUAL_PAGES else frame.height
    telling = in_pages.filter((pl.col("df") > 1) & (pl.col("df") <= most)).sort("stem").with_row_index("column")
    weighted = counts.join(telling, on="stem").select(
        "page",
        "column",
        weight=(1 + pl.col("len").log()) * (((1 + frame.height) / (1 + pl.col("df"))).log() + 1),
    )
    shape = (frame.height, max(telling.height, 1))
    rows = scipy.sparse.csr_matrix(
        (weighted["weight"].to_numpy().astype(np.float32), (weighted["page"].to_numpy(), weighted["column"].to_numpy())), shape
    )
    length = np.sqrt(np.asarray(rows.multiply(rows).sum(axis=1)).ravel())
    rows = scipy.sparse.csr_matrix(scipy.sparse.diags(1 / np.maximum(length, 1e-12)) @ rows).astype(np.float32)
    order = frame["page"].arg_sort()
    rows = rows[order.to_numpy()]
    return Vectors(frame["page"].sort(), rows)


def most_alike(current: Vectors, targets: pl.Series, most: int) -> pl.DataFrame:
    """Pages about the same as each target: target, source, similarity (0…1), about (the threshold of the target); at most
    `most` for each target, most similar first.
    """
    known = targets.filter(targets.is_in(current.pages.implode())).unique().sort()
    indices = current.pages.search_sorted(known).to_numpy()
    rows: list[pl.DataFrame] = []
    other = current.rows.T.tocsr()
    for start in range(0, indices.size, CHUNK):
        here = indices[start : start + CHUNK]
        alike_here = (current.rows[here] @ other).tocsr()
        about = np.array([_about(alike_here.data[one:end], other.shape[1]) for one, end in pairwise(alike_here.indptr)])
        cosines = alike_here.tocoo()
        enough = (cosines.data >= about[cosines.row]) & (here[cosines.row] != cosines.col)
        pairs = pl.DataFrame(
            {
                "target": current.pages.gather(here[cosines.row[enough]]),
                "source": current.pages.gather(cosines.col[enough]),
                "similarity": cosines.data[enough].astype(np.float64),
                "about": about[cosines.row[enough]],
            }
        )
        rows.append(
            pairs.sort("target", "similarity", "source", descending=[False, True, False])
            .group_by("target", maintain_order=True)
            .head(most)
        )
    schema = pl.Schema({"target": pl.UInt32(), "source": pl.UInt32(), "similarity": pl.Float64(), "about": pl.Float64()})
    found = pl.concat(rows).cast(schema) if rows else schema.to_frame()
    return found.filter(_in_common(current, found) >= COMMON_LEAST)


def _about(cosines: npt.NDArray[np.float32], pages: int) -> float:
    """A page's threshold, from the `cosines` of pages that share anything with it."""
    most = max(round((1 - ABOUT_SHARE) * pages), 1)
    if cosines.size <= most or pages < USUAL_PAGES:
        return ABOUT_LEAST
    return max(ABOUT_LEAST, float(np.partition(cosines, -most)[-most]))


def _in_common(current: Vectors, pairs: pl.DataFrame) -> pl.Series:
    """How many stems the pages of each pair share."""
    one, other = (current.rows[current.pages.search_sorted(pairs[name]).to_numpy()] for name in ("target", "source"))
    return pl.Series(np.asarray((one.multiply(other) != 0).sum(axis=1)).ravel())


def alike(current: Vectors, pairs: pl.DataFrame) -> pl.Series:
    """The cosine of each pair (target, source); null where one of them is unknown."""
    known = current.pages
    both = pairs.with_row_index("row").filter(pl.col("target").is_in(known.implode()), pl.col("source").is_in(known.implode()))
    one, other = (current.rows[known.search_sorted(both[name]).to_numpy()] for name in ("target", "source"))
    cosine = np.asarray(one.multiply(other).sum(axis=1)).ravel().astype(np.float64)
    rows = (
        pairs.with_row_index("row")
        .select("row")
        .join(both.select("row", cosine=pl.Series(cosine, dtype=pl.Float64)), on="row", how="left", maintain_order="left")
    )
    return rows["cosine"].alias("similarity")
