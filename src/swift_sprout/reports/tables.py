"""Tables that fit a width: columns side by side as long as they can be read, else a small block for each row."""

from __future__ import annotations

from collections.abc import Sequence

from .widths import broken, least_width, width

GAP = 2
MOST_LINES = 3  # of a row, on the average: columns that are narrower are harder to read than blocks


def laid_out(head: Sequence[str], rows: Sequence[Sequence[str]], limit: int, spare: Sequence[str] = ()) -> list[str]:
    """Return the lines of a table, its head first; empty columns are left out.

    limit -- columns of the terminal
    spare -- columns that are left out, in this order, before the table is parted into blocks
    """
    shown = [column for column in range(len(head)) if any(row[column] for row in rows)]
    left_out = [head.index(name) for name in spare if head.index(name) in shown]
    for count in range(len(left_out) + 1):
        kept = [column for column in shown if column not in left_out[:count]]
        widths = _widths(head, rows, kept, limit)
        lines = _side_by_side(head, rows, widths) if widths is not None else []
        if lines and len(lines) <= 1 + MOST_LINES * len(rows):
            return lines
    return _blocks(head, rows, shown, limit)


def _widths(
    head: Sequence[str], rows: Sequence[Sequence[str]], shown: Sequence[int], limit: int
) -> dict[int, int] | None:
    """Return widths of columns that fit side by side without a torn word; None where there are none."""
    texts = {column: [row[column] for row in (head, *rows)] for column in shown}
    widths = {column: max(map(width, told)) for column, told in texts.items()}
    least = {column: max(map(least_width, told)) for column, told in texts.items()}
    while sum(widths.values()) + GAP * (len(widths) - 1) > limit:
        spacious = [column for column in shown if widths[column] > least[column]]
        if not spacious:
            return None
        widths[max(spacious, key=lambda column: widths[column])] -= 1
    return widths


def _side_by_side(head: Sequence[str], rows: Sequence[Sequence[str]], widths: dict[int, int]) -> list[str]:
    lines = []
    for row in (head, *rows):
        cells = {column: broken(row[column], columns, whole_paths=True) for column, columns in widths.items()}
        for level in range(max(map(len, cells.values()), default=1)):
            pieces = [(cell[level] if level < len(cell) else "", widths[column]) for column, cell in cells.items()]
            lines.append((" " * GAP).join(piece + " " * (columns - width(piece)) for piece, columns in pieces).rstrip())
    return lines


def _blocks(head: Sequence[str], rows: Sequence[Sequence[str]], shown: Sequence[int], limit: int) -> list[str]:
    """Return each row as a block: what its first cell says, and below it the others by the names of their columns."""
    first, *others = shown
    widest = max((width(head[column]) for column in others), default=0)
    lines = [f"{head[first]}:"]
    for row in rows:
        if row[first]:
            lines += broken(row[first], limit)
        for column in others:
            if row[column]:
                begin = f"{'':<{GAP}}{head[column]:<{widest}}{'':<{GAP}}"
                text, *more = broken(row[column], limit - width(begin))
                lines += [begin + text, *(" " * width(begin) + one for one in more)]
    return lines
