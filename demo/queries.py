"""How people search for the shop's subjects: a subject and the words they add, by type of page. Each list is long enough for
the page with the most queries; `{}` is the subject as it appears in a sentence.
"""

PRODUCT = (
    "{}", "best {}", "{} review", "{} for beginners", "cheap {}", "used {}", "second hand {}", "{} for sale", "{} price",
    "{} size guide", "how much does a {} weigh", "{} near me", "{} for tall people", "{} for women", "lightweight {}", "{} sale",
    "is a {} worth it", "{} for rivers", "{} for the sea", "{} for lakes", "{} for touring", "{} for two", "{} repair",
    "how to choose a {}", "{} comparison", "most stable {}", "{} accessories", "{} for kids", "{} spare parts", "how to clean a {}",
    "{} for long trips", "{} test", "small {}", "large {}", "{} storage", "durable {}",
)  # fmt: skip
MODEL = (
    "{}", "{} review", "{} price", "{} weight", "{} dimensions", "{} for sale", "used {}", "{} test", "{} colours", "{} warranty",
    "{} spare parts", "{} in stock", "{} or pro", "{} second hand", "{} discount", "{} for beginners", "{} manual", "{} specs",
    "{} problems", "{} for women", "{} buy online", "{} capacity", "{} delivery time", "{} accessories", "{} size", "{} videos",
    "{} vs classic", "{} offer", "{} rental", "{} bag", "{} seat height", "{} repair", "{} stability", "{} new version", "{} care",
    "{} owner reviews",
)  # fmt: skip
CATEGORY = (
    "{} shop", "{} shop near me", "buy {} online", "{} sale", "{} for beginners", "{} brands", "{} equipment", "{} store",
    "cheap {}", "{} guide", "{} types", "used {}", "{} accessories", "{} for kids", "{} gift ideas", "{} prices", "{} reviews",
    "new {}", "{} delivery", "{} clearance", "{} outlet", "{} advice", "which {} to buy", "{} for rent", "{} dealer", "{} set",
    "{} second hand", "{} offers", "{} for two", "{} for the family", "{} trade in", "best {} shop", "{} starter kit", "{} stock",
    "{} test day", "{} showroom",
)  # fmt: skip
GUIDE = (
    "{}", "{} step by step", "{} for beginners", "{} video", "{} with pictures", "{} tips", "{} mistakes", "{} on your own",
    "{} in cold weather", "{} checklist", "{} explained", "{} quickly", "{} safely", "{} without tools", "{} on a river",
    "{} with kids", "{} at sea", "{} pdf", "easiest way {}", "{} at home", "{} forum", "{} in autumn", "{} cheaply", "{} advice",
    "{} for two people", "{} course", "{} the right way", "{} after a trip", "{} before a trip", "{} alone", "{} in spring",
    "{} for heavy people", "{} common questions", "{} at night", "{} examples", "{} rules",
)  # fmt: skip
TRIP = (
    "{}", "{} map", "{} one day", "{} weekend", "{} difficulty", "{} with children", "{} camping", "{} parking", "{} start",
    "{} length", "{} water level", "{} in may", "{} in summer", "{} in autumn", "{} for beginners", "{} guided", "{} route",
    "{} how long", "{} with a dog", "{} hire", "{} transfer", "{} take out", "{} weirs", "{} permit", "{} distance", "{} photos",
    "{} report", "{} rapids", "{} where to sleep", "{} two days", "{} pubs", "{} train station", "{} gps", "{} rules", "{} wildlife",
    "{} closed",
)  # fmt: skip
PLACE = (
    "{}", "{} prices", "{} opening hours", "{} near me", "{} for groups", "{} booking", "{} one day", "{} weekend", "{} reviews",
    "{} for families", "{} with delivery", "{} phone", "{} cheap", "{} half day", "{} in winter", "{} same day", "{} voucher",
    "{} where", "{} cost", "{} directions", "{} parking", "{} for two", "{} deposit", "{} online", "{} availability",
    "{} cancellation", "{} discount", "{} for schools", "{} with guide", "{} by bus", "{} how it works", "{} student price",
    "{} season", "{} gift card", "{} on sunday", "{} photos",
)  # fmt: skip


def wordings(path: str) -> tuple[str, ...]:
    """Queries for which a type of page is an answer."""
    section, *below = path.strip("/").split("/")
    if section == "guides":
        return GUIDE
    if section == "trips":
        return TRIP
    if section in ("rental", "workshop"):
        return PLACE
    return (CATEGORY, PRODUCT, MODEL)[min(len(below), 2)]
