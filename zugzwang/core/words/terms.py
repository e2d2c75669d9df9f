"""Our own terms, and the values in lists, each explained in one sentence: the tooltips of all screens."""

TERMS: dict[str, str] = {
    # evidence
    "firm": "At most 1 in 100 of such rows is a false alarm.",
    "likely": "At most 1 in 10 of such rows is a false alarm.",
    "possible": "It looks like one and could be chance; its probability says how often such rows are real.",
    "too little data": "No number of clicks could have separated it from chance: the expected clicks are too few.",
    # clashes
    "clash": "Two or more of your pages compete for one query (cannibalisation).",
    "alternating": "The pages take turns: the best one changes again and again (a relay).",
    "split": "The pages are shown together and share what one page could win.",
    "double listing": "Two of your pages are on page one together: a strength, not a problem.",
    "wrong page ranks": "The page shown most is not the page about this query (an understudy).",
    "unite": "Merge the pages into the leading page and redirect the others.",
    "point": "Add a canonical link from the other page to the leading page.",
    "refocus": "Reword the other page so that it is about its own query.",
    "feed": "Link to the leading page, so that it ranks instead of the other.",
    "retire": "Remove the other page from the index.",
    "accept": "Leave the pages as they are.",
    "lead": "The page that should rank for the query.",
    # plans
    "move": "One task with its page and query, who does it, when, and its measured result.",
    "trial": "A change with its question asked beforehand, measured against control pages.",
    "dismiss": "Hide this row, with a reason. It can be restored at any time.",
    "snooze": "Hide this row until a day you choose.",
    # pictures
    "field": "Every query as a dot: position across, CTR up, and the curve of your site.",
    "ledger": "What a page earns now, and what each kind of improvement could add, on one scale.",
    "exchange": "Each page by its share of link authority and its share of opportunity.",
    "strip": "A page from top to bottom, fifty words a square; filled squares contain the query.",
    "sheet": "The SERP to scale, with the place where the first screen ends.",
    "board": "Topics down, months across; darker squares have more searches.",
    "lots": "The effect of the change among the effects of control pages that changed nothing.",
    "breaks": "Weeks in which clicks or impressions changed their level for good.",
    "cliff": "Several pages whose level changed in the same week.",
    # on-page
    "missing": "The query is not in the page's title, headings or text.",
    "other forms": "The page has the words of the query, in other forms and close together.",
    "low on the page": "The query first appears in the second half of the text.",
    "on the page": "The page has the query word for word in its first half or in a heading.",
    "close": "Title, heading or address have all words of the query.",
    "loose": "Title, heading or address have some words of the query.",
    "off": "Title, heading and address have few or none of the query's words.",
    "explained": "SERP features above the result explain the low CTR, so the snippet is not the cause.",
    # links
    "needs links": "The page has much to gain and little link authority.",
    "can link out": "The page has more link authority than opportunity: link from it.",
    "fix": "The page has links to redirects or missing pages.",
}
