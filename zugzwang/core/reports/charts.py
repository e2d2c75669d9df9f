"""The charts of a report as SVG, from the numbers on the screens. Sizes in points on a width of 460."""

from collections.abc import Sequence
from html import escape

WIDTH = 460.0
INK, FAINT, RULE, SPRUCE, RUST = "#211d18", "#655c4f", "#d8d0bf", "#2e6350", "#a03e27"
_TEXT = f'font-family="Libertinus Serif, Source Serif 4, serif" font-size="9" fill="{FAINT}"'


def lines(now: Sequence[float | None], before: Sequence[float | None], labels: tuple[str, str], most: str) -> str:
    """Weeks as a line, and the same weeks a year earlier as a dashed line; `labels`: of the first and last week, `most`: of
    the maximum.
    """
    height, left, top, bottom = 120.0, 6.0, 14.0, 100.0
    known = [one for one in (*now, *before) if one is not None]
    highest = max(known, default=0.0) or 1.0
    step = (WIDTH - 2 * left) / max(len(now) - 1, 1)

    def path(values: Sequence[float | None]) -> str:
        result, pen = [], "M"
        for at, value in enumerate(values):
            if value is None:
                pen = "M"
                continue
            result.append(f"{pen}{left + at * step:.1f} {bottom - value / highest * (bottom - top):.1f}")
            pen = "L"
        return " ".join(result)

    return _svg(
        height,
        f'<line x1="{left}" x2="{WIDTH - left}" y1="{bottom}" y2="{bottom}" stroke="{RULE}"/>'
        f'<line x1="{left}" x2="{WIDTH - left}" y1="{top}" y2="{top}" stroke="{RULE}" stroke-dasharray="1 3"/>'
        f'<path d="{path(before)}" fill="none" stroke="{FAINT}" stroke-dasharray="4 3"/>'
        f'<path d="{path(now)}" fill="none" stroke="{INK}" stroke-width="1.6"/>'
        f'<text x="{left}" y="{top - 4}" {_TEXT}>{escape(most)}</text>'
        f'<text x="{left}" y="{height - 6}" {_TEXT}>{escape(labels[0])}</text>'
        f'<text x="{WIDTH - left}" y="{height - 6}" text-anchor="end" {_TEXT}>{escape(labels[1])}</text>',
    )


def bars(rows: Sequence[tuple[str, float, str]]) -> str:
    """Bars from a centre line, gains to the right in spruce, losses to the left in rust: (name, amount, as printed)."""
    row, name = 16.0, 130.0
    height = row * len(rows) + 8
    most = max((abs(amount) for _, amount, _ in rows), default=0.0) or 1.0
    loses, wins = (any(sign * amount > 0 for _, amount, _ in rows) for sign in (-1, 1))
    room = WIDTH - name - 60
    zero = name + (room / 2 if loses and wins else room if loses else 0) + (30 if loses else 0)
    scale = (room / 2 if loses and wins else room) / most
    result = [f'<line x1="{zero:.1f}" x2="{zero:.1f}" y1="2" y2="{height - 6:.1f}" stroke="{RULE}"/>']
    for at, (label, amount, written) in enumerate(rows):
        y, wide = 4 + at * row, abs(amount) * scale
        x = zero if amount >= 0 else zero - wide
        colour, anchor = (SPRUCE, "start") if amount >= 0 else (RUST, "end")
        end = x + wide + 4 if amount >= 0 else x - 4
        result.append(
            f'<text x="0" y="{y + 9:.1f}" {_TEXT}>{escape(_short(label))}</text>'
            f'<rect x="{x:.1f}" y="{y:.1f}" width="{wide:.1f}" height="10" fill="{colour}"/>'
            f'<text x="{end:.1f}" y="{y + 9:.1f}" text-anchor="{anchor}" {_TEXT}>{escape(written)}</text>'
        )
    return _svg(height, "".join(result))


def _short(text: str, most: int = 30) -> str:
    return text if len(text) <= most else f"{text[: most - 1]}…"


def _svg(height: float, inside: str) -> str:
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:.0f} {height:.0f}">{inside}</svg>'
