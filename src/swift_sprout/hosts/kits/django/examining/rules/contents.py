"""What a module brings beside code: catalogues that are compiled, sample data and descriptions that fit the code."""

from __future__ import annotations

import ast
import gettext
import json
import re
import struct
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

import polib

from ......core.findings import Finding
from ......core.nearest import nearest, said_near
from ...registration import brief_of
from ..examination import Examination


def catalogues(exam: Examination) -> Iterator[Finding]:
    """Catalogues that do not parse, are not compiled, or are in a language that the host does not offer."""
    if not exam.module.has("locale") or exam.view.entry_of(exam.module) is None:
        return
    folder = exam.module.folder / "locale"
    offered = _languages(exam)
    brief = brief_of(exam.module)
    meant = {translation.language for translation in brief.translations} if brief is not None else set()
    for source in sorted(folder.glob("*/LC_MESSAGES/django.po")):
        language = source.parent.parent.name
        plain = language.lower().replace("_", "-")
        if plain in meant and offered and plain not in offered and plain.partition("-")[0] not in offered:
            yield exam.find("placed.language-off", source, 1, language=plain, offered=", ".join(sorted(offered)))
        try:
            written = polib.pofile(str(source), wrapwidth=0)
        except (OSError, UnicodeDecodeError) as error:
            reason = str(error).partition("Syntax error in po file ")[2] or str(error)
            line = next((int(word) for word in reason.replace(":", " ").split() if word.isdigit()), 1)
            yield exam.find("placed.catalogue-broken", source, line, reason=reason[:200])
            continue
        compiled = source.with_suffix(".mo")
        wanted = {
            entry.msgid: entry.msgstr
            for entry in written.translated_entries()
            if entry.msgid and not entry.msgid_plural and not entry.msgctxt
        }
        if not _holds(compiled, wanted):
            yield exam.find("placed.catalogue-not-compiled", source, 1, compiled=exam.view.relative(compiled))


def _holds(path: Path, wanted: dict[str, str]) -> bool:
    """True when a compiled catalogue is there and translates as its source form says."""
    try:
        with path.open("rb") as handle:
            held = gettext.GNUTranslations(handle)
    except (OSError, UnicodeDecodeError, struct.error, LookupError):
        return False
    return all(held.gettext(text) == translated for text, translated in wanted.items())


def _languages(exam: Examination) -> set[str]:
    """Return the languages that the settings offer; empty for all."""
    said = exam.view.settings.plain("LANGUAGES", None) if exam.view.settings else None
    if not isinstance(said, list | tuple):
        return set()
    return {str(pair[0]).lower() for pair in said if isinstance(pair, list | tuple) and pair}


def sample_data(exam: Examination) -> Iterator[Finding]:
    """Sample data that is no JSON, or names records and fields that the module does not have."""
    if not exam.module.has("sample_data.json"):
        return
    path = exam.module.folder / "sample_data.json"
    if not path.is_file():
        return
    text = path.read_text("utf-8", "replace")
    entries, line = _read_json(text)
    if entries is None:
        yield exam.find("installed.samples-broken", path, line, reason="it is not JSON")
        return
    records = {node.name: _fields(node) for _, node in exam.model_classes()}
    for entry in entries if isinstance(entries, list) else []:
        if not isinstance(entry, dict) or not isinstance(entry.get("rows"), list) or "record" not in entry:
            continue  # sample data of another form, which is a person's own
        name = str(entry["record"])
        if name not in records:
            near = nearest(name, records) or ", ".join(records)
            reason = f"it names the record {name}, which does not exist{said_near(near)}"
            yield exam.find("installed.samples-broken", path, _line(text, name), reason=reason)
            continue
        used = {field for row in entry["rows"] if isinstance(row, dict) for field in row}
        for field in sorted(used - records[name]):
            near = nearest(field, records[name]) or ""
            reason = f"{name} has no field {field}{said_near(near)}"
            yield exam.find("installed.samples-broken", path, _line(text, field), reason=reason)


def _fields(node: ast.ClassDef) -> set[str]:
    return {
        target.id
        for statement in node.body
        if isinstance(statement, ast.Assign) and isinstance(statement.value, ast.Call)
        for target in statement.targets
        if isinstance(target, ast.Name)
    }


def descriptions(exam: Examination) -> Iterator[Finding]:
    """Endpoints and their description in openapi.json that do not name the same addresses."""
    if not exam.module.has("openapi.json"):
        return
    path = exam.module.folder / "openapi.json"
    if not path.is_file():
        return
    text = path.read_text("utf-8", "replace")
    document, line = _read_json(text)
    if not isinstance(document, dict):
        yield exam.find("served.description-broken", path, line)
        return
    paths = document.get("paths")
    described = {_shape(name): name for name in paths} if isinstance(paths, dict) else {}
    served = {_shape(one_.path): one_ for one_ in exam.addresses if ".endpoints." in one_.view}
    own = exam.view.addresses.file(exam.module.urls) if exam.module.urls else None
    if not served or own is None or not own.sure:
        return
    below = _put_below(described, served)
    served = {shape.removeprefix(below): address for shape, address in served.items()}
    for shape, name in described.items():
        if shape not in served:
            yield exam.find("served.described-not-there", path, _line(text, name), address=name)
    for shape, address in served.items():
        if shape not in described:
            file, number = address.route.file, address.route.line
            yield exam.find("served.endpoint-undescribed", file, number, address=address.path)


def _put_below(described: Iterable[str], served: Iterable[str]) -> str:
    """Return the address below which the module was put, where its description tells them as if it were at the top."""
    wanted, found = list(described), list(served)
    starts = {one.removesuffix(name) for one in found for name in wanted if one != name and one.endswith(name)}
    if not starts or set(wanted) & set(found):
        return ""
    return max(sorted(starts), key=lambda start: sum(one.startswith(start) for one in found))


def _shape(path: str) -> str:
    """Spell an address with all its parameters alike."""
    return re.sub(r"<[^>]*>|\{[^}]*\}", "*", path).rstrip("/")


def _read_json(text: str) -> tuple[Any, int]:
    try:
        return json.loads(text), 0
    except json.JSONDecodeError as error:
        return None, error.lineno


def _line(text: str, word: str) -> int:
    at = text.find(f'"{word}"')
    return text.count("\n", 0, at) + 1 if at >= 0 else 1


def services(exam: Examination) -> Iterator[Finding]:
    """Functions of services.py that make a service without handing it all that it needs."""
    source = exam.view.project.parse(f"{exam.module.place}/services.py") if exam.module.has("services.py") else None
    if source is None or source.tree is None:
        return
    needed = {node.name: _parameters(node) for node in source.tree.body if isinstance(node, ast.ClassDef)}
    for node in source.tree.body:
        for call in ast.walk(node) if isinstance(node, ast.FunctionDef) else ():
            if not (isinstance(call, ast.Call) and isinstance(call.func, ast.Name) and call.func.id in needed):
                continue
            if call.args or any(word.arg is None for word in call.keywords):
                continue
            missing = [name for name in needed[call.func.id] if name not in {word.arg for word in call.keywords}]
            if missing:
                values = {"service": call.func.id, "missing": ", ".join(missing)}
                yield exam.find("enabled.service-incomplete", source.path, call.lineno, **values)


def _parameters(node: ast.ClassDef) -> list[str]:
    for statement in node.body:
        if isinstance(statement, ast.FunctionDef) and statement.name == "__init__":
            names = [argument.arg for argument in statement.args.args[1:]]
            return names[: len(names) - len(statement.args.defaults)]
    return []


STATIC = (catalogues, sample_data, descriptions, services)
