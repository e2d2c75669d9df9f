"""Findings: questions that are answered with rows.

finding    what a finding is: its declaration
view       what is asked, settled against a site
table      the one way from a finding to its answer
registry   all findings, by name
columns    columns and fields that several findings share
shapes     the shapes of what is within rows and next to them
measures   search next to visits, which several findings start from
methods    docs/methods.md by its sections

The others hold a finding each, named after it.
"""
