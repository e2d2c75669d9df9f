"""Bringing data in.

columns       which column of a file holds what
delimited     a text file as batches of rows, and where in the file each row stands
search_facts  rows checked and turned into facts; good and refused ones told apart
loading       the use case: file → facts → blocks, with a report
uploads       files dropped in the browser, kept until they are loaded
jobs          long work in the background: progress, cancel, what came of it
"""
