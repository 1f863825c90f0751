"""PHP files as syntax trees, without running them and without PHP."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from typing import TYPE_CHECKING, Any

from tree_sitter import Language, Parser, Query

if TYPE_CHECKING:
    from tree_sitter import Node, Tree


@cache
def _parser() -> Parser:
    import tree_sitter_php

    return Parser(Language(tree_sitter_php.language_php()))


#  what a reader of modules must see of a file, by sort; all else is passed over without being looked at
_WANTED = """
(namespace_definition) @namespace
(namespace_use_declaration) @use
[(class_declaration) (interface_declaration) (trait_declaration) (enum_declaration)] @class
(method_declaration) @method
(function_definition) @function
[(anonymous_function) (arrow_function)] @closure
[(if_statement) (switch_statement) (for_statement) (foreach_statement) (while_statement) (try_statement)] @condition
(const_declaration) @const
[
  (require_once_expression) (require_expression) (include_once_expression) (include_expression)
] @include
(function_call_expression) @call
(object_creation_expression) @new
(scoped_call_expression) @scoped
(echo_statement) @echo
(text) @text
"""


@cache
def _query() -> Query:
    import tree_sitter_php

    return Query(Language(tree_sitter_php.language_php()), _WANTED)


def captured(root: Node) -> list[tuple[str, Node]]:
    """Return what matters of a file with its sort, in the order of the source, outer before inner."""
    from tree_sitter import QueryCursor

    found = [
        (node.start_byte, -node.end_byte, sort, node)
        for sort, nodes in QueryCursor(_query()).captures(root).items()
        for node in nodes
    ]
    found.sort(key=lambda one: one[:2])
    return [(sort, node) for _, _, sort, node in found]


_MEMBERS = """
[
  (member_call_expression) (nullsafe_member_call_expression) (member_access_expression)
  (scoped_call_expression) (class_constant_access_expression)
] @asked
(anonymous_class) @other
"""


@cache
def _member_query() -> Query:
    import tree_sitter_php

    return Query(Language(tree_sitter_php.language_php()), _MEMBERS)


def members_asked(of: Node) -> list[Node]:
    """Return where a class asks a thing for a member, in the order of the source; a class inside of it is left out."""
    from tree_sitter import QueryCursor

    found = QueryCursor(_member_query()).captures(of)
    inside = [(node.start_byte, node.end_byte) for node in found.get("other", [])]
    asked = [
        node for node in found.get("asked", []) if not any(begin <= node.start_byte < end for begin, end in inside)
    ]
    return sorted(asked, key=lambda node: node.start_byte)


def parsed(content: bytes) -> Tree:
    """Return the syntax tree of a file; a tree is made of whatever it holds."""
    return _parser().parse(content)


def text_of(node: Node | None) -> str:
    """Return the source of a node; empty for none."""
    return node.text.decode("utf-8", "replace") if node is not None and node.text is not None else ""


def line_of(node: Node) -> int:
    """Return the line on which a node begins, counted from 1."""
    return int(node.start_point[0]) + 1


def walk(node: Node) -> Iterator[Node]:
    """Yield a node and all below it, in the order of the source."""
    waiting = [node]
    while waiting:
        one = waiting.pop()
        yield one
        waiting += reversed(one.children)


def first_error(tree: Tree) -> int:
    """Return the line of the first place that does not parse; 0 when all does."""
    if not tree.root_node.has_error:
        return 0
    for node in walk(tree.root_node):
        if node.is_error or node.is_missing:
            return line_of(node)
    return line_of(tree.root_node)


def _integer(text: str) -> int | None:
    """Return a whole number as PHP writes it: one that begins with 0 is octal."""
    digits = text.replace("_", "").lower()
    try:
        return int(digits, 8) if digits[:1] == "0" and digits[1:].isdecimal() else int(digits, 0)
    except ValueError:
        return None


def literal(node: Node | None, constants: dict[str, str] | None = None) -> Any:
    """Return the value of an expression that says it itself; None for all others.

    Texts that are put together of such are taken together; ``constants`` are names and what they stand for.
    """
    if node is None:
        return None
    kind = node.type
    if kind in ("string", "encapsed_string"):
        if any(child.type not in ("string_content", "escape_sequence", "'", '"') for child in node.children):
            return None
        inner = text_of(node)[1:-1]
        if kind == "string":
            return inner.replace("\\'", "'").replace("\\\\", "\\")
        return inner.replace('\\"', '"').replace("\\$", "$").replace("\\\\", "\\").replace("\\n", "\n")
    if kind == "integer":
        return _integer(text_of(node))
    if kind == "boolean":
        return text_of(node).lower() == "true"
    if kind == "binary_expression" and text_of(node.child_by_field_name("operator")) == ".":
        left = literal(node.child_by_field_name("left"), constants)
        right = literal(node.child_by_field_name("right"), constants)
        return f"{left}{right}" if isinstance(left, str) and isinstance(right, str) else None
    if kind == "parenthesized_expression":
        return literal(node.named_children[0] if node.named_children else None, constants)
    if kind in ("name", "class_constant_access_expression", "qualified_name") and constants:
        return constants.get(text_of(node).lstrip("\\"))
    return None


def arguments(call: Node) -> list[Node]:
    """Return the arguments of a call, without names and commas."""
    held = call.child_by_field_name("arguments")
    if held is None:
        return []
    found = []
    for one in held.named_children:
        if one.type == "argument":
            inner = [child for child in one.named_children if child.type != "name" or len(one.named_children) == 1]
            if inner:
                found.append(inner[-1])
        elif one.type not in ("comment", "variadic_placeholder"):
            found.append(one)
    return found


def array_items(node: Node | None) -> list[tuple[Node | None, Node]]:
    """Return the items of an array expression: key (None for none) and value."""
    if node is None or node.type != "array_creation_expression":
        return []
    found: list[tuple[Node | None, Node]] = []
    for item in node.named_children:
        if item.type != "array_element_initializer":
            continue
        inner = [child for child in item.named_children if child.type != "comment"]
        if len(inner) == 2:
            found.append((inner[0], inner[1]))
        elif inner:
            found.append((None, inner[0]))
    return found
