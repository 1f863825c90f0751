"""Edits of Python source by position: the standard syntax tree tells where, the text keeps comments and layout.

All functions take and return plain text. Positions of the tree count UTF-8 bytes in a line; ``Text`` turns them into
places of the text. Every edit proves itself: its result is parsed again, and where more than what was meant differs it
is refused (``NotCarried``).
"""

from __future__ import annotations

import ast
from bisect import bisect_right
from collections.abc import Callable, Iterator

from ..core.lines import python_lines
from .carrying import NotCarried

Sequenced = ast.List | ast.Tuple | ast.Set
Holder = Sequenced | ast.Call  # what elements are put into: the arguments of a call as well


def items_of(sequence: Holder) -> list[ast.expr]:
    """Return the elements of a list, tuple or set, or the arguments of a call that stand without a name."""
    return sequence.args if isinstance(sequence, ast.Call) else sequence.elts


class Text:
    """A text with the means to turn a tree's positions into places."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.lines = python_lines(text)
        self.starts = [0]
        for line in self.lines:
            self.starts.append(self.starts[-1] + len(line))

    @property
    def newline(self) -> str:
        """The line end that new lines get: the one that the text uses most."""
        both, feeds = self.text.count("\r\n"), self.text.count("\n")
        if not feeds and "\r" in self.text:
            return "\r"
        return "\r\n" if both * 2 > feeds else "\n"

    def start(self, node: ast.expr | ast.stmt | ast.keyword) -> int:
        """Position of a node's first letter."""
        return self._place(node.lineno, node.col_offset)

    def end(self, node: ast.expr | ast.stmt) -> int:
        """Position after a node's last letter."""
        assert node.end_lineno is not None and node.end_col_offset is not None
        return self._place(node.end_lineno, node.end_col_offset)

    def name_start(self, node: ast.alias) -> int:
        """Position of the first letter of an imported name."""
        return self._place(node.lineno, node.col_offset)

    def name_end(self, node: ast.alias) -> int:
        """Position after an imported name."""
        assert node.end_lineno is not None and node.end_col_offset is not None
        return self._place(node.end_lineno, node.end_col_offset)

    def line_start(self, place: int) -> int:
        """Position of the first letter of the line in which a place lies."""
        return self.starts[bisect_right(self.starts, place) - 1]

    def line_end(self, place: int) -> int:
        """Position after the line end of the line in which a place lies."""
        return self.starts[min(bisect_right(self.starts, place), len(self.starts) - 1)]

    def indent(self, place: int) -> str | None:
        """The white space before a place on its line; None when something else stands there."""
        before = self.text[self.line_start(place) : place]
        return before if not before.strip() else None

    def _place(self, line: int, column: int) -> int:
        raw = self.lines[line - 1]
        if not raw.isascii():
            column = len(raw.encode("utf-8")[:column].decode("utf-8"))
        return self.starts[line - 1] + column


def insert_item(text: str, sequence: Holder, item: str, *, before: int | None = None) -> str:
    """Put an item into a list, tuple or set.

    text     -- the source that ``sequence`` was parsed from
    item     -- the item's source
    before   -- the index of the element to stand before; None to stand last

    Comments, line breaks and the trailing comma stay as the sequence has them. Raises NotCarried where more than the
    item would change.
    """
    at = len(items_of(sequence)) if before is None else before

    def put(same: Holder) -> None:
        items_of(same).insert(at, ast.parse(item, mode="eval").body)

    return _proven(text, _with_item(text, sequence, item, before), sequence, put)


def _proven(text: str, result: str, sequence: Holder, intended: Callable[[Holder], object]) -> str:
    """Return the result of an edit whose tree is that of the text with the intended change, and no other."""
    expected = ast.parse(text)
    same = same_sequence(expected, sequence)
    if same is None:
        raise NotCarried(sequence.lineno, "the list is not there any more")
    intended(same)
    return _same_tree(result, expected, sequence.lineno)


def same_sequence(tree: ast.Module, sequence: Holder) -> Holder | None:
    """Return the list, tuple or set of a tree that begins where another one does; None where there is none."""
    place = (type(sequence), sequence.lineno, sequence.col_offset)
    return next(
        (
            node
            for node in ast.walk(tree)
            if isinstance(node, Holder) and (type(node), node.lineno, node.col_offset) == place
        ),
        None,
    )


def _with_item(text: str, sequence: Holder, item: str, before: int | None) -> str:
    source = Text(text)
    newline = source.newline
    elements = items_of(sequence)
    if not elements:
        return _into_empty(source, sequence, item)
    if before is not None and before < len(elements):
        at, _ = _span(source, elements[before], _limit(source, sequence, before))
        indent = source.indent(at)
        joint = ", " if indent is None else f",{newline}{indent}"
        return text[:at] + item + joint + text[at:]
    end, comma, closing = _tail(source, sequence)
    indent = source.indent(_span(source, elements[-1], closing)[0])
    if indent is None:
        if comma is None:
            return f"{text[:end]}, {item}{text[end:]}"
        single = isinstance(sequence, ast.Tuple) and len(elements) == 1
        return f"{text[: comma + 1]} {item}{'' if single else ','}{text[comma + 1 :]}"
    after = end if comma is None else comma + 1
    line_end = source.line_end(after)
    if line_end > closing or text[line_end - 1 : line_end] not in ("\n", "\r"):
        trailing = "" if comma is None else ","
        return f"{text[:end]},{newline}{indent}{item}{trailing}{text[after:]}"
    return f"{text[:end]},{text[after:line_end]}{indent}{item},{newline}{text[line_end:]}"


def _tail(source: Text, sequence: Holder) -> tuple[int, int | None, int]:
    """Return the place after the last element (its own brackets included), of the comma behind it, and of the end."""
    elements = items_of(sequence)
    closing = _limit(source, sequence, len(elements) - 1)
    _, end = _span(source, elements[-1], closing)
    return end, _comma_after(source.text, end, closing), closing


def _span(source: Text, element: ast.expr, limit: int) -> tuple[int, int]:
    """Return an element's first and last place with the round brackets that stand around it alone."""
    start, end = source.start(element), source.end(element)
    index = end
    while index < limit and source.text[index] not in ",":
        if source.text[index] == "#":
            index = source.line_end(index)
            continue
        if source.text[index] == ")":
            end = index + 1
            start = source.text.rindex("(", 0, start)
        index += 1
    return start, end


def _into_empty(source: Text, sequence: Holder, item: str) -> str:
    start, end = source.start(sequence), source.end(sequence)
    if isinstance(sequence, ast.Call):
        raise NotCarried(sequence.lineno, "the call holds nothing yet")
    inside = source.text[start + 1 : end - 1]
    comma = "," if isinstance(sequence, ast.Tuple) else ""
    if "\n" not in inside and "\r" not in inside:
        return source.text[: start + 1] + item + comma + source.text[end - 1 :]
    newline = source.newline
    base = source.indent(end - 1) or ""
    return (
        source.text[: source.line_start(end - 1)]
        + f"{base}    {item},{newline}"
        + source.text[source.line_start(end - 1) :]
    )


def _bracketed(source: Text, sequence: Holder) -> bool:
    return source.text[source.end(sequence) - 1] in ")]}" and (
        source.start(sequence) != source.start(items_of(sequence)[0]) if items_of(sequence) else True
    )


def _comma_after(text: str, start: int, stop: int) -> int | None:
    """Position of the comma between two places, outside comments."""
    index = start
    while index < stop:
        if text[index] == "#":
            while index < stop and text[index] not in "\r\n":
                index += 1
        elif text[index] == ",":
            return index
        index += 1
    return None


def remove_item(text: str, sequence: Holder, index: int) -> str:
    """Take one element out of a list, tuple or set, with its comma, its line where it stood alone, and its remark.

    Raises NotCarried where more than the element would change.
    """

    def take(same: Holder) -> None:
        del items_of(same)[index]

    return _proven(text, _without_item(text, sequence, index), sequence, take)


def _without_item(text: str, sequence: Holder, index: int) -> str:
    source = Text(text)
    last_end, last_comma, _ = _tail(source, sequence)
    elements = items_of(sequence)
    if isinstance(sequence, ast.Tuple) and len(elements) == 2 and index == 0 and last_comma is None:
        text = text[:last_end] + "," + text[last_end:]  # behind all places used below
    limit = _limit(source, sequence, index)
    start, end = _span(source, elements[index], limit)
    comma = _comma_after(source.text, end, limit)
    after = end if comma is None else comma + 1
    rest_of_line = text[after : source.line_end(after)].strip()
    if source.indent(start) is not None and (not rest_of_line or rest_of_line.startswith("#")):
        return text[: source.line_start(start)] + text[source.line_end(after) :]
    if index + 1 < len(elements):
        following, _ = _span(source, elements[index + 1], _limit(source, sequence, index + 1))
        return text[:start] + text[following:]
    if index == 0:
        keep = "" if not isinstance(sequence, ast.Tuple) or _bracketed(source, sequence) else "()"
        return text[:start] + keep + text[after:]
    _, previous = _span(source, elements[index - 1], start)
    single_left = isinstance(sequence, ast.Tuple) and index == 1
    return text[:previous] + ("," if single_left or comma is not None else "") + text[after:]


def _limit(source: Text, sequence: Holder, index: int) -> int:
    """Return the place up to which what belongs to an element can reach: the next element, or the end."""
    elements = items_of(sequence)
    if index + 1 < len(elements):
        return source.start(elements[index + 1])
    if isinstance(sequence, ast.Call) and sequence.keywords:
        return source.start(sequence.keywords[0])
    return source.end(sequence) - (1 if _bracketed(source, sequence) else 0)


def insert_statement(text: str, statement: ast.stmt, line: str, *, after: bool = True) -> str:
    """Put a line of source after (or before) a statement, at its indentation.

    Raises NotCarried where the line would not become a statement beside that one.
    """
    source = Text(text)
    indent = source.indent(source.start(statement)) or ""
    at = source.line_end(source.end(statement)) if after else source.line_start(source.start(statement))
    joint = source.newline if at and text[at - 1] not in "\r\n" else ""
    result = text[:at] + joint + indent + line + source.newline + text[at:]
    expected = ast.parse(text)
    place = (statement.lineno, statement.col_offset)
    for body in _bodies(expected):
        for index, node in enumerate(body):
            if (node.lineno, node.col_offset) == place:
                body[index + after : index + after] = ast.parse(line).body
                return _same_tree(result, expected, statement.lineno)
    raise NotCarried(statement.lineno, "the statement is not there any more")


def remove_statement(text: str, statement: ast.stmt) -> str:
    """Take a statement out with its line, which must hold nothing else but a remark.

    Raises NotCarried where more than that would change.
    """
    source = Text(text)
    start, end = source.start(statement), source.end(statement)
    rest = text[end : source.line_end(end)].strip()
    expected = ast.parse(text)
    place = (statement.lineno, statement.col_offset)
    for body in _bodies(expected):
        for index, node in enumerate(body):
            if (node.lineno, node.col_offset) != place:
                continue
            if source.indent(start) is None or (rest and not rest.startswith("#")) or len(body) == 1:
                break
            del body[index]
            return _same_tree(text[: source.line_start(start)] + text[source.line_end(end) :], expected, place[0])
    raise NotCarried(statement.lineno, "this line does more than one thing")


def statement_at(text: str, sort: type[ast.stmt], line: int) -> ast.stmt:
    """Return the statement of a sort that begins on a line; raises NotCarried where there is none."""
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, sort) and node.lineno == line:
            return node
    raise NotCarried(line, "the statement is not there any more")


def _bodies(tree: ast.Module) -> Iterator[list[ast.stmt]]:
    for node in ast.walk(tree):
        for name in ("body", "orelse", "finalbody"):
            held = getattr(node, name, None)
            if isinstance(held, list):
                yield held


def _same_tree(result: str, expected: ast.Module, line: int) -> str:
    """Return the result of an edit whose tree is as expected; raises NotCarried for another."""
    try:
        if ast.dump(ast.parse(result)) == ast.dump(expected):
            return result
    except (SyntaxError, ValueError):
        pass
    raise NotCarried(line, "what stands there is written in a way that cannot be edited safely")


def import_name(text: str, module: str, name: str) -> str:
    """Make ``name`` of ``module`` known in a source text; a text that imports it already is returned as it is.

    Raises NotCarried where more than that would change.
    """
    tree = ast.parse(text)
    imports = [node for node in tree.body if isinstance(node, ast.Import | ast.ImportFrom)]
    same = [node for node in imports if isinstance(node, ast.ImportFrom) and (node.module, node.level) == (module, 0)]
    if any(alias.name == name and alias.asname is None for node in same for alias in node.names):
        return text
    for node in same:
        if node.names[0].name != "*":
            return extend_import(text, node, name)
    line = f"from {module} import {name}"
    if imports:
        return insert_statement(text, imports[-1], line)
    if tree.body and isinstance(tree.body[0], ast.Expr) and isinstance(tree.body[0].value, ast.Constant):
        return insert_statement(text, tree.body[0], line)
    if tree.body:
        return insert_statement(text, tree.body[0], line, after=False)
    newline = Text(text).newline
    return text + (newline if text and text[-1] not in "\r\n" else "") + line + newline


def without_imported(text: str, line: int, name: str) -> str:
    """Take a name out of the import that begins on a line, and the import with it where that was its only one.

    name -- as the file knows it. Raises NotCarried where more than that would change.
    """
    node = next((one for one in ast.walk(ast.parse(text)) if _imports_on(one, line)), None)
    if not isinstance(node, ast.Import | ast.ImportFrom):
        raise NotCarried(line, "the import is not there any more")
    index = next((at for at, one in enumerate(node.names) if (one.asname or one.name) == name), None)
    if index is None:
        raise NotCarried(line, f"{name} is not imported there")
    if len(node.names) == 1:
        return remove_statement(text, node)
    source = Text(text)
    if index:
        result = text[: source.name_end(node.names[index - 1])] + text[source.name_end(node.names[index]) :]
    else:
        result = text[: source.name_start(node.names[0])] + text[source.name_start(node.names[1]) :]
    expected = ast.parse(text)
    for same in ast.walk(expected):
        if _imports_on(same, line):
            del same.names[index]  # type: ignore[attr-defined]
            return _same_tree(result, expected, line)
    raise NotCarried(line, "the import is not there any more")


def _imports_on(node: ast.AST, line: int) -> bool:
    return isinstance(node, ast.Import | ast.ImportFrom) and node.lineno == line


def without_idle_imports(text: str) -> str:
    """Return a text without the names that it imports and never uses; for one that was put together from parts."""
    tree = ast.parse(text)
    used = {node.id for node in ast.walk(tree) if isinstance(node, ast.Name)}
    for node in reversed(tree.body):
        if not isinstance(node, ast.Import | ast.ImportFrom) or getattr(node, "module", "") == "__future__":
            continue
        kept = [one for one in node.names if (one.asname or one.name.partition(".")[0]) in used or one.name == "*"]
        if len(kept) == len(node.names):
            continue
        source = Text(text)
        start, end = source.start(node), source.end(node)
        if kept:
            node.names = kept
            text = text[:start] + ast.unparse(node) + text[end:]
        else:
            text = text[: source.line_start(start)] + text[source.line_end(end) :]
    return text


def extend_import(text: str, node: ast.ImportFrom, name: str) -> str:
    """Put one more name into an import, in order where the names stand in order.

    Raises NotCarried where more than that would change.
    """
    source = Text(text)
    names = [alias.name for alias in node.names]
    later = [alias for alias in node.names if alias.name > name and alias.asname is None]
    at = node.names.index(later[0]) if later and names == sorted(names) else len(names)
    result = _with_name(source, node, at, name)
    expected = ast.parse(text)
    for same in ast.walk(expected):
        if isinstance(same, ast.ImportFrom) and (same.lineno, same.col_offset) == (node.lineno, node.col_offset):
            same.names.insert(at, ast.alias(name, None))
            return _same_tree(result, expected, node.lineno)
    raise NotCarried(node.lineno, "the import is not there any more")


def _with_name(source: Text, node: ast.ImportFrom, index: int, name: str) -> str:
    text = source.text
    if index < len(node.names):
        at = source.name_start(node.names[index])
        indent = source.indent(at)
        joint = ", " if indent is None else f",{source.newline}{indent}"
        return text[:at] + name + joint + text[at:]
    at = source.name_end(node.names[-1])
    indent = source.indent(source.name_start(node.names[-1]))
    if indent is None and not text[at:].lstrip().startswith((",", ")")) and _line_length(text, at) + len(name) > 110:
        names = text[source.name_start(node.names[0]) : at]
        return f"{text[: at - len(names)]}({names}, {name}){text[at:]}"
    return text[:at] + (", " if indent is None else f",{source.newline}{indent}") + name + text[at:]


def _line_length(text: str, place: int) -> int:
    source = Text(text)
    return source.line_end(place) - source.line_start(place)


def spelled_as(text: str, node: ast.expr) -> str:
    """Return the source of an expression as it stands in a text."""
    source = Text(text)
    return text[source.start(node) : source.end(node)]


def quoted_like(neighbour: str, value: str) -> str:
    """Spell a text as a Python literal with the quotes that a neighbouring literal uses."""
    spelled = repr(value)
    if not neighbour.lstrip("rbuRBU").startswith("'") and spelled[0] == "'" and '"' not in value:
        return '"' + spelled[1:-1] + '"'
    return spelled
