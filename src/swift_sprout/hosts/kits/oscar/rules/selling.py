"""What a module brings to the shop, as its files say it: shop data, shipping methods, receivers, templates."""

from __future__ import annotations

import ast
import json
from collections.abc import Iterable, Iterator
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from .....core.nearest import misspelt, near_text, said_near
from .reading import host_app_folder, method_classes

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.examining.examination import Examination
    from ...django.reading.templates import TemplateFile
    from ...django.view import HostView

NEEDED = ("kinds", "offers", "products")


def data(exam: Examination) -> Iterator[Finding]:
    """Shop data that cannot be read."""
    path = exam.module.folder / "shop_data.json"
    if not path.is_file():
        return
    try:
        told = json.loads(path.read_text("utf-8"))
    except ValueError as error:
        yield exam.find("described.shop-data", path, getattr(error, "lineno", 1), reason=str(error))
        return
    absent = [key for key in NEEDED if not isinstance(told, dict) or key not in told]
    if absent:
        yield exam.find("described.shop-data", path, 1, reason=f"it has no {absent[0]!r}")
        return
    kinds = {entry.get("name") for entry in told["kinds"]}
    for entry in (*told["products"], *(offer for offer in told["offers"] if offer.get("kind"))):
        if entry.get("kind") not in kinds:
            near = near_text(str(entry.get("kind")), [str(kind) for kind in kinds])
            title = entry.get("title") or entry.get("name")
            yield exam.find("described.shop-kind-unknown", path, 0, title=title, kind=entry.get("kind"), near=near)


def methods(exam: Examination) -> Iterator[Finding]:
    """Shipping methods without a code, without a price, or with the code of another one."""
    seen: dict[str, str] = {}
    for method in method_classes(exam):
        if method.code is None:
            continue  # it is worked out
        if not method.code:
            yield exam.find("placed.method-code-absent", method.path, method.line, name=method.name)
        elif method.code in seen:
            other = seen[method.code]
            yield exam.find(
                "placed.method-code-twice",
                method.path,
                method.line,
                name=method.name,
                method_code=method.code,
                other=other,
            )
        seen[method.code] = method.name
        if not method.own_price:
            yield exam.find("placed.method-price-absent", method.path, method.line, name=method.name)


def listeners(exam: Examination) -> Iterator[Finding]:
    """Receivers of the shop's signals that do not take what else they are given: the order fails on them."""
    for source in exam.sources:
        if source.tree is None or not source.mentions("order_placed", "product_viewed", "user_registered"):
            continue
        for node in source.tree.body:
            if isinstance(node, ast.FunctionDef) and node.args.kwarg is None:
                signals = [ast.unparse(one_decorator) for one_decorator in node.decorator_list]
                named = next((text for text in signals if text.startswith("receiver(")), "")
                if named:
                    signal = named.removeprefix("receiver(").rstrip(")").split(",")[0]
                    yield exam.find(
                        "enabled.receiver-arguments", source.path, node.lineno, name=node.name, signal=signal
                    )


def templates(exam: Examination) -> Iterator[Finding]:
    """Templates laid over the host's own under a name that the host does not have, and that nobody else names."""
    for template, near in _over_nothing(exam.view, exam.module.templates):
        if not named_in_package(exam, template.name):
            yield exam.find("placed.template-lays-over-nothing", template.path, 0, name=template.name, near=near)


def templates_of_site(view: HostView) -> Iterator[Finding]:
    """The same, of the site's own folders of templates."""
    own = [one for one in view.templates.all if not one.owner]
    for template, near in _over_nothing(view, own):
        if not view.drawing.is_named(template.name):
            place = view.relative(template.path)
            values = {"name": template.name, "near": near, "place": place}
            yield view.data.rules.finding("placed.template-lays-over-nothing", "", place, 0, **values)


def _over_nothing(view: HostView, own: Iterable[TemplateFile]) -> Iterator[tuple[TemplateFile, str]]:
    """Yield templates with a name nearly like one of the host's, each with the half sentence that names that one."""
    folder = host_app_folder(view, "dashboard")
    if folder is None:
        return
    theirs = host_templates(folder.parent.parent / "templates")
    used = {tag.first_text for template in view.templates.all for tag in template.tags}
    for template in own:
        if template.name.startswith("oscar/") and template.name not in theirs and template.name not in used:
            match = misspelt(template.name, theirs)
            if match:
                yield template, said_near(match)


def named_in_package(exam: Examination, text: str) -> bool:
    """True when some source of the top package that a module lies in names a text."""
    top = exam.module.folder
    while (top.parent / "__init__.py").exists():
        top = top.parent
    stem = text.rpartition("/")[2]
    return any(stem in path.read_text("utf-8", "replace") for path in top.rglob("*.py"))


@cache
def host_templates(folder: Path) -> frozenset[str]:
    """Return the names of the host's own templates."""
    return frozenset(path.relative_to(folder).as_posix() for path in folder.rglob("*") if path.is_file())


RULES = (data, methods, listeners, templates)
