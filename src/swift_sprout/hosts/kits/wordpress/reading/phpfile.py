"""What one PHP file holds: its names, what it calls of the host, what it includes, and what it would print."""

from __future__ import annotations

import posixpath
import re
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from .syntax import arguments, array_items, captured, first_error, line_of, literal, parsed, text_of, walk

if TYPE_CHECKING:
    from tree_sitter import Node

#  the functions of the host whose calls matter here
HOST_FUNCTIONS = frozenset(
    [
        "__",
        "_e",
        "esc_html__",
        "esc_html_e",
        "esc_attr__",
        "esc_attr_e",
        "add_action",
        "add_filter",
        "add_shortcode",
        "register_activation_hook",
        "register_deactivation_hook",
        "register_uninstall_hook",
        "add_menu_page",
        "add_submenu_page",
        "add_options_page",
        "add_management_page",
        "add_theme_page",
        "add_meta_box",
        "add_settings_section",
        "add_settings_field",
        "spl_autoload_register",
        "add_rewrite_rule",
        "add_rewrite_tag",
        "register_rest_route",
        "register_block_type",
        "register_widget",
        "dbDelta",
        "add_role",
        "load_plugin_textdomain",
        "load_textdomain",
        "plugins_url",
        "get_header",
        "get_footer",
        "do_settings_sections",
        "wp_schedule_event",
        "wp_schedule_single_event",
        "is_post_type_archive",
        "get_post_type_archive_link",
        "wp_nonce_field",
        "wp_nonce_url",
        "wp_create_nonce",
        "check_admin_referer",
        "check_ajax_referer",
        "wp_verify_nonce",
        "get_query_var",
        "current_user_can",
        "user_can",
        "get_role",
        "wp_enqueue_style",
        "wp_enqueue_script",
        "wp_localize_script",
        "wp_set_script_translations",
        "wp_add_inline_style",
        "wp_add_inline_script",
        "register_taxonomy",
        "register_rest_field",
        "is_singular",
        "is_active_sidebar",
        "dynamic_sidebar",
        "wp_next_scheduled",
        "wp_clear_scheduled_hook",
        "get_option",
        "add_option",
        "update_option",
        "register_setting",
        "has_shortcode",
        "wp_register_style",
        "wp_register_script",
        "settings_fields",
        "flush_rewrite_rules",
        "register_post_type",
        "defined",
        "sprintf",
        "printf",
        "wp_add_dashboard_widget",
        *(
            f"{verb}_{thing}_meta"
            for verb in ("get", "update", "add", "register")
            for thing in ("post", "user", "term", "comment")
        ),
    ]
)
_SPECIAL = ("self", "static", "parent")


class Method(NamedTuple):
    """One method of a class."""

    name: str
    line: int
    static: bool
    public: bool


class PhpClass(NamedTuple):
    """One class: its whole name, what it extends (whole name), its methods by name in lower case, its constants."""

    name: str
    line: int
    sort: str
    extends: str
    methods: dict[str, Method]
    constants: dict[str, Any]


class Target(NamedTuple):
    """What is given to be called: a function or a method of a class; both empty where the file does not say it.

    bound -- True for a callable made on the spot, which may be private
    """

    owner: str
    name: str
    line: int
    bound: bool = False


class Call(NamedTuple):
    """A call of a function of the host: its name, its arguments, and where it stands.

    values  -- the arguments that say themselves, None for others; nodes -- all of them
    inside  -- the class and method in which it stands; empty at the top of the file
    maybe   -- True when it stands under a condition
    """

    name: str
    line: int
    values: list[Any]
    nodes: list[Node]
    inside: tuple[str, str]
    maybe: bool = False


class Use(NamedTuple):
    """A class that is named where it must be there: whole name, line, and the static method that is called on it."""

    name: str
    line: int
    method: str


class Include(NamedTuple):
    """A file that is loaded: its path, and from where that is reckoned.

    base  -- the constant that holds the folder; empty for the file's own folder
    maybe -- True where the code looks first whether it is there, or does not mind
    later -- True inside of a function: it is loaded when that is called, perhaps to draw something
    """

    base: str
    path: str
    line: int
    maybe: bool
    later: bool


#  what code asks before it loads or names something that may be absent
_LOOKS_FIRST = re.compile(
    r"\b(file_exists|is_file|is_readable|class_exists|function_exists|stream_resolve_include_path)\b"
)


class PhpFile:
    """One file, read once.

    folders -- the constants that hold folders, as paths from the file's own
    called  -- the functions that it calls, with the first line; called_maybe -- those under a condition, where that
               does not ask whether they are there
    unread  -- how many files it loads whose path it does not say
    bodies  -- the functions, methods and closures that it writes
    """

    def __init__(self, path: Path, content: bytes) -> None:
        self.path = path
        self.content = content
        self.namespace = ""
        self.aliases: dict[str, str] = {}
        self.classes: list[PhpClass] = []
        self.class_nodes: list[tuple[PhpClass, Node]] = []
        self.functions: dict[str, int] = {}
        self.calls: list[Call] = []
        self.includes: list[Include] = []
        self.unread = 0
        self.bodies: list[Node] = []
        self.folders: dict[str, str] = {}
        self.called: dict[str, int] = {}
        self.called_maybe: dict[str, int] = {}
        self.uses: list[Use] = []
        self.constants: dict[str, str] = {}
        tree = parsed(content)
        self.broken_line = first_error(tree)
        self._read(tree.root_node)

    @cached_property
    def text(self) -> str:
        """What the file holds, as text."""
        return self.content.decode("utf-8", "replace")

    def prints(self) -> int:
        """Return the line on which the file prints when it is loaded, outside of any function; 0 for none."""
        if self.content[:3] == b"\xef\xbb\xbf" or (self.content.lstrip()[:2] == b"<?" and self.content[:2] != b"<?"):
            return 1
        return self._printed

    def whole(self, name: str) -> str:
        """Return the whole name of a class that the file names."""
        if name.startswith("\\"):
            return name[1:]
        first, _, rest = name.partition("\\")
        if first.lower() in self.aliases:
            return self.aliases[first.lower()] + (f"\\{rest}" if rest else "")
        if first.lower() == "namespace":
            return f"{self.namespace}\\{rest}".lstrip("\\")
        return f"{self.namespace}\\{name}" if self.namespace else name

    def target(self, node: Node, inside: str) -> Target:
        """Return what an argument gives to be called; ``inside`` is the class in which it stands."""
        line = line_of(node)
        if node.type == "array_creation_expression":
            items = [value for _, value in array_items(node)]
            if len(items) == 2 and isinstance(name := literal(items[1]), str):
                return Target(self._owner(items[0], inside), name, line)
            return Target("", "", line)
        text = literal(node, {"__NAMESPACE__": self.namespace})
        if isinstance(text, str):
            owner, colons, name = text.rpartition("::")
            return Target(owner.lstrip("\\"), name if colons else text.lstrip("\\"), line)
        if node.type in ("member_call_expression", "scoped_call_expression", "function_call_expression"):
            if "..." in text_of(node.child_by_field_name("arguments")):
                name = text_of(node.child_by_field_name("name") or node.child_by_field_name("function"))
                if node.type == "function_call_expression":
                    return Target("", name.lstrip("\\"), line, True)
                held = node.child_by_field_name("object") or node.child_by_field_name("scope")
                return Target(self._owner(held, inside), name, line, True)
        return Target("", "", line)

    def _owner(self, node: Node | None, inside: str) -> str:
        if node is None:
            return ""
        if node.type == "class_constant_access_expression" and text_of(node).lower().endswith("::class"):
            node = node.named_children[0]
        name = text_of(node)
        if name in ("$this", *_SPECIAL[:2]) or (node.type == "name" and name == "__CLASS__"):
            return inside
        if node.type in ("name", "qualified_name"):
            return self.whole(name)
        if node.type == "object_creation_expression" and node.named_children:
            return self.whole(text_of(node.named_children[0]))
        said = literal(node, {"__CLASS__": inside})
        return said.lstrip("\\") if isinstance(said, str) else ""

    def _read(self, root: Node) -> None:
        """Go through what matters in the order of the source, with what stands around it."""
        self._printed = 0
        around: list[tuple[int, str, str]] = []  # end, sort and name of what is open here
        for sort, node in captured(root):
            start = node.start_byte
            while around and around[-1][0] <= start:
                around.pop()
            inside = next((name for _, kind, name in reversed(around) if kind == "class"), "")
            method = next((name for _, kind, name in around if kind == "method"), "")
            maybe = any(kind == "condition" for _, kind, _ in around)
            looked = any(kind == "condition" and _LOOKS_FIRST.search(name) for _, kind, name in around)
            opened = self._meet(sort, node, inside, method, maybe, looked)
            if opened is not None:
                around.append((node.end_byte, *opened))

    def _meet(
        self, sort: str, node: Node, inside: str, method: str, maybe: bool, looked: bool
    ) -> tuple[str, str] | None:
        """Take in one node; returns the sort and name of what it opens for those inside of it.

        maybe -- it stands under a condition; looked -- under one that asks whether something is there
        """
        if sort == "namespace":
            self.namespace = text_of(node.child_by_field_name("name"))
        elif sort == "use":
            self._read_use(node)
        elif sort == "class":
            made = self._class(node)
            self.classes.append(made)
            self.class_nodes.append((made, node))
            return "class", made.name
        elif sort == "method":
            self.bodies.append(node)
            return "method", text_of(node.child_by_field_name("name"))
        elif sort == "function":
            self.bodies.append(node)
            name = text_of(node.child_by_field_name("name"))
            self.functions.setdefault(f"{self.namespace}\\{name}" if self.namespace else name, node.start_point[0] + 1)
            return "method", name
        elif sort == "closure":
            self.bodies.append(node)
            return "method", "{closure}"
        elif sort == "condition":
            return "condition", text_of(node.child_by_field_name("condition"))
        elif sort == "const" and not inside:
            self._read_constants(node)
        elif sort == "include" and node.named_children:
            self._read_include(node, looked, bool(method))
        elif sort == "call":
            self._read_call(node, inside, method, maybe, looked)
        elif sort == "new" and node.named_children:
            self._read_class_use(node.named_children[0], "")
        elif sort == "scoped":
            self._read_class_use(node.child_by_field_name("scope"), text_of(node.child_by_field_name("name")))
        elif sort in ("text", "echo") and not (inside or method or maybe):
            if sort == "echo" or text_of(node).strip():
                self._printed = self._printed or line_of(node)
        return None

    def _read_use(self, node: Node) -> None:
        group = next((text_of(one) for one in node.named_children if one.type == "namespace_name"), "")
        for clause in walk(node):
            if clause.type not in ("namespace_use_clause", "namespace_use_group_clause"):
                continue
            names = [
                text_of(one)
                for one in clause.named_children
                if one.type in ("qualified_name", "name", "namespace_name")
            ]
            alias = text_of(clause.child_by_field_name("alias"))
            if names:
                whole = (f"{group}\\" if group else "") + names[0].lstrip("\\")
                self.aliases[(alias or names[-1].rpartition("\\")[2]).lower()] = whole

    def _read_constants(self, node: Node) -> None:
        for element in node.named_children:
            if element.type == "const_element" and len(element.named_children) == 2:
                name, value = element.named_children
                if (folder := self.path_of(value)) is not None and not folder[0]:
                    self.folders[text_of(name)] = folder[1]
                said = "__FILE__" if text_of(value) == "__FILE__" else literal(value)
                if isinstance(said, str):
                    self.constants[text_of(name)] = said

    def _read_folder(self, node: Node) -> None:
        """Take in a constant that holds a folder."""
        given = arguments(node)
        name = literal(given[0]) if len(given) > 1 else None
        said = self.path_of(given[1]) if isinstance(name, str) else None
        if said is not None and not said[0]:
            self.folders[str(name)] = said[1]

    def _class(self, node: Node) -> PhpClass:
        name = text_of(node.child_by_field_name("name"))
        base = next((one for one in node.children if one.type == "base_clause"), None)
        methods: dict[str, Method] = {}
        constants: dict[str, Any] = {}
        body = node.child_by_field_name("body")
        for member in body.named_children if body is not None else []:
            if member.type == "method_declaration":
                words = {text_of(one) for one in member.children if one.type.endswith("_modifier")}
                called = text_of(member.child_by_field_name("name"))
                public = not words & {"private", "protected"}
                methods[called.lower()] = Method(called, line_of(member), "static" in words, public)
            elif member.type == "const_declaration":
                for element in member.named_children:
                    if element.type == "const_element" and len(element.named_children) == 2:
                        constants[text_of(element.named_children[0])] = literal(element.named_children[1])
        extends = self.whole(text_of(base.named_children[0])) if base is not None and base.named_children else ""
        whole = f"{self.namespace}\\{name}" if self.namespace else name
        return PhpClass(whole, line_of(node), node.type.partition("_")[0], extends, methods, constants)

    def _read_include(self, node: Node, looked: bool, later: bool) -> None:
        said = self.path_of(node.named_children[0])
        if said is None or not said[1]:
            self.unread += 1
            return
        silenced = node.parent is not None and node.parent.type == "error_suppression_expression"
        self.includes.append(Include(*said, line_of(node), looked or silenced, later))

    def path_of(self, node: Node) -> tuple[str, str] | None:
        """Return from where a path is reckoned (a constant, or empty for the file's folder), and the rest of it."""
        if node.type == "parenthesized_expression" and node.named_children:
            return self.path_of(node.named_children[0])
        if node.type == "binary_expression":
            left, right = node.child_by_field_name("left"), literal(node.child_by_field_name("right"))
            begun = self.path_of(left) if left is not None and isinstance(right, str) else None
            if begun is None:
                return None
            return begun[0], posixpath.normpath(posixpath.join(begun[1], right.lstrip("/")))
        folder = self._folder(node)
        if folder is not None:
            return "", folder
        said = literal(node)
        first = said.partition("/")[0] if isinstance(said, str) and "/" in said else ""
        if first not in ("", ".", "..") and (self.path.parent / first).is_dir():
            return "", posixpath.normpath(said)  # where PHP looks last, and finds what lies beside the file
        if node.type in ("name", "qualified_name") and text_of(node).isupper():
            return text_of(node).lstrip("\\").rpartition("\\")[2], "."
        return None

    def _folder(self, node: Node) -> str | None:
        text = "".join(text_of(node).split()).replace('"', "'")
        while wrapped := re.fullmatch(r"(?:un)?(?:trailingslashit|wp_normalize_path|realpath)\((.+)\)", text):
            text = wrapped.group(1)
        if text in ("__DIR__", "dirname(__FILE__)", "plugin_dir_path(__FILE__)"):
            return "."
        if text in ("plugin_dir_url(__FILE__)", "plugins_url('/',__FILE__)", "plugins_url('',__FILE__)"):
            return "."  # the same folder, as an address
        if text in (
            "dirname(__DIR__)",
            "dirname(dirname(__FILE__))",
            "dirname(__FILE__,2)",
            "plugin_dir_path(__DIR__)",
        ):
            return ".."
        if text == "plugin_dir_path(dirname(__FILE__))":
            return ".."
        if text in ("dirname(__DIR__,2)", "dirname(dirname(__DIR__))", "dirname(__FILE__,3)"):
            return "../.."
        return None

    def _read_call(self, node: Node, inside: str, method: str, maybe: bool, looked: bool) -> None:
        function = node.child_by_field_name("function")
        if function is None or function.type not in ("name", "qualified_name"):
            return
        name = text_of(function).lstrip("\\").rpartition("\\")[2]
        if function.type == "name" and not looked:
            (self.called_maybe if maybe else self.called).setdefault(name, line_of(node))
        if name == "define":
            self._read_folder(node)
        if name not in HOST_FUNCTIONS:
            return
        given = arguments(node)
        known = {"__NAMESPACE__": self.namespace, "__CLASS__": inside, **self.constants}
        for one in self.classes:
            if one.name == inside:
                known |= {f"self::{key}": value for key, value in one.constants.items() if isinstance(value, str)}
        values = [literal(one, known) for one in given]
        self.calls.append(Call(name, line_of(node), values, given, (inside, method), maybe))

    def _read_class_use(self, node: Node | None, method: str) -> None:
        if node is not None and node.type in ("name", "qualified_name") and text_of(node).lower() not in _SPECIAL:
            self.uses.append(Use(self.whole(text_of(node)), line_of(node), method))
