"""Whether somebody may use what the module offers, and whether nothing is open by mistake."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from ......core.nearest import misspelt, near_text
from ...reading.routes import rest_routes_of
from ...reading.syntax import array_items, line_of, literal, text_of
from .places import on_site_menu
from .routes import body_of

if TYPE_CHECKING:
    from tree_sitter import Node

    from ......core.findings import Finding
    from ..examination import Examination

_CHECKS = (b"check_admin_referer", b"wp_verify_nonce", b"check_ajax_referer")
#  the words for methods that write, and what the constants of WP_REST_Server stand for (6.1)
_WRITES = {
    "POST": "POST",
    "PUT": "PUT",
    "DELETE": "DELETE",
    "PATCH": "PATCH",
    "CREATABLE": "POST",
    "EDITABLE": "POST, PUT, PATCH",
    "DELETABLE": "DELETE",
}


def endpoints(exam: Examination) -> Iterator[Finding]:
    """Endpoints that nobody guards, and those that let anybody write."""
    for route in rest_routes_of(exam.module):
        for methods, guarded, _ in route.handlers:
            if not guarded:
                yield exam.find(
                    "permitted.endpoint-unguarded",
                    route.file.path,
                    route.line,
                    path=f"{route.space}{route.path}",
                    methods=methods,
                )
                break
    for file, call in exam.calls("register_rest_route"):
        for node in _handlers(call.nodes[2] if len(call.nodes) > 2 else None):
            keys = {literal(key): value for key, value in array_items(node) if key is not None}
            said = text_of(keys.get("methods")).upper()
            written = [methods for word, methods in _WRITES.items() if word in said]
            guard = text_of(keys.get("permission_callback")).strip("'\"")
            if guard == "__return_true" and written:
                yield exam.find(
                    "permitted.endpoint-open",
                    file.path,
                    line_of(node),
                    path=call.values[1] if isinstance(call.values[1], str) else text_of(call.nodes[1]),
                    methods=", ".join(written),
                )


def _handlers(node: Node | None) -> list[Node]:
    if node is None:
        return []
    groups = [value for key, value in array_items(node) if key is None and value.type == "array_creation_expression"]
    return groups or [node]


def unchecked(exam: Examination) -> Iterator[Finding]:
    """Functions that take what the administration sends and do not ask whether its own form sent it."""
    for file, call in exam.calls("add_action"):
        hook = call.values[0] if call.values else None
        if not isinstance(hook, str) or not hook.startswith(("admin_post_", "wp_ajax_")) or len(call.nodes) < 2:
            continue
        target = file.target(call.nodes[1], call.inside[0])
        body = body_of(exam, target.owner, target.name) if target.name else b""
        if b"$_POST" in body and not any(check in body for check in _CHECKS):
            yield exam.find("permitted.form-unchecked", file.path, call.line, hook=hook, what=target.name)


#  what makes a nonce, with the argument that names the action, and what checks one
_MAKES_NONCE = {"wp_nonce_field": 0, "wp_nonce_url": 1, "wp_create_nonce": 0}
_CHECKS_NONCE = {"check_admin_referer": 0, "check_ajax_referer": 0, "wp_verify_nonce": 1}


def nonces(exam: Examination) -> Iterator[Finding]:
    """Nonces that the module makes for an action and that none of its code ever checks."""
    checked: set[str] = set()
    where: dict[str, tuple[Path, int]] = {}
    starts: set[str] = set()
    for file, call in exam.calls(*_CHECKS_NONCE):
        position = _CHECKS_NONCE[call.name]
        if len(call.nodes) <= position:
            continue
        said = call.values[position]
        if not isinstance(said, str):
            begun = _beginning(call.nodes[position])
            if not begun:
                return  # an action that is worked out: it may be any
            starts.add(begun)
        else:
            checked.add(said)
            where[said] = file.path, call.line
    made_for: set[str | None] = set()
    for file, call in exam.calls(*_MAKES_NONCE):
        position = _MAKES_NONCE[call.name]
        action = call.values[position] if len(call.values) > position else None
        made_for.add(action if isinstance(action, str) else None)
        if not isinstance(action, str) or action in {*checked, *_HOSTS_NONCES} or action.startswith((*starts,)):
            continue
        hooked = _handler_named(exam, action)
        if hooked is not None:
            place, line, what = hooked
            yield exam.find(
                "permitted.nonce-unchecked", place, line, action=action, what=what,
                made=f"{exam.view.relative(file.path)}:{call.line}",
            )  # fmt: skip
        elif near := misspelt(action, checked):
            path, at = where[near]
            what = f"the check of {near}"
            made = f"{exam.view.relative(file.path)}:{call.line}"
            yield exam.find("permitted.nonce-unchecked", path, at, action=action, what=what, made=made)
    yield from _never_made(exam, made_for, where)


#  how actions begin or end whose nonces the host makes in its own lists and forms (6.1)
_MADE_BY_HOST = re.compile(
    r"^(bulk-|update-|delete-|trash-|untrash-|edit-|add-|activate-|deactivate-|log-out|install-|upgrade-|heartbeat"
    r"|customize|preview|wp_rest|-1)|-options$"
)


def _never_made(exam: Examination, made: set[str | None], where: Mapping[str, tuple[Path, int]]) -> Iterator[Finding]:
    """Checks of nonces that no code makes: what they guard is always turned away."""
    if None in made or not made:
        return  # it may be of any action, or the form is another's
    near = {one for one in made if one is not None} - {*where}
    for action, (path, line) in where.items():
        if action in {*made, *_HOSTS_NONCES} or _MADE_BY_HOST.search(action) or misspelt(action, near):
            continue
        if not _said_by_others(exam, action):
            yield exam.find("permitted.nonce-never-made", path, line, action=action)


def _said_by_others(exam: Examination, text: str) -> bool:
    """True where another module's code holds a text in quotation marks."""
    quoted = (f"'{text}'".encode(), f'"{text}"'.encode())
    others = [module for module in exam.view.modules if module is not exam.module]
    return any(one in held for module in others for held in module.contents.values() for one in quoted)


#  what the two name the field, where they do not say it (the host's reference, 6.1)
_FIELD = "_wpnonce"


def nonce_fields(exam: Examination) -> Iterator[Finding]:
    """Forms that send their nonce in another field than the one that is looked at."""
    sent: dict[str, set[str]] = {}
    for _, call in exam.calls("wp_nonce_field"):
        said = [*call.values[:2], _FIELD][:2] if len(call.nodes) < 2 else call.values[:2]
        if len(said) < 2 or not all(isinstance(one, str) for one in said):
            return
        sent.setdefault(said[0], set()).add(said[1])
    made = {call.values[0] for _, call in exam.calls("wp_nonce_url", "wp_create_nonce") if call.values}
    if None in made:
        return  # it may be of any action
    for file, call in exam.calls("check_admin_referer"):
        action = call.values[0] if call.values else None
        field = call.values[1] if len(call.values) > 1 else _FIELD
        if isinstance(action, str) and isinstance(field, str) and action in sent and action not in made:
            if field not in sent[action]:
                there = ", ".join(sorted(sent[action]))
                yield exam.find("permitted.nonce-field", file.path, call.line, action=action, field=field, there=there)


def _beginning(node: Node) -> str:
    """Return the text that a concatenation begins with; empty where it does not say it."""
    while node.type == "binary_expression" and (left := node.child_by_field_name("left")) is not None:
        node = left
    said = literal(node)
    return said if isinstance(said, str) else ""


#  actions that the host itself checks
_HOSTS_NONCES = ("wp_rest", "update-options", "-1")


def _handler_named(exam: Examination, action: str) -> tuple[Path, int, str] | None:
    """Return the function that answers an action of this name in the administration: its place, and its name."""
    wanted = {f"{start}{action}" for start in ("admin_post_", "admin_post_nopriv_", "wp_ajax_", "wp_ajax_nopriv_")}
    for file, call in exam.calls("add_action"):
        if call.values and call.values[0] in wanted and len(call.nodes) > 1:
            target = file.target(call.nodes[1], call.inside[0])
            held = exam.module.functions.get(target.name.lower())
            if held is not None and not target.owner:
                return held[1].path, held[0], target.name
            return file.path, call.line, target.name or "what answers it"
    return None


def capabilities(exam: Examination) -> Iterator[Finding]:
    """Screens that need a capability that nobody holds."""
    if not exam.loaded:
        return
    roles = exam.answers.get("roles") or {}
    held = {name for role in roles.values() for name in role["holds"]} | {"exist"}
    if not roles:
        return
    for file, call in exam.calls("add_menu_page", "add_submenu_page", "add_options_page", "add_management_page"):
        position = 3 if call.name == "add_submenu_page" else 2
        needs = call.values[position] if len(call.values) > position else None
        if call.maybe or not on_site_menu(exam, call):
            continue
        if (
            isinstance(needs, str)
            and needs not in held
            and not needs.startswith(("edit_post", "read_post", "delete_post"))
        ):
            near = near_text(needs, held)
            line = line_of(call.nodes[position])
            yield exam.find("permitted.capability-unheld", file.path, line, capability=needs, near=near)
            return


def guards(exam: Examination) -> Iterator[Finding]:
    """Endpoints whose guard cannot be called."""
    if not exam.loaded:
        return
    for route in rest_routes_of(exam.module):
        whole = route.address
        for told in exam.answers.get("rest") or []:
            if told["route"] == whole and told["guards"]["name"] and not told["guards"]["callable"]:
                yield exam.find(
                    "permitted.guard-uncallable", route.file.path, route.line, path=whole, what=told["guards"]["name"]
                )
                break


def refused_holders(exam: Examination) -> Iterator[Finding]:
    """Screens that the menu offers to people who are turned away when they open them, or for whom they break."""
    said_of: set[tuple[str, int]] = set()
    for slug, screen in (exam.asked.as_holders if exam.asked is not None else {}).items():
        fatal, said = screen.told.get("fatal"), " ".join(str(screen.told.get("said", "")).split())[:120]
        if not exam.holds(screen.file) or (not fatal and screen.told.get("status") in (200, 302)):
            continue
        file, line = fatal[2:4] if fatal else screen.told.get("died") or ("", 0)
        place, at = (file, int(line)) if file and exam.holds(file) else (screen.file, 0)
        if (place, at) in said_of:
            continue  # one function draws several screens
        said_of.add((place, at))
        yield exam.find(
            "permitted.holder-refused",
            place,
            at,
            slug=slug,
            right=screen.right,
            role=screen.role,
            reason=" ".join(str(fatal[1]).split())[:160] if fatal else said or "it says nothing",
        )


def turned_away(exam: Examination) -> Iterator[Finding]:
    """Pages and screens that turn even an administrator away."""
    for request in exam.requests:
        if request.who == "administrator" and request.sort != "endpoint" and request.answer.status in (401, 403):
            yield exam.find(
                "permitted.nobody",
                exam.module.main or exam.module.place,
                0,
                path=request.path,
                status=request.answer.status,
            )
