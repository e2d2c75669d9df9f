"""Findings: questions whose answer is a list of rows.

finding the declaration of a finding view the request, resolved against a site table the one way from a finding to its
answer registry all findings, by name columns columns and fields that several findings share shapes the types of nested
values in rows and answers measures search and visit figures that several findings use methods docs/methods.md by its
sections

Each other module holds one finding, named after it.
"""
