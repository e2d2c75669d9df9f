"""The rules of the job, as values in and values out.

Nothing here knows Django, files, the clock or the network; it takes Polars frames, numpy arrays and plain dataclasses. Each
folder is a subject, each module one rule, named after it:

    facts/
        search        how clicks, impressions and positions add up
        grains        the tables of facts: their keys, how duplicates are united, what is withheld
        periods       whole days, the same weeks a year earlier, missing days
        addresses     RFC 3986: references resolved, normal form
        cleaning      which addresses are one page, what is left out, page types, query groups
        comparison    the measures of a site in two periods
        countries     countries by name and code
        patterns      how an analyst says which texts to match
        visits        channels, and sessions rebuilt from the requests of a log
        volumes       how often a query is searched a month, and what a click costs
        soundness     days that look wrong before anything is computed from them
    clicks/
        click_curve   the CTR that this site usually earns at a position
        device_curves one click curve a device
        evidence      whether a shortfall is more than chance
        headroom      what a better rank would bring
        lenses        which rows each finding lists, with expectation and opportunity
        country_gaps  queries that rank worse in one country than in the others
    pages/
        html          what a page says: its words, links and directives
        account       what a page earns and could gain by which lever, nothing counted twice
        landing       visits next to search: reconciled, bounces by type, earning and informing
        sections      the folder tree: sums of a folder, and its own page
        fit           whether a page covers the query that it ranks for
    contest/
        clashes       queries that several pages compete for, how, and what that costs
        leads         which page should own a query, and what to do about the others
        overlapping_pages   pages that rank for the same queries, similar or not
    links/
        graph         authority: what flows along the links between pages
        needs         which pages need links, which can link out, and what is wrong with their links
        faults        links with wrong targets, anchors without meaning or about another page
        mentions      where pages mention a phrase, linked or not
        similarity    which pages have similar text
        plan          suggested links, and their effect on authority
        setting       whether an accepted link was set
    topics/
        communities   which queries belong together
        season        when a topic peaks, and when its page must be ready
        intent        what searchers look for
        edits         people's edits of topics, applied to new data
        writing       content gaps: queries that no page answers
    drafts/
        terms         related terms of competing pages, and a page's coverage
    time/
        breaks        weeks in which a level changed for good
        cliffs        pages that broke together, nearby events, drop-outs
        change        why clicks changed between two periods, split exactly
    worth/
        moves         proposed moves and their order
        outcomes      the result of a move, compared with control pages
    words/
        sentences     the sentences about a row's numbers
        wording       words and their stems
        brand         words that may be the brand
"""
