"""Edits of CSV files: a row is added in the file's own dialect."""

from __future__ import annotations

import csv
import io

from .carrying import NotCarried


def add_row(text: str, row: dict[str, str], known_by: str) -> str:
    """Add a row to a file whose first line names the columns.

    known_by -- the column by which a row is known: a file that holds one with its value is returned as it is

    Raises NotCarried when the file has not all columns of the row.
    """
    try:
        dialect: type[csv.Dialect] | csv.Dialect = csv.Sniffer().sniff(text.splitlines()[0], ",;\t|")
    except (csv.Error, IndexError):
        dialect = csv.excel
    reader = csv.DictReader(io.StringIO(text, newline=""), dialect=dialect)
    columns = list(reader.fieldnames or [])
    missing = [name for name in row if name not in columns]
    if missing:
        raise NotCarried(1, f"it has no column {missing[0]!r}")
    if any(held.get(known_by) == row[known_by] for held in reader):
        return text
    newline = "\r\n" if "\r\n" in text else "\n"
    written = io.StringIO(newline="")
    writer = csv.DictWriter(
        written, columns, delimiter=dialect.delimiter, quotechar=dialect.quotechar or '"', lineterminator=newline
    )
    writer.writerow(row)
    return text + ("" if text.endswith("\n") else newline) + written.getvalue()
