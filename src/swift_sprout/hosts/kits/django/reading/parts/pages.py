"""Pages and screens by their addresses, and who may see them."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from functools import cached_property
from typing import TYPE_CHECKING

from ......core.brief import Brief
from ......core.errors import SproutError
from ......core.parts.pages import Page, make_page
from ......core.parts.screens import StaffScreen
from ..code import class_named, function_named, spelled
from ..guards import ConfigGuards, Guard, config_guards
from .base import LeftOut, PartReading
from .values import text_of

if TYPE_CHECKING:
    from ..addresses import Address


_CONVERTERS = {"int": "integer", "str": "text", "slug": "slug", "uuid": "uuid"}
_GUARDS = {"LoginRequiredMixin": "signed in", "login_required": "signed in", "staff_member_required": "staff"}
VERBS = {"view": "read", "add": "create", "change": "change", "delete": "delete"}
_PARAMETER = re.compile(r"<(?:(\w+):)?(\w+)>")


class PageReading(PartReading):
    """Reads addresses and their controllers."""

    def pages(self, brief: Brief) -> Iterator[Page]:
        """Yield the pages of the addresses that a brief can say."""
        found: dict[str, tuple[Page, Address]] = {}
        for address in self.addresses():
            if self.is_endpoint(address) or self.guard_of(address) is not None:
                continue
            if self.names_only:
                self.places.setdefault(("page", _brief_path(address.path)), (address.route.file, address.route.line))
                continue
            page = self.page(brief, address)
            if page is None:
                what = f"the address {address.path} has a form that a brief cannot say"
                self.left_out.append(LeftOut(address.route.file, address.route.line, what))
            elif page.path not in found:
                found[page.path] = (page, address)
        for path, (page, _) in list(found.items()):
            below = re.sub(r"/\{\w+: integer\}$", "", path) if page.shows and page.view == "one" else path
            if (
                below != path
                and below in found
                and found[below][0].shows == page.shows
                and found[below][0].view == "list"
            ):
                found[below] = (found[below][0]._replace(view="list and one"), found[below][1])
                del found[path]
        for page, address in found.values():
            self.places["page", page.path] = (address.route.file, address.route.line)
            yield page

    @cached_property
    def guards(self) -> ConfigGuards | None:
        """The guards of the module's config class, where the kit has screens that those are for."""
        return config_guards(self.view.project, self.module) if "staff_screen" in self.view.data.parts else None

    def guard_of(self, address: Address) -> Guard | None:
        """Return what the module's config class asks for an address, or None."""
        return self.guards.by_name.get(address.route.name) if self.guards is not None else None

    def screens(self, brief: Brief) -> Iterator[StaffScreen]:
        """Yield the lists of records that the config class guards; the forms below them belong to them."""
        for address in self.addresses() if self.guards is not None else ():
            guard = self.guard_of(address)
            node = self.controller(address.view) if guard is not None else None
            shows, sort, title = self.shown(brief, node)
            if guard is None or sort != "list":
                continue
            path = _brief_path(address.path)
            self.places["staff_screen", path] = (address.route.file, address.route.line)
            named = next((right for right in guard.rights if "." in right), "")
            access = self.right(brief, named) if named else "staff"
            yield StaffScreen(path, title, shows, access if access.startswith("may ") else "staff")

    def addresses(self) -> list[Address]:
        """Return the addresses of the module, as the host includes them, or as the module would have them."""
        there = self.view.addresses_by_module.get(self.module.name)
        if there is None and self.module.urls:
            prefix = "/" if self.module.tells_paths else f"/{self.module.label.replace('_', '-')}/"
            there = list(self.view.addresses.walk(self.module.urls, prefix))
        return [one for one in there or [] if one.view and not one.route.regular]

    def is_endpoint(self, address: Address) -> bool:
        """True for an address that answers data."""
        return ".endpoints." in address.view

    def page(self, brief: Brief, address: Address) -> Page | None:
        """Return the page of an address; None where a brief cannot say it."""
        path = _brief_path(address.path)
        node = self.controller(address.view)
        shows, sort, title = self.shown(brief, node)
        if sort == "one" and path.endswith("/{pk: integer}"):
            pass
        elif shows and sort in ("list",) and "{" in path:
            shows, sort = "", ""
        try:
            page = make_page(path, title, "", shows, self.access(brief, node), **({"view": sort} if shows else {}))
        except SproutError:
            return None
        return page

    def controller(self, dotted: str) -> ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef | None:
        """Return the class or function that answers an address."""
        module, _, name = dotted.rpartition(".")
        path = self.view.project.file_of(module)
        tree = self.tree(path) if path is not None else None
        return (class_named(tree, name) or function_named(tree, name)) if tree is not None else None

    def shown(self, brief: Brief, node: ast.stmt | None) -> tuple[str, str, str]:
        """Return the record that a controller shows, in which view, and its title."""
        if not isinstance(node, ast.ClassDef):
            return "", "", ""
        bases = {spelled(base).rpartition(".")[2] for base in node.bases}
        sort = "list" if "ListView" in bases else "one" if "DetailView" in bases else ""
        sort = "form" if bases & {"CreateView", "UpdateView"} else sort
        model = title = ""
        for statement in node.body:
            if isinstance(statement, ast.Assign) and isinstance(statement.targets[0], ast.Name):
                if statement.targets[0].id == "model":
                    model = spelled(statement.value).rpartition(".")[2]
                elif statement.targets[0].id == "extra_context" and isinstance(statement.value, ast.Dict):
                    for key, value in zip(statement.value.keys, statement.value.values, strict=True):
                        title = text_of(value) if key is not None and text_of(key) == "title" else title
        record = brief.record(model) if model and sort else None
        return (record.name.title, sort, title) if record else ("", "", title)

    def access(self, brief: Brief, node: ast.stmt | None) -> str:
        """Return who may see what a controller shows, in the words of a brief."""
        if isinstance(node, ast.ClassDef):
            guards = [spelled(base).rpartition(".")[2] for base in node.bases]
            for statement in node.body:
                if isinstance(statement, ast.Assign) and isinstance(statement.targets[0], ast.Name):
                    if statement.targets[0].id == "permission_required" and text_of(statement.value):
                        return self.right(brief, text_of(statement.value))
            if "UserPassesTestMixin" in guards:
                return "staff" if "is_staff" in ast.unparse(node) else "signed in"
        elif isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
            guards = []
            for decorator in node.decorator_list:
                call = decorator if isinstance(decorator, ast.Call) else None
                name = spelled(call.func if call else decorator).rpartition(".")[2]
                if name == "permission_required" and call and call.args and text_of(call.args[0]):
                    return self.right(brief, text_of(call.args[0]))
                guards.append(name)
        else:
            return "anyone"
        return next((_GUARDS[guard] for guard in guards if guard in _GUARDS), "anyone")

    def right(self, brief: Brief, permission: str) -> str:
        """Return the right that a permission stands for, in the words of a brief."""
        codename = permission.partition(".")[2]
        verb, _, model = codename.partition("_")
        record = next((one for one in brief.records if one.name.camel.lower() == model), None)
        if verb in VERBS and record is not None:
            return f"may {VERBS[verb]} {record.name.title}"
        named = next((one.name.title for one in brief.permissions if one.key == codename), "")
        return f"may {named}" if named else "signed in"


def _brief_path(path: str) -> str:
    """Spell an address of the host as a brief does."""
    spelled_out = _PARAMETER.sub(
        lambda one: f"{{{one.group(2)}: {_CONVERTERS.get(one.group(1) or 'str', 'other')}}}", "/" + path.strip("/")
    )
    return spelled_out.replace(": text}", "}")
