"""Texts of the shop's other pages and of competing pages: paragraphs chosen by seed. `{q}` is the query, `{name}` the page's
subject, `{Name}` the same at the start of a sentence.
"""

import random
from html import escape

# By section: paragraphs, each with the heading that it may be under.
SHOP: dict[str, tuple[tuple[str, str], ...]] = {
    "canoe": (
        ("On the water", "The {name} runs straight with little steering and answers a lean without fuss. Kneel for the rapids, sit for the lake."),
        ("Who it is for", "We sell the {name} mostly to people who hired one first and came back. If you are not sure, paddle it on our river for a morning."),
        ("How it is built", "Ash gunwales, web seats and a yoke that is carved, not bent. The hull comes in green and in the red that fades least."),
        ("Weight and handling", "It goes on a roof rack with two people and without bad language. One person manages with a trolley."),
        ("Care", "Rinse it, oil the wood once a year, and keep it out of the sun. We have twenty-year-old boats of this kind in our hire fleet."),
        ("Delivery", "We bring it to the door on a trailer, unpack it with you and take the wrapping away. Three weeks in summer, one in winter."),
        ("Good with it", "A bent shaft paddle for long days, a spare in the bow, and two bags that fit under the seats."),
    ),
    "kayak": (
        ("On the water", "The {name} feels lively for the first ten minutes and steady after that. The seat moves, and so do the thigh braces: set them before you judge it."),
        ("Who it is for", "For paddlers between 55 and 95 kilos who want one boat for the lake and the quiet coast. Taller people look at the expedition size."),
        ("Hatches and room", "Two hatches that close with a click, and a day hatch within reach. A tent goes in behind, if you roll the poles by themselves."),
        ("Hull", "Three layers of polyethylene with a keel line that you can replace. Scratches do not matter; deep cuts do, and we weld them."),
        ("Rudder or skeg", "It comes with a skeg. We fit a rudder if you paddle in wind a lot, and tell you honestly when you do not need one."),
        ("Try it", "There is a {name} at our place on the Ossel. Ring before you come, so that it is not out with a group."),
        ("Warranty", "Five years on the hull, two on everything that moves. Keep the bill in the dry bag."),
    ),
    "paddle": (
        ("In the hand", "The {name} swings easily and enters the water without a splash. The shaft is oval where you hold it, so that you know the angle of the blade in the dark."),
        ("Blade", "The edge is reinforced for a hand's width. Push off stones with the other end, as everybody does and nobody should."),
        ("Length", "We cut it to length while you wait. Bring the boat's width, or better the boat."),
        ("Weight", "You lift a paddle a thousand times an hour. Fifty grams less are fifty kilos by then."),
        ("Care", "Rinse the joint after salt water. Varnish or oil the grip when it turns grey."),
    ),
    "clothing": (
        ("Fit", "The {name} should be snug where you bend and loose where you breathe. Try it sitting down, with a paddle in your hands."),
        ("Cloth", "Double seams at the shoulders and the seat. The cuffs close over gloves, or under them."),
        ("For which water", "Made for spring and autumn, when the air is warm and the water is not. In July you will want less."),
        ("Sizes", "From extra small to double large, and in long sizes too. Send it back within 30 days if it does not fit; we pay."),
        ("Washing", "Cold water and mild soap. No machine, no sun behind glass, and a cool place in winter."),
    ),
    "gear": (
        ("What it does", "The {name} does one thing and does it for years. We have the one from the first season still in use."),
        ("In the boat", "It hangs where a hand finds it. Nothing dangles, nothing rings."),
        ("Sizes", "Three sizes, and the middle one is right for most. The large one is for those who camp."),
        ("Mending", "All parts can be had by themselves. Most repairs take an evening and a screwdriver."),
        ("Tested", "We dropped it off the pier, forgot it in the rain, and lent it to a school class."),
    ),
    "trips": (
        ("The river", "The {river} runs through meadows for the first five miles, then between alders. Two weirs, both with a path round them on the left."),
        ("Start and end", "Launch below the old bridge, where the bank is low. Take out at the mill field, and ask before you park there."),
        ("Level and season", "Best from April to June, and again after rain in September. Below forty on the gauge you will walk."),
        ("With children", "The upper half suits children: slow, shallow, with sand at the second bend. Below the railway it gets quicker."),
        ("Where to sleep", "Two camps by the water and an inn a mile from it. In August book ahead."),
        ("What you may see", "Kingfishers, an otter if you are early, and cows that think the river is theirs."),
        ("Getting back", "The bus runs every two hours on weekdays. On Saturdays our minibus waits at the mill field at five."),
        ("Rules", "Keep away from the islands until the middle of July. Dogs stay in the boat at the reserve."),
    ),
    "rental": (
        ("Boats and prices", "Canoes for two or three, kayaks for one, by the half day or the day. Paddles, buoyancy aids and a dry barrel are included."),
        ("How it works", "Book until six on the day before, come a quarter of an hour early, and we show you the river on the map."),
        ("Groups", "Up to thirty people at one time. School classes paddle on weekdays, with a guide in the first and the last boat."),
        ("Weather", "We decide at eight in the morning. If we close, you get your money back or another day, as you like."),
        ("How to find us", "Down the lane behind the church, five minutes from the station. There is room for cars with trailers."),
    ),
    "workshop": (
        ("What we do", "Plastic, glass, cedar: there is little that we have not mended. We look at it with you and say whether it is worth it."),
        ("What it costs", "The look is free. A weld from forty, a new seam from a hundred and twenty, a plank by the hour."),
        ("How long it takes", "A week in winter, three in May. Bring it when the leaves fall, and it is ready before they grow."),
        ("How to bring it", "Dry and empty, please. If you cannot carry it, we fetch it on our Thursday round."),
    ),
}  # fmt: skip
USUAL = (
    ("About us", "Marrowbank is a shop, a boatyard and four places on the river. We have hired out boats since before the bypass was built."),
    ("Ask us", "Write, ring or come by. On Mondays we are on the water."),
)  # fmt: skip
RIVALS: dict[str, tuple[tuple[str, str], ...]] = {
    "asks": (
        ("{Q}?", "The short answer to “{q}” is that it depends on two things, and you can find out both in five minutes. Below we go through them in order."),
        ("What most people get wrong", "They look at one number and forget the rest. We did the same for years, and it cost us a holiday."),
        ("Step by step", "First look, then measure, then decide. Write the figures down, for you will want them next year."),
        ("A table of usual values", "These are the figures that we found in eleven handbooks, brought to one unit."),
        ("When it does not apply", "In cold water, with children on board, or on a river in flood, leave more room than the table says."),
        ("Questions that readers asked", "We answer each letter, and the best questions end up here."),
        ("What we would do", "If it were our money and our weekend, we would start small, hire first, and buy in autumn."),
    ),
    "buys": (
        ("{Q}: what matters", "Before you buy, think of where you paddle and how you get there. Everything else follows from that."),
        ("Our range", "In stock in three sizes and four colours, sent today when you order before two."),
        ("What buyers say", "Four of five would buy it again. The fifth would have liked the larger one."),
        ("Compare", "The differences in a table, without the words that makers like."),
        ("Delivery and returns", "Free from sixty on, back within thirty days, no questions."),
        ("Accessories", "What goes with it, and what you can leave out."),
    ),
}  # fmt: skip


def blocks_html(text: str) -> str:
    """The markup of demo/guides.py as HTML."""
    html: list[str] = []
    group: list[tuple[str, str]] = []

    def flush() -> None:
        if not group:
            return
        sign = group[0][0]
        if sign == "|":
            rows = [[cell.strip() for cell in line.strip("|").split("|")] for _, line in group]
            cells = "".join(f"<tr>{''.join(f'<td>{escape(cell)}</td>' for cell in row)}</tr>" for row in rows)
            html.append(f"<table>{cells}</table>")
        elif sign == "p":
            html.append(f"<p>{escape(' '.join(line for _, line in group))}</p>")
        else:
            tag = "ul" if sign == "-" else "ol"
            html.append(f"<{tag}>{''.join(f'<li>{escape(line)}</li>' for _, line in group)}</{tag}>")
        group.clear()

    for line in text.split("\n"):
        if line.startswith("# "):
            flush()
            html.append(f"<h2>{escape(line[2:])}</h2>")
            continue
        sign, said = (
            ("-", line[2:])
            if line.startswith("- ")
            else ("1", line[3:])
            if line[:1].isdigit() and line[1:3] == ". "
            else ("p", line)
        )
        sign, said = ("|", line) if line.startswith("|") else (sign, said)
        if group and group[0][0] != sign:
            flush()
        group.append((sign, said))
    flush()
    return "".join(html)


def shop_html(section: str, name: str, asked: list[str], rng: random.Random, least: int = 3) -> str:
    """The text of a shop page: paragraphs of its section, with some of the queries it answers."""
    pool = SHOP.get(section, USUAL)
    chosen = rng.sample(pool, min(len(pool), rng.randint(least, 6)))
    river = name.removeprefix("river ").split()[0].capitalize() if section == "trips" else ""
    html = []
    for number, (heading, text) in enumerate(chosen):
        said = text.format(name=name, Name=name.capitalize(), river=river)
        if number and rng.random() < 0.5 and len(asked) > 1:
            said += f" People also ask us about “{rng.choice(asked[1:])}”."
        html.append(f"<h2>{escape(heading)}</h2><p>{escape(said)}</p>")
    return "".join(html)


def rival_html(query: str, kind: str, rng: random.Random) -> str:
    """The text of a competing page that answers a query."""
    asks = query.split()[0] in ("how", "what", "where", "which", "is", "can", "when")
    words = {"q": query, "Q": query[0].upper() + query[1:]}
    pool = RIVALS["asks" if asks or kind in ("reference", "blog", "forum") else "buys"]
    chosen = [pool[0], *rng.sample(pool[1:], rng.randint(2, len(pool) - 1))]
    html = []
    for number, (heading, text) in enumerate(chosen):
        said = " ".join([text, *(rng.choice(pool)[1] for _ in range(rng.randint(0, 2)))]).format(**words)
        html.append(f"<h2>{escape(heading.format(**words))}</h2><p>{escape(said)}</p>")
        if heading.startswith(("Step", "Our range")):
            html.append(
                f"<ol>{''.join(f'<li>Step {step}: {escape(query)}, and then a look back.</li>' for step in range(1, rng.randint(4, 8)))}</ol>"
            )
        if heading.startswith(("A table", "Compare")):
            rows = "".join(f"<tr><td>size {size}</td><td>{10 * size + rng.randint(0, 5)} cm</td></tr>" for size in range(1, 6))
            html.append(f"<table>{rows}</table>")
        if number == 1 and rng.random() < 0.6:
            html.append(
                f'<p>More on <a href="/{escape(query.split()[-1])}/">{escape(query.split()[-1])}</a>: {escape(words["Q"])} comes up every week.</p>'
            )
    return "".join(html)
