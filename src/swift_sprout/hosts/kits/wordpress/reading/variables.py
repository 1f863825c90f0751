"""Variables that a function reads and that nothing in it defines: PHP gives null for them, and goes on."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator
from typing import TYPE_CHECKING, NamedTuple

from .....core.nearest import near_text
from .syntax import line_of, text_of, walk

if TYPE_CHECKING:
    from tree_sitter import Node

_FUNCTIONS = ("function_definition", "method_declaration", "anonymous_function")
#  scopes of their own, whose variables are none of the function around; an arrow function reads those around it
_OTHER_SCOPES = (*_FUNCTIONS, "class_declaration", "anonymous_class", "trait_declaration", "enum_declaration")
#  after these anything may be defined
_ANYTHING = (
    "include_expression",
    "include_once_expression",
    "require_expression",
    "require_once_expression",
    "dynamic_variable_name",
)
_ANYTHING_CALLED = ("extract", "parse_str", "eval")
#  what these hold is made by them
_DEFINE_ALL = (
    "by_ref",
    "global_declaration",
    "reference_assignment_expression",
    "static_variable_declaration",
    "unset_statement",
)
_CALLS = (
    "function_call_expression",
    "member_call_expression",
    "nullsafe_member_call_expression",
    "object_creation_expression",
    "scoped_call_expression",
)
#  always there (the language's reference, 8.2)
_ALWAYS = frozenset(
    re.findall(
        r"\w+",
        """
        this GLOBALS _SERVER _GET _POST _FILES _COOKIE _SESSION _REQUEST _ENV argc argv php_errormsg
        http_response_header
        """,
    )
)
#  functions of PHP and of the host that fill none of their arguments; of all others one may be filled by the call
_BY_VALUE_STARTS = ("esc_", "is_", "get_", "the_", "sanitize_", "wp_kses", "array_key")
_BY_VALUE = frozenset(
    re.findall(
        r"\w+",
        """
        absint intval strlen strpos stripos strrpos strtolower strtoupper strtotime strtr strstr strip_tags stripslashes
        strcmp strcasecmp substr substr_count str_pad str_repeat str_split str_contains str_starts_with str_ends_with
        mb_strlen mb_substr mb_strtolower mb_strtoupper sprintf printf vsprintf number_format count in_array trim ltrim
        rtrim implode explode join ucfirst ucwords lcfirst nl2br htmlspecialchars json_encode json_decode date gmdate
        round floor ceil abs min max array_map array_filter array_merge array_keys array_values array_slice array_unique
        array_reverse array_sum array_column array_combine array_flip array_diff array_intersect range md5 sha1 crc32
        function_exists class_exists defined constant method_exists property_exists file_exists file_get_contents
        file_put_contents dirname basename urlencode rawurlencode __ _e _x _n _nx number_format_i18n wp_json_encode
        apply_filters do_action add_action add_filter add_shortcode update_option add_option delete_option wp_date
        date_i18n mysql2date selected checked disabled submit_button home_url admin_url site_url plugins_url
        add_query_arg remove_query_arg wp_nonce_url wp_create_nonce wp_verify_nonce current_user_can user_can wp_die
        wp_safe_redirect wp_redirect wp_insert_post wp_update_post wp_delete_post update_post_meta delete_post_meta
        update_user_meta wp_schedule_event wp_unslash wp_slash wp_trim_words wp_list_pluck wpautop do_shortcode
        shortcode_atts set_transient delete_transient rest_ensure_response
        """,
    )
)
_COMMENT = re.compile(r"/\*.*?\*/", re.DOTALL)
_VARIABLE = re.compile(r"(?<!\d)\$(?!this\b)([A-Za-z_]\w*)")  # a digit before: an argument's number in a format
_PLAINLY_DEFINED = re.compile(
    r"\$(\w+)\s*=(?![=>])"
    r"|\bas\s+(?:\$\w+\s*=>\s*)?&?\$(\w+)"
    r"|(?:isset|empty)\s*\(\s*\$(\w+)"
    r"|(?:Exception|Throwable)\s+\$(\w+)"
)
_GLOBAL = re.compile(r"\bglobal\s+([^;]+);")


class UndefinedVariable(NamedTuple):
    """A variable that is read on a line and defined nowhere; ``near`` names one of the function that is like it."""

    name: str
    line: int
    near: str


def undefined_variables(functions: Iterable[Node], by_value: Collection[str] = ()) -> Iterator[UndefinedVariable]:
    """Yield the variables that functions read and that nothing defines, each once for a function.

    functions -- those of a file, in the order of the source; by_value -- functions of the module's own that take none
    of their arguments by reference

    What may define a variable without naming it is left out: an include, ``extract``, a variable's name in a variable.
    The top of a file is left out too: it shares the variables of whoever loads it.
    """
    for node in functions:
        if node.type in _FUNCTIONS and _may_lack_one(text_of(node)):
            yield from _Scope(node, by_value).undefined()


def _may_lack_one(text: str) -> bool:
    """False where the text of a function alone tells that it defines all that it reads; spares a look at its tree."""
    head, _, body = _COMMENT.sub("", text).partition("{")
    plainly = {name for names in _PLAINLY_DEFINED.findall(body) for name in names}
    plainly.update(_VARIABLE.findall(" ".join((head, *_GLOBAL.findall(body)))))
    return not plainly.issuperset(_VARIABLE.findall(body))


class _Scope:
    """The variables of one function.

    defined -- by something in it, perhaps; asked -- whether they are there, so that they may be absent; read -- each
    with the first line; anything -- True where variables may be there that nothing names
    """

    def __init__(self, function: Node, by_value: Collection[str]) -> None:
        self.by_value = by_value
        self.defined: set[str] = set()
        self.asked: set[str] = set()
        self.read: dict[str, int] = {}
        self.anything = False
        self._parameters(function)
        self.defined |= _variables(_child(function, "anonymous_function_use_clause"))
        body = function.child_by_field_name("body")
        waiting = [body] if body is not None else []
        while waiting:
            waiting += reversed(self._meet(waiting.pop()))

    def undefined(self) -> Iterator[UndefinedVariable]:
        """Yield what is read only."""
        if self.anything:
            return
        known = self.defined | self.asked | _ALWAYS
        for name, line in self.read.items():
            if name not in known:
                near = near_text(f"${name}", [f"${one}" for one in self.defined])
                yield UndefinedVariable(name, line, near)

    def _parameters(self, function: Node) -> None:
        given = function.child_by_field_name("parameters")
        for one in given.named_children if given is not None else ():
            self.defined.add(text_of(one.child_by_field_name("name"))[1:])

    def _meet(self, node: Node) -> list[Node]:
        """Take in one node; returns those below it that are still to be met."""
        kind = node.type
        if kind == "variable_name":
            self.read.setdefault(text_of(node)[1:], line_of(node))
        elif kind == "anonymous_function":
            self._taken_in(_child(node, "anonymous_function_use_clause"))
        elif kind in _OTHER_SCOPES:  # but what a class is made with is read here
            return [one for one in node.children if one.type == "arguments"]
        elif kind == "scoped_property_access_expression":
            return [node.named_children[0]]  # its name begins with $ as well
        else:
            self._define(node, kind)
            return [one for one in node.children if one.type != "formal_parameters"]
        return []

    def _define(self, node: Node, kind: str) -> None:
        """Take in what a node defines, may define, or asks for."""
        operator = text_of(node.child_by_field_name("operator"))
        if kind in _ANYTHING:
            self.anything = True
        elif kind in _DEFINE_ALL:
            self.defined |= _variables(node)
        elif kind == "assignment_expression" or operator == "??=":
            self._target(node.child_by_field_name("left"))
        elif kind == "arrow_function":
            self._parameters(node)
        elif kind == "catch_clause":
            self._target(node.child_by_field_name("name"))
        elif kind == "foreach_statement":
            self._loop(node)
        elif operator == "??":
            self.asked |= _variables(node.child_by_field_name("left"))
        elif kind == "error_suppression_expression":
            self.asked |= _variables(node)
        elif kind in _CALLS:
            self._call(node)

    def _taken_in(self, clause: Node | None) -> None:
        """A closure takes variables in: by reference they are made for it, by value they are read."""
        for one in clause.named_children if clause is not None else ():
            if one.type == "by_ref":
                self.defined |= _variables(one)
            elif one.type == "variable_name":
                self.read.setdefault(text_of(one)[1:], line_of(one))

    def _loop(self, node: Node) -> None:
        words = [child.type for child in node.children]
        for child in node.children[words.index("as") + 1 :] if "as" in words else ():
            if child.type == "pair":
                for one in child.named_children:
                    self._target(one)
            elif child != node.child_by_field_name("body"):
                self._target(child)

    def _target(self, node: Node | None) -> None:
        """Take in what is assigned to: a variable, an item of one, or several at once."""
        if node is None:
            return
        if node.type == "variable_name":
            self.defined.add(text_of(node)[1:])
        elif node.type == "subscript_expression" and node.named_children:
            self._target(node.named_children[0])
        elif node.type in ("list_literal", "array_creation_expression", "by_ref"):
            self.defined |= _variables(node)

    def _call(self, node: Node) -> None:
        """Take in a call, which may define what is given to it by reference."""
        function = node.child_by_field_name("function")
        name = text_of(function).lstrip("\\").lower()
        given = _child(node, "arguments")
        if name in ("isset", "empty"):
            self.asked |= _variables(given)
        elif name in _ANYTHING_CALLED:
            self.anything = True
        elif not self._takes_values(name):
            for argument in given.named_children if given is not None else ():
                for one in argument.named_children:
                    self._target(one)

    def _takes_values(self, name: str) -> bool:
        if name in self.by_value or name in _BY_VALUE:
            return True
        return name.startswith(_BY_VALUE_STARTS) and name != "is_callable"


def _child(node: Node, kind: str) -> Node | None:
    return next((one for one in node.children if one.type == kind), None)


def _variables(node: Node | None) -> set[str]:
    """Return the names of all variables in a node."""
    return {text_of(one)[1:] for one in walk(node) if one.type == "variable_name"} if node is not None else set()
