"""Names in the module's code that are nearly those of things that are there, and are not there themselves."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from ......core.nearest import misspelt, slip_in

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ...view import HostView
    from ..examination import Examination

SHORTEST = 5  # letters of a name below which a slip of the pen cannot be told from another word


class Named(NamedTuple):
    """What a function of the host is given by name.

    position -- of the argument; sort -- what is named; effect -- what a wrong name does; most -- the call is not
    judged when it has more arguments: it then makes the thing itself
    """

    position: int
    sort: str
    effect: str
    most: int = 99


_NEVER = "it is never true, and nothing is reported"
_NOT_LOADED = "it is not loaded, and nothing is reported"
#  the functions that take a name of something that must be there (the host's reference, 6.1)
NAMED = {
    "defined": Named(0, "constant", "it is never defined: what waits for it is never done"),
    "get_query_var": Named(0, "query variable", "it is always empty"),
    "current_user_can": Named(0, "capability", "everybody is refused there, administrators as well"),
    "user_can": Named(1, "capability", "everybody is refused there, administrators as well"),
    "get_role": Named(0, "role", "the host returns nothing, and what is called on it breaks"),
    "wp_enqueue_style": Named(0, "style sheet or script", _NOT_LOADED, 1),
    "wp_enqueue_script": Named(0, "style sheet or script", _NOT_LOADED, 1),
    "wp_localize_script": Named(0, "style sheet or script", "its data are not in the page"),
    "wp_set_script_translations": Named(0, "style sheet or script", "its texts are not translated"),
    "wp_add_inline_style": Named(0, "style sheet or script", _NOT_LOADED),
    "wp_add_inline_script": Named(0, "style sheet or script", _NOT_LOADED),
    "add_meta_box": Named(3, "content type", "the box is never shown"),
    "register_taxonomy": Named(1, "content type", "the terms cannot be given to anything"),
    "is_singular": Named(0, "content type", _NEVER),
    "is_post_type_archive": Named(0, "content type", _NEVER),
    "get_post_type_archive_link": Named(0, "content type", "there is no such address"),
    "is_active_sidebar": Named(0, "widget area", _NEVER),
    "dynamic_sidebar": Named(0, "widget area", "nothing is drawn there"),
    "wp_next_scheduled": Named(0, "scheduled event", "it is scheduled once more at each request"),
    "wp_clear_scheduled_hook": Named(0, "scheduled event", "the event stays when the module is off"),
    "get_option": Named(0, "option", "it is always the default"),
    "has_shortcode": Named(1, "shortcode", _NEVER),
    "register_rest_field": Named(0, "content type", "the field is never in an answer"),
    "register_post_meta": Named(0, "content type", "the value is of no content type"),
}
#  arguments that are right although nothing of that name is registered
_ALSO = {
    "content type": {"any", "dashboard", "comment", "link", "user", "nav-menus", "attachment", "term"},
    "capability": {"exist", "do_not_allow"},
}


def names(exam: Examination) -> Iterator[Finding]:
    """Names that are nearly those of something the running host knows."""
    if not exam.loaded:
        return
    known: dict[str, set[str]] = {"capability": set()} if gives_rights(exam) else {}
    for file, call in exam.calls(*NAMED):
        told = NAMED[call.name]
        name = call.values[told.position] if len(call.values) > told.position else None
        if not isinstance(name, str) or len(name) < SHORTEST or len(call.nodes) > told.most:
            continue
        if told.sort not in known:
            known[told.sort] = _KNOWN[told.sort](exam)
        names_known = known[told.sort]
        if not names_known or name in names_known or name in _ALSO.get(told.sort, ()):
            continue
        near = misspelt(name, names_known)
        if near is None and told.sort == "content type":
            near = slip_in(name, own_types(exam))
        if near:
            yield exam.find(
                "registered.name-unknown",
                file.path,
                call.line,
                sort=told.sort,
                name=name,
                near=near,
                effect=told.effect,
            )


#  the things that the host keeps values of under a key; the key is the second thing that its functions are given (6.1)
_HAVE_VALUES = ("post", "user", "term", "comment")


def kept_values(exam: Examination) -> Iterator[Finding]:
    """Keys of values that the module reads, and keeps under a key that differs by a letter."""
    for thing in _HAVE_VALUES:
        keeping = [f"{verb}_{thing}_meta" for verb in ("update", "add", "register")]
        keys = [call.values[1] for _, call in exam.calls(*keeping) if len(call.values) > 1]
        kept = {key for key in keys if isinstance(key, str)}
        if not kept or len(kept) < len(set(keys)):
            continue  # some keys are worked out
        for file, call in exam.calls(f"get_{thing}_meta"):
            key = call.values[1] if len(call.values) > 1 else None
            near = slip_in(key, kept) if isinstance(key, str) and key not in kept and len(key) >= SHORTEST else None
            if near and isinstance(key, str) and abs(len(key) - len(near)) < 2 and not key[-1].isdigit():
                effect = "it is always empty"
                yield exam.find(
                    "registered.name-unknown", file.path, call.line, sort=f"{thing}'s value", name=key, near=near,
                    effect=effect,
                )  # fmt: skip


#  keys of what the host is asked for (its reference of WP_Query and WP_Tax_Query, 6.1)
_ASKS_FOR = {"post_type": "content type", "taxonomy": "taxonomy"}
_ASKED = re.compile(rb"^(?!\s*(?://|\*|#)).*?['\"](post_type|taxonomy)['\"]\s*=>\s*['\"]([\w-]{5,})['\"]", re.MULTILINE)


def asked_for(exam: Examination) -> Iterator[Finding]:
    """Content types and taxonomies that queries name, and that are nearly one of the module's own."""
    known = {"content type": _told("types")(exam), "taxonomy": _told("taxonomies")(exam)} if exam.loaded else {}
    own = own_types(exam) if all(known.values()) else set()
    for path, content in exam.module.contents.items() if own and known else ():
        for found in _ASKED.finditer(content):
            sort, name = _ASKS_FOR[found[1].decode()], found[2].decode()
            near = slip_in(name, own) if name not in known[sort] | own | _ALSO.get(sort, set()) else None
            if near:
                line = content.count(b"\n", 0, found.start(2)) + 1
                effect = "nothing is found"
                yield exam.find("registered.name-unknown", path, line, sort=sort, name=name, near=near, effect=effect)


_PAGE_HOOK = re.compile(rb"['\"]((?:toplevel|[a-z0-9-]+)_page_[\w-]+)['\"]")
_PAGE_LINK = re.compile(
    rb"['\"](?:admin|options-general|tools|themes|edit|index)\.php\?(?:[\w=%-]+&(?:amp;)?)*page=([\w-]+)"
)


def screens(exam: Examination) -> Iterator[Finding]:
    """Screens that code names by their hook or by an address, and that are nearly one of the module's own."""
    naming = any(b"_page_" in content or b"page=" in content for content in exam.module.contents.values())
    menu = [one for one in exam.answers.get("menu") or [] if one.get("hook")] if naming and exam.loaded else []
    own = [one for one in menu if exam.holds(one["file"])]
    hooks, slugs = {one["hook"] for one in menu}, {one["slug"] for one in exam.answers.get("menu") or []}
    for path, content in exam.module.contents.items() if own else ():
        for found in _PAGE_HOOK.finditer(content):
            name = found[1].decode()
            known = name in hooks or name.endswith("-network")  # the same screen in the administration of a network
            near = slip_in(name, {one["hook"] for one in own}) if not known else None
            if near and b"add_action" not in content[max(0, found.start() - 40) : found.start()]:
                line = content.count(b"\n", 0, found.start()) + 1
                yield exam.find(
                    "registered.name-unknown", path, line, sort="screen", name=name, near=near, effect=_NEVER
                )
        for found in _PAGE_LINK.finditer(content):
            name = found[1].decode()
            near = slip_in(name, {one["slug"] for one in own}) if name not in slugs else None
            if near:
                line = content.count(b"\n", 0, found.start()) + 1
                effect = "whoever follows the link is refused"
                yield exam.find(
                    "registered.name-unknown", path, line, sort="screen", name=name, near=near, effect=effect
                )


def own_types(exam: Examination) -> set[str]:
    """Return the content types and taxonomies that the module registers by a fixed name."""
    calls = exam.calls("register_post_type", "register_taxonomy")
    return {call.values[0] for _, call in calls if call.values and isinstance(call.values[0], str)}


def _query_variables(exam: Examination) -> set[str]:
    return set((exam.answers.get("rules") or {}).get("names") or [])


def rights_known(exam: Examination) -> set[str]:
    """Return the capabilities that some role holds, and those that the host turns into others."""
    held = set(exam.asked.rights) if exam.asked is not None else set()
    return held | set((exam.answers.get("names") or {}).get("rights") or []) | _META_RIGHTS if held else set()


def gives_rights(exam: Examination) -> bool:
    """True when a module gives rights by code while a page is asked for: what roles hold is not all there is."""
    return exam.asked is not None and exam.asked.gives_rights


def _told(key: str) -> Callable[[Examination], set[str]]:
    return lambda exam: set((exam.answers.get("names") or {}).get(key) or [])


def _options(exam: Examination) -> set[str]:
    written = {
        call.values[0]
        for _, call in exam.calls("add_option", "update_option", "register_setting")
        if call.values and isinstance(call.values[0], str)
    }
    written |= {
        call.values[1]
        for _, call in exam.calls("register_setting")
        if len(call.values) > 1 and isinstance(call.values[1], str)
    }
    dynamic = any(call.values[:1] == [None] for _, call in exam.calls("add_option", "update_option"))
    return set() if dynamic or not written else written | _told("options")(exam)


def _jobs(exam: Examination) -> set[str]:
    scheduled = [call.values[-1] for _, call in exam.calls("wp_schedule_event") if len(call.values) == 3]
    single = [call.values[1] for _, call in exam.calls("wp_schedule_single_event") if len(call.values) > 1]
    events = (exam.answers.get("jobs") or {}).get("events") or {}
    said = {name for name in (*scheduled, *single) if isinstance(name, str)}
    return said | set(events) if said and None not in (*scheduled, *single) else set()


#  constants of the host that code asks for before it goes on (its reference, 6.1)
_CONSTANTS = {"ABSPATH", "WPINC", "WP_UNINSTALL_PLUGIN", "WP_DEBUG", "DOING_AJAX", "DOING_CRON", "DOING_AUTOSAVE"}


def _constants(exam: Examination) -> set[str]:
    defined = rb"(?:\bdefine\(\s*['\"]|\bconst\s+)(\w+)"
    own = {name for content in exam.module.contents.values() for name in re.findall(defined, content)}
    return {*_CONSTANTS, *(name.decode() for name in own)}


_KNOWN: dict[str, Callable[[Examination], set[str]]] = {
    "query variable": _query_variables,
    "capability": rights_known,
    "role": lambda exam: set(exam.answers.get("roles") or {}),
    "style sheet or script": _told("handles"),
    "content type": _told("types"),
    "widget area": lambda exam: set((exam.answers.get("places") or {}).get("areas") or []),
    "shortcode": lambda exam: set((exam.answers.get("places") or {}).get("shortcodes") or {}),
    "scheduled event": _jobs,
    "option": _options,
    "constant": _constants,
}
#  capabilities that the host turns into others, whoever asks (its reference of map_meta_cap, 6.1)
_VERBS = ("edit", "read", "delete", "publish", "assign", "promote", "remove", "activate", "deactivate", "resume")
_THINGS = ("post", "page", "user", "comment", "term", "plugin", "theme", "post_meta", "css", "block", "app_password")
_META_RIGHTS = frozenset(f"{verb}_{thing}" for verb in _VERBS for thing in _THINGS) | {
    "customize", "unfiltered_upload", "update_php", "update_https", "install_languages", "manage_privacy_options"
}  # fmt: skip


def hooks(exam: Examination) -> Iterator[Finding]:
    """Hooks that neither the host nor a module calls, and that are nearly one of those."""
    wanted: dict[str, tuple[Path, int]] = {}
    for file, call in exam.calls("add_action", "add_filter"):
        name = call.values[0] if call.values else None
        if isinstance(name, str) and len(name) >= SHORTEST:
            wanted.setdefault(name, (file.path, call.line))
    for path, content in exam.module.contents.items():
        for said in _HUNG_BY_OWN.finditer(content):
            wanted.setdefault(said[1].decode("utf-8", "replace"), (path, content.count(b"\n", 0, said.start()) + 1))
    own, starts = hooks_of_modules(exam.view)
    for name, (path, line) in wanted.items():
        if name in own or name.startswith(starts):
            continue
        if called_by_host(exam.view.root, name):
            continue
        near = misspelt(name, hosts_hooks(exam.view.root)[0] | own) or _near_put_together(exam, name)
        if near:
            yield exam.find("registered.hook-unknown", path, line, hook=name, near=near)


def typed_hooks(exam: Examination) -> Iterator[Finding]:
    """Hooks of a content type or taxonomy that does not exist and is nearly one of the module's own."""
    for file, call in exam.calls("add_action", "add_filter") if exam.loaded else ():
        name = call.values[0] if call.values else None
        near = _of_other_type(exam, name) if isinstance(name, str) and called_by_host(exam.view.root, name) else ""
        if near:
            yield exam.find("registered.hook-unknown", file.path, call.line, hook=name, near=near)


#  hooks of one content type or taxonomy, whose name stands in the middle (the host's reference, 6.1)
_OF_TYPE = re.compile(
    r"(save_post_|manage_|manage_edit-|add_meta_boxes_|rest_prepare_|rest_insert_|publish_|edit_|create_|created_|edited_"
    r"|delete_|deleted_)?([\w-]+?)(_posts_columns|_posts_custom_column|_custom_column|_columns|_sortable_columns"
    r"|_add_form_fields|_edit_form_fields|_row_actions)?"
)


def _of_other_type(exam: Examination, name: str) -> str:
    """Return the hook that is meant by one of a content type that nobody registers and that is nearly an own one."""
    known = _told("types")(exam) | _told("taxonomies")(exam)
    found = _OF_TYPE.fullmatch(name)
    if found is None or not (found[1] or found[3]) or not known or found[2] in known:
        return ""
    near = slip_in(found[2], own_types(exam) & known)
    return f"{found[1] or ''}{near}{found[3] or ''}" if near else ""


def _near_put_together(exam: Examination, name: str) -> str:
    """Return the hook that the host puts together from a content type's name and that is nearly a name; or nothing."""
    calls = [*exam.calls("register_post_type"), *exam.calls("register_taxonomy")]
    types = {call.values[0] for _, call in calls if call.values and isinstance(call.values[0], str)} | {"post", "page"}
    ending = max((one for one in types if name.endswith(one)), key=len, default="")
    begins = {one.pattern.removesuffix(".+").replace("\\", "") for one in hosts_hooks(exam.view.root)[1]}
    near = misspelt(name.removesuffix(ending), begins) if ending else None
    return f"{near}{ending}" if near else ""


#  a class of the module's own collects what is to hang on hooks, and hangs it there later
_HUNG_BY_OWN = re.compile(rb"->add_(?:action|filter)\(\s*['\"]([\w-]{5,})['\"]")


def _quoted(name: str) -> tuple[bytes, bytes]:
    return f"'{name}'".encode(), f'"{name}"'.encode()


_CALLS_HOOK = re.compile(
    rb"\b(?:do_action|apply_filters)(?:_ref_array|_deprecated)?\(\s*(\"[^\"]+\"|'[^']+'(?:\s*\.)?|[^'\"\s])"
)


@cache
def hooks_of_modules(view: HostView) -> tuple[frozenset[str], tuple[str, ...]]:
    """Return the hooks that modules call by a fixed name, and the beginnings of those whose names they put together."""
    found = {text for one in view.modules for content in one.contents.values() for text in _CALLS_HOOK.findall(content)}
    exact, starts = set(), set()
    for text in (one.decode("utf-8", "replace") for one in found):
        if text[-1:] in "'\"" and "$" not in text:
            exact.add(text[1:-1])
        elif start := text.strip("'\". ").partition("$")[0].rstrip("{"):
            starts.add(start)
    return frozenset(exact), tuple(starts)


@cache
def called_by_host(root: Path, name: str) -> bool:
    """True where the host's own code says a hook, or puts such names together."""
    if any(word in hosts_texts(root) for word in _quoted(name)):
        return True
    return any(pattern.fullmatch(name) for pattern in hosts_hooks(root)[1])


@cache
def hosts_texts(root: Path) -> bytes:
    """Return all of the host's own code: what hooks it calls is found there. Read once a run."""
    folders = [root / "wp-includes", root / "wp-admin"]
    return b"\n".join(path.read_bytes() for folder in folders for path in sorted(folder.rglob("*.php")))


@cache
def hosts_hooks(root: Path) -> tuple[frozenset[str], tuple[re.Pattern[str], ...]]:
    """Return the hooks that the host calls by a fixed name, and patterns of those whose names it puts together."""
    exact, patterns = set(), []
    for found in _CALLS_HOOK.findall(hosts_texts(root)):
        text = found.decode("utf-8", "replace")
        if text[-1:] in "'\"" and len(text) > 2 and "$" not in text:
            exact.add(text[1:-1])
        elif text[:1] in "'\"":
            parts = re.split(r"\{?\$[^}\s]*\}?", text.strip("\"'. ") + ("$x" if text.endswith(".") else ""))
            if max(len(part) for part in parts) >= SHORTEST:
                patterns.append(re.compile(".+".join(re.escape(part) for part in parts)))
    return frozenset(exact), tuple(patterns)
