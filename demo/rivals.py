"""Other sites on SERPs: invented hosts with typical titles and snippets."""

import random
from dataclasses import dataclass


@dataclass(frozen=True)
class Rival:
    host: str
    name: str
    kind: str


_NAMES = {
    "shop": "Reedway Outdoors,Otter & Oar,Blue Lock Boats,Hullhouse,Stillwater Store,Kingfisher Kit,Portage Post,Lowbridge Marine,"
    "Paddock Paddles,Ferryman Supplies,Gravelbar Gear,Skegworks,Driftline,Cedar & Cane,Weirside Sports",
    "magazine": "The Slow River,Open Deck,Paddle Post,Water Notes,Bow and Stern,Inland Journal,The Eddy,Long Weekend Afloat",
    "blog": "Two Up in a Canoe,Muddy Landing,Notes from the Bow Seat,A Tent by the Water,The Wet Notebook,Small Craft Diary,"
    "Kettle and Keel,Upstream with Dogs,Forty Locks,Late to the Water",
    "forum": "Paddlers Ask,Riverbank Talk,The Boathouse Board,Trip Partners,Kit Exchange",
    "club": "Fennick Canoe Club,Larch Valley Paddlers,Mossop Kayak School,Thrushel Rowing and Paddling,Wend Youth Afloat,"
    "Hadder Sea Kayakers,Brindle Wild Water",
    "public": "Ossel Valley Visitors,Skerrow Waterways,Tarrow County Paths,River Levels Today,Safe on the Water",
    "video": "Clips Afloat,Paddle School on Film,Repair Bench Videos,River from Above",
    "reference": "Water Sports Lexicon,Measure Your Boat,Knots in Pictures,Gear Weights,The Question Shelf,Wet Feet Answers",
}
_TITLES = {
    "shop": ("{Q} – free delivery over 60", "Buy {q} at {name}", "{Q}: prices and stock | {name}", "{Q} in all sizes | {name}",
             "Our range: {q}"),
    "magazine": ("{Q}: nine tested on one river", "{Q} – what our testers say | {name}", "The {name} guide to {q}",
                 "{Q}: what has changed this year"),
    "blog": ("{Q}: what I would do again", "What nobody told me about {q}", "{Q} – {name}", "Three summers with {q}"),
    "forum": ("{Q}? – {name}", "Question about {q} (14 answers)", "{Q}: who has tried it? | {name}"),
    "club": ("{Q} – a page by our members | {name}", "{Q}: our evening course", "{name}: {q}"),
    "public": ("{Q} | {name}", "{Q}: access, levels and rules", "Information on {q}"),
    "video": ("{Q} in six minutes", "{Q} (video) – {name}", "Watch: {q}"),
    "reference": ("{Q}: definition, figures, table", "{Q} at a glance | {name}", "{Q} – the short answer"),
}  # fmt: skip
_SNIPPETS = {
    "shop": "In stock and sent today. Compare {q}, read what buyers say, and send it back within 30 days if it does not fit.",
    "magazine": "We took them out for two weekends in rain and wind. Here is which ones we would pay for, and which we gave back.",
    "blog": "We learned this on the water rather than in the shop. The photographs show where it went wrong the first time.",
    "forum": "I have read a lot about {q} and found three opinions. What do you do in practice? – Latest answer two days ago.",
    "club": "Written for beginners who come on Wednesdays: what you need to know about {q}, and when you can try it with us.",
    "public": "Current notes for visitors: where you may launch and land, water levels, closures, and whom to call.",
    "video": "A short film with chapters: what you need, the steps one by one, and the mistake that most people make.",
    "reference": "{Q} in one paragraph, with a table of usual values, the formula behind it, and where the figures come from.",
}
RIVALS = [
    Rival(f"www.{''.join(letter for letter in name.lower() if letter.isalnum())}.example", name, kind)
    for kind, names in _NAMES.items()
    for name in names.split(",")
]


def results_of_others(query: str, places: int) -> list[tuple[str, str, str]]:
    """Address, title and snippet of each competitor on a query's SERP, best first; deterministic for a query."""
    rng = random.Random(f"rivals {query}")
    asks = query.startswith(("how", "what", "where", "which", "is ", "can "))
    weights = [
        {"shop": 1 if asks else 5, "reference": 4 if asks else 1, "video": 2, "blog": 3}.get(one.kind, 2) for one in RIVALS
    ]
    chosen: list[Rival] = []
    while len(chosen) < places:
        one = rng.choices(RIVALS, weights)[0]
        if one not in chosen:
            chosen.append(one)
    result = []
    for one in chosen:
        words = {"q": query, "Q": query[0].upper() + query[1:], "name": one.name}
        title = rng.choice(_TITLES[one.kind]).format(**words)
        result.append((f"https://{one.host}/{query.replace(' ', '-')}/", title, _SNIPPETS[one.kind].format(**words)))
    return result
