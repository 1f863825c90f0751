"""What the module's shortcodes, blocks, boxes, forms and settings did when they were drawn once."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ......core.nearest import misspelt, near_text
from ...reading.syntax import line_of, walk
from .acted import of_code

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

_STARTS = {"admin-post.php": ("admin_post_", "admin_post_nopriv_"), "admin-ajax.php": ("wp_ajax_", "wp_ajax_nopriv_")}


def drawn(exam: Examination) -> Iterator[Finding]:
    """Shortcodes, blocks and boxes that break or end the page, or print at the wrong moment."""
    if not exam.loaded:
        return
    for sort, key in (("shortcode", "code"), ("block", "drawn"), ("box", "box")):
        for name, told in (exam.answers.get(key) or {}).items():
            yield from _wrong(exam, f"the {sort} {name}", told)
            if sort == "shortcode" and exam.holds(told["file"]) and told.get("returned") == "NULL":
                place = told["file"], told["line"]
                if told.get("printed"):
                    yield exam.find("placed.shortcode-prints", *place, tag=name, text=told["printed"][:60])
                elif _never_returns(exam, *place):
                    yield exam.find("placed.shortcode-empty", *place, tag=name)


def _never_returns(exam: Examination, path: str, line: int) -> bool:
    """True for a function that begins on a line and has no value to return anywhere."""
    file = next((one for one in exam.module.files if str(one.path) == path), None)
    body = next((one for one in file.bodies if line_of(one) == line), None) if file is not None else None
    returns = [one for one in walk(body) if one.type == "return_statement"] if body is not None else []
    return body is not None and not any(one.named_children for one in returns)


def _wrong(exam: Examination, what: str, told: Mapping[str, Any]) -> Iterator[Finding]:
    fatal = told.get("fatal")
    if fatal and exam.holds(fatal[2]):
        yield exam.find("placed.drawing-breaks", fatal[2], fatal[3], what=what, reason=fatal[1])
    elif fatal and exam.holds(told["file"]):
        at = f" (in {exam.view.relative(Path(fatal[2]))}:{fatal[3]})"
        yield exam.find("placed.drawing-breaks", told["file"], told["line"], what=what, reason=f"{fatal[1]}{at}")
    elif told.get("ended") and exam.holds(told["file"]):
        yield exam.find("placed.drawing-ends", told["file"], told["line"], what=what)


def forms(exam: Examination) -> Iterator[Finding]:
    """Forms on the module's screens that nothing answers."""
    if not exam.loaded:
        return
    told_of = set()
    for slug, told in (exam.answers.get("screen") or {}).items():
        if not exam.holds(told["file"]):
            continue
        for form in told.get("forms") or []:
            key = (form["to"], form["says"])
            if form["answered"] or not form["says"] or key in told_of:
                continue
            told_of.add(key)
            if form["to"] == "options.php":
                groups = (exam.answers.get("settings") or {}).get("groups") or []
                if any(call.values[:1] == [form["says"]] for _, call in exam.calls("settings_fields")):
                    if all(call.values[:1] != [None] for _, call in exam.calls("register_setting")):
                        continue  # told from the files
                path, line = exam.line_saying(f"'{form['says']}'", f'"{form["says"]}"') or (Path(told["file"]), 0)
                near = near_text(form["says"], groups)
                yield exam.find("placed.settings-group", path, line, group=form["says"], screen=slug, near=near)
            else:
                yield _unanswered(exam, slug, told["file"], form)


#  a form of the module's own that the host takes in: where it goes, and the action that it sends
_FORM = re.compile(rb"<form\b(?:[^>]|\?>)*?\b(admin-post|admin-ajax)\.php.*?</form>", re.DOTALL | re.IGNORECASE)
_SENT = re.compile(rb"<input\b[^>]*\bname=['\"]action['\"][^>]*\bvalue=['\"]([\w-]+)['\"]", re.IGNORECASE)
#  the hooks of what takes forms in: named as a whole, and put together
TAKES_IN = re.compile(rb"['\"]((?:admin_post|wp_ajax)_[\w-]+)['\"](?!\s*\.)")
PUT_TOGETHER = re.compile(rb"['\"]((?:admin_post|wp_ajax)_[\w-]*)(?:['\"]\s*\.|\{?\$)")


#  the same as a link
_LINKED = re.compile(rb"\b(admin-post|admin-ajax)\.php\?action=([\w-]+)(?=['\"&])")


def _actions_sent(content: bytes) -> Iterator[tuple[bytes, str, int]]:
    """Yield where the actions of forms and links go, the action, and where it stands."""
    for form in _FORM.finditer(content):
        said = _SENT.search(form[0])
        if said is not None:
            yield form[1].lower(), said[1].decode(), form.start() + said.start(1)
    for link in _LINKED.finditer(content):
        yield link[1], link[2].decode(), link.start(2)


def forms_written(exam: Examination) -> Iterator[Finding]:
    """Forms in the module's files whose action nothing answers: told from what the running host has on its hooks."""
    contents = exam.module.contents
    if not exam.loaded:
        return
    sending = [(path, content, said) for path, content in contents.items() if (said := [*_actions_sent(content)])]
    if not sending:
        return
    begun = tuple(name.decode() for content in contents.values() for name in PUT_TOGETHER.findall(content))
    #  hung there only while a form is taken in, perhaps
    hooked = exam.hooked | {name.decode() for content in contents.values() for name in TAKES_IN.findall(content)}
    for path, content, said in sending:
        for sent, action, at in said:
            start = "admin_post_" if sent == b"admin-post" else "wp_ajax_"
            if f"{start}{action}" in hooked or f"{start}{action}".startswith(begun):
                continue
            others = [one for one in hooked if one.startswith(start) and "nopriv" not in one]
            if f"{start}nopriv_{action}" in hooked and not misspelt(f"{start}{action}", others):
                continue  # it may be for visitors alone
            near = near_text(f"{start}{action}", others)
            line = content.count(b"\n", 0, at) + 1
            yield exam.find("placed.form-action", path, line, hook=f"{start}{action}", near=near)


def _unanswered(exam: Examination, slug: str, file: str, form: Mapping[str, str]) -> Finding:
    """Tell of a form whose action nobody answers, at the hook that is named nearly so, else at the form."""
    starts = _STARTS[form["to"]]
    hooked = {
        call.values[0]: (other.path, call.line)
        for other, call in exam.calls("add_action")
        if call.values and isinstance(call.values[0], str) and call.values[0].startswith(starts[0])
    }
    wanted = starts[0] + form["says"]
    near = near_text(wanted, hooked)
    meant = next((name for name in hooked if name in near), None)
    says = (f"'{form['says']}'", f'"{form["says"]}"')
    path, line = hooked[meant] if meant else exam.line_saying(*says) or (Path(file), 0)
    return exam.find("placed.form-unanswered", path, line, screen=slug, hook=wanted, near=near)


def settings(exam: Examination) -> Iterator[Finding]:
    """Settings whose value cannot be cleaned, and pages of settings that no section is on."""
    if not exam.loaded:
        return
    for made in (exam.answers.get("made") or {}).get("register_setting", []):
        if made["cleans"] and exam.holds(made["file"]):
            near = near_text(made["cleans"].lower(), list(exam.module.functions))
            yield exam.find(
                "placed.setting-uncallable", made["file"], made["line"], option=made["option"], what=made["cleans"],
                near=near,
            )  # fmt: skip
    yield from _fields_without_section(exam)
    pages: list[str] = (exam.answers.get("settings") or {}).get("pages") or []
    for file, call in exam.calls("do_settings_sections") if pages else ():
        page = call.values[0] if call.values else None
        if isinstance(page, str) and page not in pages and near_text(page, pages):
            yield exam.find("placed.settings-empty", file.path, call.line, page=page, near=near_text(page, pages))


#  sections of the host's own pages of settings, which are no sections by name (its reference, 6.1)
_HOSTS_PAGES = ("general", "writing", "reading", "discussion", "media", "permalink")


def _fields_without_section(exam: Examination) -> Iterator[Finding]:
    """Fields of settings in a section that their page does not have."""
    told = exam.answers.get("settings") or {}
    sections, fields = told.get("sections") or {}, told.get("fields") or {}
    for file, call in exam.calls("add_settings_field") if sections and fields else ():
        page, section = ([*call.values, None, None, None, None, None])[3:5]
        if not isinstance(page, str) or not isinstance(section, str) or page in _HOSTS_PAGES:
            continue
        if section in (fields.get(page) or []) and page in sections and section not in sections[page]:
            near = near_text(section, sections[page])
            yield exam.find("placed.settings-section", file.path, call.line, page=page, section=section, near=near)


def jobs(exam: Examination) -> Iterator[Finding]:
    """Events that the module schedules and nobody does, or at an interval that the host does not know."""
    told = exam.answers.get("jobs")
    if not exam.loaded or not told:
        return
    events, intervals = told["events"] or {}, told["intervals"]
    #  some are hung there only while jobs are done, perhaps
    written = {str(call.values[0]) for _, call in exam.calls("add_action", "add_filter") if call.values}
    hooked = exam.hooked | written
    for file, call in exam.calls("wp_schedule_event", "wp_schedule_single_event"):
        repeats = call.name == "wp_schedule_event"
        position = 2 if repeats else 1
        hook = call.values[position] if len(call.values) > position else None
        every = call.values[1] if repeats and len(call.values) > 1 else None
        if isinstance(every, str) and every not in intervals:
            near = near_text(every, intervals)
            yield exam.find("enabled.job-interval", file.path, call.line, every=every, near=near)
        if isinstance(hook, str) and hook in events and not events[hook]["done"] and hook not in hooked:
            near = near_text(hook, hooked)
            yield exam.find("enabled.job-idle", file.path, call.line, hook=hook, near=near)
    for hook, done in (exam.answers.get("job") or {}).items():
        fatal = done.get("fatal")
        careful = done.get("wrote") or done.get("made_up")
        if fatal and exam.holds(done["file"]) and (not careful or of_code(fatal[1], bool(done.get("wrote")))):
            file_name, line = (fatal[2], fatal[3]) if exam.holds(fatal[2]) else (done["file"], done["line"])
            yield exam.find("enabled.job-breaks", file_name, line, hook=hook, reason=fatal[1])


def archives(exam: Examination) -> Iterator[Finding]:
    """Archives that the module's code asks about, of a content type of its own that has none."""
    if not exam.loaded:
        return
    own = {made["name"]: made for made in exam.answers.get("types") or [] if exam.holds(made["file"])}
    for file, call in exam.calls("is_post_type_archive", "get_post_type_archive_link"):
        name = call.values[0] if call.values else None
        made = own.get(name) if isinstance(name, str) else None
        if made is not None and made["seen"] and not made["archive"]:
            asked = f"{exam.view.relative(file.path)}:{call.line}"
            yield exam.find("routed.type-without-archive", made["file"], made["line"], type=name, asked=asked)
            return
