"""Use cases of looking: load blocks, call the core, put names to ids.

sites         the sites one may see, and what may be set for them
sources       what a site has of each source, and what looks unsound
cleaning      the rules of cleaning: their effect, kept, put back; which page a page counts as
connections   services and dated events
frames        what is computed from a site's facts, kept while the facts stay as they are
scope         what every question has in common, settled against a site
findings      all that can be found, by name
queries       the lenses on page × query rows: list, evidence of a row, field, export
query_files   one query with every page shown for it
accounts      pages with what they could gain, and one page's file
clashing      clashes, leads, topic folds
changes       why clicks changed
breaking      breaks, cliffs, spells out of the results
sectioning    directories and page types
landing       search beside visits
standing      where the site stands
planning      moves filled in from findings, and what came of them
"""
