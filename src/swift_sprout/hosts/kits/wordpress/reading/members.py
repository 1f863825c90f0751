"""Methods, constants and properties that a module's code asks of its own classes, and that those do not have.

Of which class a thing is, is told by the types that the code says: of ``$this``, of properties and of parameters.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, NamedTuple

from .....core.nearest import misspelt, near_text
from .syntax import line_of, members_asked, text_of

if TYPE_CHECKING:
    from tree_sitter import Node

    from .phpfile import PhpFile

#  gives a class what its text does not show: functions bound to it from outside, calls of what may not be there
_BOUND_ELSEWHERE = re.compile(r"Closure::bind|->bindTo\b|->call\(|\bmethod_exists\b|\bis_callable\b")
_OWN = ("self", "static", "parent")


class AbsentMember(NamedTuple):
    """A member that is asked of a class which does not have it.

    sort -- method, constant or property; of -- the class; near -- what a sentence says of the nearest that is there
    """

    file: PhpFile
    line: int
    sort: str
    name: str
    of: str
    near: str


class _Asked(NamedTuple):
    sort: str
    name: str
    line: int
    parent: bool = False


class Members:
    """The members of a module's classes, with those that they have from above and from traits of the module."""

    def __init__(self, files: Sequence[PhpFile]) -> None:
        self._all = {held.name.lower(): (held, node, file) for file in files for held, node in file.class_nodes}
        self._written = _properties_written(files)
        self._children: dict[str, list[str]] = {}
        for held, _, _ in self._all.values():
            self._children.setdefault(held.extends.lower(), []).append(held.name.lower())

    def absent(self) -> Iterator[AbsentMember]:
        """Yield what classes ask of themselves and do not have; those whose text does not tell all are left out."""
        for held, node, file in self._all.values():
            if held.sort != "class" or _BOUND_ELSEWHERE.search(text_of(node)):
                continue
            chain = self._chain(held.name)
            if chain is None:
                continue
            family = [*chain, *self._below(held.name)]
            names: dict[tuple[str, bool], set[str] | None] = {}
            for asked in _asked_of_itself(node, held.name):
                key = asked.sort, asked.parent
                if key not in names:
                    names[key] = _names(asked.sort, chain[1:] if asked.parent else family)
                known = names[key]
                if known is None or asked.name in known:
                    continue
                near = near_text(asked.name, known)
                if asked.sort == "property" and (asked.name in self._written or not misspelt(asked.name, known)):
                    continue  # one that is only never set is no slip of the pen
                yield AbsentMember(file, asked.line, asked.sort, asked.name, held.name, near)

    def absent_elsewhere(self) -> Iterator[AbsentMember]:
        """Yield the methods that classes ask of other classes of the module, and that those do not have."""
        told: set[tuple[str, str]] = set()
        for held, node, file in self._all.values():
            if held.sort != "class" or _BOUND_ELSEWHERE.search(text_of(node)):
                continue
            for of, method, line in _asked_of_others(node, file):
                entry = self._all.get(of.lower())
                if entry is None or entry[0].sort != "class" or entry[0] is held or (of, method) in told:
                    continue
                chain = self._chain(of)
                known = _names("method", [*chain, *self._below(of)]) if chain is not None else None
                if known is not None and method.lower() not in known:
                    told.add((of, method))
                    near = near_text(method.lower(), known)
                    yield AbsentMember(file, line, "method", method, entry[0].name, near)

    def _chain(self, name: str) -> list[Node] | None:
        """Return a class with all that it has members from; None where one of them is not the module's."""
        found: list[Node] = []
        waiting = [name]
        while waiting:
            entry = self._all.get(waiting.pop().lower())
            if entry is None:
                return None
            held, node, file = entry
            if node in found:
                continue
            found.append(node)
            if held.extends:
                waiting.append(held.extends)
            for clause in node.children:
                if clause.type == "class_interface_clause":
                    waiting += [file.whole(text_of(one)) for one in clause.named_children]
            body = node.child_by_field_name("body")
            for member in body.named_children if body is not None else ():
                if member.type == "use_declaration":
                    if any(one.type == "use_list" for one in member.named_children):
                        return None  # which renames what it takes
                    waiting += [file.whole(text_of(one)) for one in member.named_children]
        return found

    def _below(self, name: str) -> list[Node]:
        """Return the classes of the module that extend a class, also over others."""
        names: list[str] = []
        waiting = [name.lower()]
        while waiting:
            more = [one for one in self._children.get(waiting.pop(), ()) if one not in names]
            names += more
            waiting += more
        return [self._all[one][1] for one in names]


def _asked_of_itself(node: Node, name: str) -> Iterator[_Asked]:
    """Yield what the body of a class asks of the class itself, each once."""
    short = name.rpartition("\\")[2]
    told: set[tuple[str, str, bool]] = set()
    for one in members_asked(node):
        asked = _asked(one, short)
        if asked is not None and (asked.sort, asked.name, asked.parent) not in told:
            told.add((asked.sort, asked.name, asked.parent))
            yield asked


def _asked_of_others(node: Node, file: PhpFile) -> Iterator[tuple[str, str, int]]:
    """Yield what the body of a class asks of things whose class it says: that class, the method, the line."""
    types = _property_types(node, file)
    for one in members_asked(node):
        name = one.child_by_field_name("name")
        if name is None or name.type != "name":
            continue
        if one.type == "scoped_call_expression":
            scope = one.child_by_field_name("scope")
            if scope is not None and scope.type in ("name", "qualified_name") and text_of(scope) not in _OWN:
                yield file.whole(text_of(scope)), text_of(name), line_of(one)
        elif one.type in ("member_call_expression", "nullsafe_member_call_expression"):
            of = _class_of(one.child_by_field_name("object"), types, file)
            if of:
                yield of, text_of(name), line_of(one)


def _class_of(held: Node | None, types: dict[str, str], file: PhpFile) -> str:
    """Return the class of what a member is asked of; empty where the code does not say it."""
    if held is None:
        return ""
    if held.type == "member_access_expression" and text_of(held.child_by_field_name("object")) == "$this":
        return types.get(text_of(held.child_by_field_name("name")), "")
    if held.type != "variable_name" or text_of(held) == "$this":
        return ""
    function = held.parent
    while function is not None and function.type not in _FUNCTIONS:
        function = function.parent
    given = function.child_by_field_name("parameters") if function is not None else None
    for one in given.named_children if given is not None else ():
        if text_of(one.child_by_field_name("name")) == text_of(held):
            again = re.search(rf"{re.escape(text_of(held))}\s*=(?![=>])", text_of(function))
            return "" if again else _type_of(one, file)
    return ""


_FUNCTIONS = ("method_declaration", "function_definition", "anonymous_function", "arrow_function")


def _property_types(node: Node, file: PhpFile) -> dict[str, str]:
    """Return the classes of a class's properties, as far as their declarations say one."""
    found: dict[str, str] = {}
    body = node.child_by_field_name("body")
    for member in body.named_children if body is not None else ():
        if member.type == "property_declaration":
            elements = [one for one in member.named_children if one.type == "property_element"]
            found.update(
                {name: _type_of(member, file) for one in elements for name in [text_of(one.named_children[0])[1:]]}
            )
        elif member.type == "method_declaration":
            given = member.child_by_field_name("parameters")
            for one in given.named_children if given is not None else ():
                if one.type == "property_promotion_parameter":
                    found[text_of(one.child_by_field_name("name"))[1:]] = _type_of(one, file)
    return {name: of for name, of in found.items() if of}


def _type_of(declared: Node, file: PhpFile) -> str:
    """Return the one class that a declaration says; empty for none, for several, and for types of the language."""
    said = next((one for one in declared.named_children if one.type in ("named_type", "optional_type")), None)
    if said is not None and said.type == "optional_type":
        said = said.named_children[0] if said.named_children else None
    return file.whole(text_of(said)) if said is not None and said.type == "named_type" else ""


def _asked(node: Node, short: str) -> _Asked | None:
    kind = node.type
    if kind in ("member_call_expression", "member_access_expression"):
        held, name = node.child_by_field_name("object"), node.child_by_field_name("name")
        if text_of(held) != "$this" or name is None or name.type != "name":
            return None
        if kind == "member_call_expression":
            return _Asked("method", text_of(name).lower(), line_of(node))
        return _Asked("property", text_of(name), line_of(node))
    if kind == "scoped_call_expression":
        scope, named = text_of(node.child_by_field_name("scope")), node.child_by_field_name("name")
        if scope not in (*_OWN, short) or named is None or named.type != "name":
            return None
        return _Asked("method", text_of(named).lower(), line_of(node), scope == "parent")
    if kind == "class_constant_access_expression" and len(node.named_children) == 2:
        scope, constant = (text_of(one) for one in node.named_children)
        if scope in (*_OWN, short) and constant != "class":
            return _Asked("constant", constant, line_of(node), scope == "parent")
    return None


def _names(sort: str, nodes: Sequence[Node]) -> set[str] | None:
    """Return the names of the members of one sort; None where a method of the class answers for any name."""
    found: set[str] = set()
    for node in nodes:
        body = node.child_by_field_name("body")
        for member in body.named_children if body is not None else ():
            found |= _named(sort, member)
    magic = {"method": {"__call", "__callstatic"}, "property": {"__get", "__set"}}.get(sort, set())
    methods = found if sort == "method" else _names("method", nodes) or {"__get"} if sort == "property" else set()
    return None if magic & methods else found


def _named(sort: str, member: Node) -> set[str]:
    if member.type == "method_declaration":
        if sort == "method":
            return {text_of(member.child_by_field_name("name")).lower()}
        given = member.child_by_field_name("parameters")
        promoted = [one for one in given.children if one.type == "property_promotion_parameter"] if given else []
        return {text_of(one.child_by_field_name("name"))[1:] for one in promoted} if sort == "property" else set()
    if member.type == "const_declaration" and sort == "constant":
        return {text_of(one.named_children[0]) for one in member.named_children if one.type == "const_element"}
    if member.type == "property_declaration" and sort == "property":
        elements = (one for one in member.named_children if one.type == "property_element")
        return {text_of(one.named_children[0])[1:] for one in elements if one.named_children}
    return set()


def _properties_written(files: Sequence[PhpFile]) -> frozenset[str]:
    """Return the names of all properties that code of the module assigns to, whatever the object is."""
    found: set[str] = set()
    for file in files:
        found.update(re.findall(r"->(\w+)\s*(?:\[[^\]]*\]\s*)*(?:[-+.*/%|&^?]|\?\?)?=(?![=>])", file.text))
    return frozenset(found)
