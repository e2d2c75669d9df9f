"""Use cases of looking: load blocks, call the core, put names to ids.

sites     the sites one may see, and what may be set for them
frames    what is computed from a site's facts, kept while the facts stay as they are
queries   the lenses on page × query rows: list, evidence of a row, field, export
"""
