"""The rules of the job, as values in and values out.

Nothing here knows Django, files, the clock or the network; it takes Polars frames, numpy arrays and plain dataclasses.
Each module is one rule, named after it:

    periods      whole days, the same weeks a year before, missing days
    facts        how clicks, impressions and positions add up
    grains       the tables of facts: what tells rows apart, how repeats become one, what is withheld
    visits       channels, and sessions rebuilt from the requests of a log
    addresses    RFC 3986: references resolved, normal form
    cleaning     which addresses are one page, what is left out, page types, query groups
    patterns     how an analyst says which texts are meant
    pages        what a page says: its words, links and directives
    soundness    days that look wrong before anything is computed from them
    click_curve  the CTR that this site usually earns at a position
    device_curves  one click curve a device
    countries    countries by name and code
    evidence     whether a shortfall is more than chance
    headroom     what a better rank would bring
    lenses       which rows each lens shows, with all of the above on them
    brand        which words may be the brand
    change       why clicks changed between two periods, exactly split
    breaks       weeks in which a level changed and stayed changed
    cliffs       pages that broke together, the event near, spells out of the results
    clashes      which queries several pages fight over, in what way, and what it costs
    leads        which page should own a query, and what to do about the others
    topic_folds  pages shown for the same queries, whether or not they say the same
    wording      words and their stems
    fit          whether a page says the query that it is shown for
    sections     the directory tree, sums below and the page itself told apart
    landing      visits beside search: reconciled, bounces by type, earning and informing
    account      what a page earns and could gain by which lever, nothing counted twice
    sentences    the plain words for a row's numbers
"""
