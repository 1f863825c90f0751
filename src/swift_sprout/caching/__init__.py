"""Results of checks that are kept from one run to the next: docs/cached-checks.md tells how.

listing.py     lists trees of files with their times
digesting.py   what files are known again by: many in short, and each by its content
place.py       the user's cache folder
results.py     the result of a check as plain data, and back
rests_on.py    what a result rests on
remembered.py  puts it together: a kept result, or the work on it
"""
