"""Bringing data in.

formats       any file as tables: what it is, archives opened with care
  tables, delimited, spreadsheets, data_files, calendars, access_log: the kinds of tables
fields        what each source holds, and which column is which
values        how numbers, days and words are written
checks        what makes a row bad
reading       rows typed and checked; good and refused ones distinguished
assembling    good rows as a grain's table
loading       the use case: file → tables → blocks, tried or written; undone
reports       what a load did, in numbers and words
outside       the one way out to other machines
services      a source asked page by page; refreshing: what is missing fetched and loaded
crawling      our own crawler; robots: what a host allows it
uploads       files dropped in the browser, kept until they are loaded
jobs          long work in the background: progress, cancel, taken up again
"""
