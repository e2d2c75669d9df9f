"""The rules of the job, as values in and values out.

Nothing here knows Django, files, the clock or the network; it takes Polars frames, numpy arrays and plain dataclasses.
Each folder is a subject, each module one rule, named after it:

    facts/
        search        how clicks, impressions and positions add up
        grains        the tables of facts: what distinguishes rows, how repeats become one, what is withheld
        periods       whole days, the same weeks a year before, missing days
        addresses     RFC 3986: references resolved, normal form
        cleaning      which addresses are one page, what is left out, page types, query groups
        comparison    the measures of a site next to those of the days compared with
        countries     countries by name and code
        patterns      how an analyst says which texts are meant
        visits        channels, and sessions rebuilt from the requests of a log
        volumes       how often a query is searched a month, and what a click costs
        soundness     days that look wrong before anything is computed from them
    clicks/
        click_curve   the CTR that this site usually earns at a position
        device_curves one click curve a device
        evidence      whether a shortfall is more than chance
        headroom      what a better rank would bring
        lenses        which rows each lens shows, with all of the above on them
        country_gaps  queries that rank worse in one country than in the others
    pages/
        html          what a page says: its words, links and directives
        account       what a page earns and could gain by which lever, nothing counted twice
        landing       visits next to search: reconciled, bounces by type, earning and informing
        sections      the directory tree, sums below and the page itself distinguished
        fit           whether a page covers the query that it ranks for
    contest/
        clashes       which queries several pages compete for, in what way, and what it costs
        leads         which page should own a query, and what to do about the others
        overlapping_pages   pages that rank for the same queries, whether or not they say the same
    links/
        graph         authority: what flows along the links between pages
        needs         which pages need links, which can link out, and what is wrong with their links
        faults        links that lead wrong, anchors that say nothing or mean another page
        mentions      where pages say a phrase in running text, linked or not
        similarity    which pages speak alike
        plan          from which pages a page should be linked to, and what that does
        setting       whether a planned link was set
    topics/
        communities   which queries belong together
        season        when in the year they are searched, and by when a page must be
        intent        what searchers look for
        edits         what people changed about topics, applied to new data
        writing       groups of queries that no page of the site answers
    drafts/
        terms         what the competing pages say of a query, and how much of it a page says
    time/
        breaks        weeks in which a level changed and stayed changed
        cliffs        pages that broke together, the event near, spells out of the results
        change        why clicks changed between two periods, exactly split
    worth/
        moves         what is proposed to do, and in which order
        outcomes      the result of a move, next to pages that no one touched
    words/
        sentences     the plain words for a row's numbers
        wording       words and their stems
        brand         which words may be the brand
"""
