"""The rules of the job, as values in and values out.

Nothing here knows Django, files, the clock or the network; it takes Polars frames, numpy arrays and plain dataclasses.
Each module is one rule, named after it:

    periods      whole days, the same weeks a year before, missing days
    facts        how clicks, impressions and positions add up
    click_curve  the CTR that this site usually earns at a position
    evidence     whether a shortfall is more than chance
    headroom     what a better rank would bring
    lenses       which rows each lens shows, with all of the above on them
    brand        which queries are branded
    sentences    the plain words for a row's numbers
"""
