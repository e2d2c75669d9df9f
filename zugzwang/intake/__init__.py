"""Bringing data in.

formats       any file as tables: its type, archives opened safely
  tables, delimited, spreadsheets, data_files, calendars, access_log: the kinds of tables
kinds         what each kind of table contains, one declaration each
fields        which column is which, and which kind a table is
values        how numbers, days and words are written
checks        what makes a row bad
reading       rows typed and checked; good and refused ones separated
assembling    good rows as a grain's table
loading       the use case: file → tables → blocks, as a preview or written; undone
reports       the effect of a load, in numbers and words
outside       the only way out to other machines
services      a source fetched page by page; refreshing: what is missing, fetched and loaded
crawling      the crawler; robots: what a host allows it
uploads       files dropped in the browser, stored until they are loaded
jobs          background work: progress, cancelling, resuming
"""
