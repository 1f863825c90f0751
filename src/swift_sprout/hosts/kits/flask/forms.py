"""What the running application did with the forms of its pages, and what its code asks of packages."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....core.nearest import said_near
from ...python.attributes import lines_asking
from ...python.code_errors import said_of_form
from ...python.posting import is_sure, lines_of_forms
from .asking import place_of, place_of_view, said

if TYPE_CHECKING:
    from ....core.findings import Finding
    from .host import FlaskHost
    from .reading import SiteFiles


def _shown(host: FlaskHost, name: str, sent: dict[str, Any], answers: dict[str, Any]) -> tuple[str, int]:
    """Return where the view is that a form was sent to, as the page by the same view tells."""
    marker = host.place(name).marker
    page = next((one for one in answers.get("pages") or () if one["view"] == sent["view"]), None)
    return place_of_view(host, page, marker) if page is not None else (host.relative(marker), 0)


_TOKENS = ("csrf_token", "hidden_tag", "quick_form", "render_form")
_STATUS = {"absent": 404, "refused": 405}


def forms(host: FlaskHost, files: SiteFiles, name: str, answers: dict[str, Any]) -> Iterator[Finding]:
    """What is wrong with the forms that a module's pages show, or that its views take."""
    views = {view.name: view for view in files.views(name)}
    for one in answers.get("forms") or ():
        template = _drawn_by(host, one["files"])
        if one["wrong"] == "error":
            view = views.get(one["view"].rpartition(".")[2])
            if one["module"] != name or not is_sure(one["error"]):
                continue
            otherwise = (host.relative(view.path), view.line) if view is not None else _shown(host, name, one, answers)
            file, line = place_of(host, one["error"], otherwise)
            values = {
                "view": one["view"],
                "path": one["path"],
                "reason": said_of_form(one["error"], said(one["error"])),
            }
            yield host.finding("served.form-breaks", name, file, line, **values)
        elif template is not None and one["page_of"] == name:
            path, text = template
            line = next(lines_of_forms(text, _TOKENS if one["wrong"] == "token" else ()), 1)
            values = {"template": host.relative(path), "target": one["target"], "path": one["path"]}
            if one["wrong"] == "token":
                token = "{{ form.hidden_tag() }}" if "form." in text else "{{ csrf_token() }}"
                hidden = token if "form." in text else f'<input type="hidden" name="csrf_token" value="{token}">'
                yield host.finding("served.form-without-token", name, host.relative(path), line, token=hidden, **values)
            else:
                yield _refused(host, name, path, line, one, values)


def _refused(
    host: FlaskHost, name: str, path: Path, line: int, told: dict[str, Any], values: dict[str, str]
) -> Finding:
    why, remedy = "which no view answers", f"post it to an existing view at {host.relative(path)}:{line}"
    if told["wrong"] == "refused":
        why = f"but {told['view']} does not accept POST"
        remedy = f'add methods=["GET", "POST"] to the route of {told["view"]}'
    status = str(_STATUS[told["wrong"]])
    return host.finding(
        "routed.form-refused", name, host.relative(path), line, why=why, remedy=remedy, status=status, **values
    )


def _drawn_by(host: FlaskHost, files: list[str]) -> tuple[Path, str] | None:
    """Return the site's template, among those that were drawn, that holds a form which is sent."""
    for file in files:
        path = Path(file)
        text = path.read_text("utf-8", "replace") if file and host.root in path.parents and path.is_file() else ""
        if any(lines_of_forms(text)):
            return path, text
    return None


def package_names(host: FlaskHost, name: str, answers: dict[str, Any]) -> Iterator[Finding]:
    """What a module's code asks of packages, and the versions that run do not have."""
    for one in answers.get("absent") or ():
        path = Path(one["file"])
        if not host.places.by_name[name].holds(path):
            continue
        asked = lines_asking(ast.parse(path.read_text("utf-8", "replace")), one["alias"], one["name"])
        if asked is not None:
            near = said_near(next(iter(one["near"]), None))
            values = {"name": one["name"], "of": one["of"], "near": near, "package": one["of"].partition(".")[0]}
            yield host.finding("served.package-lacks", name, host.relative(path), asked[0], **values)
