"""Use cases of looking: load blocks, call the core, put names to ids.

sites         the sites one may see, and what may be set for them
sources       what a site has of each source, and what looks unsound
cleaning      the rules of cleaning: their effect, kept, put back; which page a page counts as
connections   services and dated events
frames        what is computed from a site's facts, kept while the facts stay as they are
diagnosis     why clicks changed, which weeks broke, which queries clash
queries       the lenses on page × query rows: list, evidence of a row, field, export
"""
