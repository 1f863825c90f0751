"""Why somebody sees a thing of a module, or not: every condition on the way, with what would make it hold."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any, NamedTuple

from ....core.conditions import Answer, Condition, judged
from ....core.ladder import Rung
from ....core.parts.rights import same_name
from ...shared.explaining import (
    PERSONS,
    answered,
    ground_of,
    not_running,
    person_named,
    unknown_person,
    unknown_thing,
)
from .composing.pages import has_front_page
from .composing.shared import capability, needs_of
from .examining.examine import examine_with_answers
from .placing import may_be_drawn
from .reading.parts import written_brief
from .reading.routes import pages_of
from .requesting import EVERYTHING, Pages

if TYPE_CHECKING:
    from ....core.brief import Brief
    from ....core.parts.pages import Page
    from .reading.modules import ModuleFiles
    from .reading.routes import PageRule
    from .view import HostView

GROUND = (Rung.FOUND, Rung.DESCRIBED, Rung.REGISTERED, Rung.COMPATIBLE, Rung.ENABLED, Rung.INSTALLED, Rung.ROUTED)
#  the roles of those who are no user in particular
ROLES = {"visitor": [], "signed in": ["subscriber"], "staff": ["editor"], "administrator": ["administrator"]}


class Thing(NamedTuple):
    """What is asked about: its sort, its name, the page that it leads to, and what that asks for."""

    sort: str
    name: str
    rule: PageRule | None
    needs: str
    screen: str = ""


class Person:
    """Somebody who asks: by a login, a role, or as one of PERSONS."""

    def __init__(self, name: str, roles: dict[str, Any], people: dict[str, list[str]]) -> None:
        self.name = name
        self.signed_in = name != "visitor"
        chosen = ROLES.get(name)
        self.known = chosen is not None or name in people or name in roles
        self.roles: list[str] = chosen if chosen is not None else people.get(name, [name])
        self.holds = {held for role in self.roles for held in roles.get(role, {}).get("holds", ())}
        self.holders = set(roles)

    def may(self, needs: str) -> bool:
        """True when the person may do what an access asks for."""
        return {"anyone": True, "signed in": self.signed_in}.get(needs, needs in self.holds)


def why(view: HostView, module: ModuleFiles, what: str | None, person: str, limit_seconds: float) -> Answer:
    """Return the answer; the host is loaded once, and asked for the page as that person.

    what   -- an address, a record, a block or a menu entry; None for the module's first page, or else itself
    person -- one of PERSONS, a role, or the login of a user
    """
    person = person_named(person)
    things = _things(module)
    thing = _chosen(module, things, what)
    setup, asked = examine_with_answers(view, [module], limit_seconds)
    check = setup.modules[0]
    name = f"{thing.sort} {thing.name}".strip() or "the module"
    if asked is None:
        return not_running(module.name, name, person, setup.failure)
    answers = asked.answers
    roles, people = answers.get("roles") or {}, answers.get("people") or {}
    asker = Person(person, roles, people)
    if not asker.known:
        raise unknown_person(person, [*people, *roles], "no such user and no such role")
    conditions = list(ground_of(check, GROUND))
    now = "the module is there" if check.ladder.stops_at is None else f"it stops at {check.ladder.stops_at.rung}"
    if thing.sort == "screen":  # the files may leave it to a constant: the running host knows what it asks for
        told = [one["needs"] for one in answers.get("menu") or [] if one["slug"] == thing.screen]
        thing = thing._replace(needs=told[0]) if told else thing
    if thing.sort:
        conditions.append(_allowed(thing, asker, roles))
    if thing.sort == "menu entry" and not thing.screen:
        there = bool((answers.get("places") or {}).get("menus"))
        conditions.append(judged("the theme has a menu", there, "", "choose a theme that draws a menu"))
    known = _is_known(thing, answers)
    if known is not None:
        conditions.append(
            judged(f"the host knows the {thing.sort}", known, thing.name, f"swift-sprout check {module.name}")
        )
    conditions += [*_shown(thing, answers), *_standing(view, thing, answers)]
    if thing.screen:
        entry = next(
            (one for one in answers.get("menu") or [] if one["slug"] == thing.screen or one["title"] == thing.name),
            None,
        )
        conditions.append(
            judged(
                "the administration's menu has it", entry is not None, thing.screen, f"swift-sprout check {module.name}"
            )
        )
    if thing.rule is not None and thing.rule.path and view.is_on(module):
        now, condition = _asked(view, module, thing, asker, limit_seconds)
        conditions += condition
    return answered(module.name, name, person, now, conditions)


def _things(module: ModuleFiles) -> list[Thing]:
    brief = written_brief(module)
    found: list[Thing] = []
    rules = pages_of(module)
    if brief is None:
        return [*(Thing("page", rule.path or rule.rule, rule, "anyone") for rule in rules), *_by_hand(module)]
    from .composing.records import screen_slug

    below = {rule.path: rule for rule in rules}
    if has_front_page(brief):
        path = f"/{brief.name.kebab}/"
        found.append(Thing("page", path, below.get(path), "anyone"))
    for page in brief.pages:
        path = _path(brief, page)
        found.append(Thing("page", path, below.get(path), needs_of(brief, page.access)))
    for record in brief.records:
        found.append(
            Thing("record", record.name.title, None, capability(brief, record, "read"), screen_slug(brief, record))
        )
    for entry in brief.menu:
        target = next((one for one in brief.pages if entry.page in (one.path, *one.also)), None) if entry.page else None
        rule = below.get(_path(brief, target)) if target is not None else None
        needs = needs_of(brief, target.access) if target is not None else "anyone"
        found.append(
            Thing("menu entry", entry.title, rule, needs, entry.title if entry.side == "administration" else "")
        )
    for block in brief.blocks:
        found.append(Thing("block", block.name.title, None, "anyone"))
    return found


#  the functions that add a screen, with the positions of its title, its capability and its name
_SCREENS = {
    "add_menu_page": (1, 2, 3),
    "add_submenu_page": (2, 3, 4),
    "add_options_page": (1, 2, 3),
    "add_management_page": (1, 2, 3),
    "add_theme_page": (1, 2, 3),
}
_KNOWN_AS = {"add_shortcode": "shortcode", "register_post_type": "content type", "register_widget": "widget"}


def _by_hand(module: ModuleFiles) -> list[Thing]:
    """Return what a module made by hand shows beside pages, as far as its files say it by name."""
    found: list[Thing] = []
    for file in module.files_saying([*_SCREENS, *_KNOWN_AS]):
        for call in file.calls:
            if call.name in _SCREENS:
                title, needs, slug = (call.values[at] if len(call.values) > at else None for at in _SCREENS[call.name])
                if isinstance(slug, str):
                    asks = needs if isinstance(needs, str) else "anyone"
                    found.append(Thing("screen", title if isinstance(title, str) else slug, None, asks, slug))
            elif call.name in _KNOWN_AS and call.values and isinstance(call.values[0], str):
                found.append(Thing(_KNOWN_AS[call.name], call.values[0], None, "anyone"))
    for described in sorted(module.place.rglob("block.json")) if not module.single else ():
        try:
            found.append(Thing("block", str(json.loads(described.read_text("utf-8"))["name"]), None, "anyone"))
        except (OSError, ValueError, KeyError, TypeError):
            continue  # a check tells what is wrong with it
    return found


def _shown(thing: Thing, answers: dict[str, Any]) -> list[Condition]:
    """Return whether people can come to something that stands in pages, or is a page of a content type."""
    if thing.sort == "shortcode" or (thing.sort == "block" and "/" in thing.name):
        path = (answers.get("written") or {}).get(thing.name, "")
        mend = f"write {f'[{thing.name}]' if thing.sort == 'shortcode' else 'the block'} into a page and publish it"
        return [judged("a page that people can read has it", bool(path), path, mend)]
    if thing.sort == "content type":
        made = next((one for one in answers.get("types") or [] if one["name"] == thing.name), None)
        if made is None:
            return []
        address = made["archive"] or made["one"]
        return [
            judged("its pages are for visitors", made["seen"], "", "register it as public"),
            judged("it has an archive, or one that is published", bool(address), address, "publish one"),
        ]
    return []


def _standing(view: HostView, thing: Thing, answers: dict[str, Any]) -> list[Condition]:
    """Return whether a widget stands in an area that pages draw; a block that stands in none may be in a page."""
    places = answers.get("places") or {}
    bases = {
        base
        for base, held in (places.get("widgets") or {}).items()
        if thing.sort in ("block", "widget") and _letters(held["name"].rpartition("\\")[2]) == _letters(thing.name)
    }
    areas = [
        area
        for area, ids in (places.get("placed") or {}).items()
        if area in (places.get("areas") or ()) and any(one.rpartition("-")[0] in bases for one in ids or ())
    ]
    if not bases or (thing.sort == "block" and not areas):
        return []
    mend = "put it into one in the administration, under Appearance, Widgets"
    found = [judged("its widget stands in an area of the theme", bool(areas), ", ".join(areas), mend)]
    if areas:
        drawn = [area for area in areas if may_be_drawn(view, area)]
        mend = f"call dynamic_sidebar( '{areas[0]}' ) in a template of the theme, or move it to another area"
        found.append(judged("pages draw that area", bool(drawn), ", ".join(drawn), mend))
    return found


def _letters(name: str) -> str:
    return "".join(letter for letter in name.lower() if letter.isalnum())


def _is_known(thing: Thing, answers: dict[str, Any]) -> bool | None:
    """True when the running host knows a thing by its name; None for things that it is not asked about so."""
    places, names = answers.get("places") or {}, answers.get("names") or {}
    known = {
        "shortcode": places.get("shortcodes"),
        "block": places.get("blocks") if "/" in thing.name else None,
        "content type": names.get("types"),
    }.get(thing.sort)
    return thing.name in known if known is not None else None


def _path(brief: Brief, page: Page) -> str:
    return f"/{brief.name.kebab}/{page.path.strip('/')}/".replace("//", "/")


def _chosen(module: ModuleFiles, things: list[Thing], what: str | None) -> Thing:
    if what is None:
        return next(
            (one for one in things if one.sort == "page" and one.rule is not None), Thing("", "", None, "anyone")
        )
    if what.startswith("/"):
        wanted = f"/{what.strip('/')}/".replace("//", "/")
        for one in things:
            if one.sort == "page" and (one.name == wanted or one.name == f"/{module.name}{wanted}"):
                return one
    for sort in ("record", "menu entry", "block", "screen", "shortcode", "content type", "widget"):
        for one in things:
            if one.sort == sort and (same_name(one.name, what) or what == one.screen):
                return one
    raise unknown_thing(module.name, what, [thing.name for thing in things])


def _allowed(thing: Thing, asker: Person, roles: dict[str, Any]) -> Condition:
    if thing.needs == "anyone":
        return judged("anybody may see it", True)
    if thing.needs == "signed in":
        return judged("it is for people who are signed in", asker.signed_in, asker.name, "sign in")
    holders = [role["name"] for role in roles.values() if thing.needs in role["holds"]]
    others = [name for name in holders if name != "Administrator"] or holders
    if asker.signed_in:
        mend = f"give {'the user' if asker.name in PERSONS else asker.name} the role {' or '.join(others)}"
    else:
        mend = f"sign in as somebody with the role {' or '.join(others)}"
    if not holders:
        mend = f"give a role the capability {thing.needs}"
    evidence = ", ".join(asker.roles) or "a visitor has no role"
    return judged(f"it is for those who hold {thing.needs}", asker.may(thing.needs), evidence, mend)


def _asked(
    view: HostView, module: ModuleFiles, thing: Thing, asker: Person, limit_seconds: float
) -> tuple[str, list[Condition]]:
    assert thing.rule is not None
    php = view.ready(limit_seconds)
    roles = [EVERYTHING] if asker.name == "administrator" else asker.roles
    with Pages(view, php, limit_seconds) as pages:
        answer = pages.get(thing.rule.path, roles)
    title = answer.body.partition("<h1>")[2].partition("</h1>")[0].strip()
    now = f"status {answer.status}" + (f", titled {title!r}" if title and answer.status == 200 else "")
    if answer.status in (301, 302):
        now = (
            f"status {answer.status}: it leads to signing in"
            if "wp-login" in answer.headers.get("location", "")
            else now
        )
    if answer.status >= 500 or answer.fatal is not None:
        reason = answer.fatal.said if answer.fatal is not None else f"status {answer.status}"
        return now, [judged("the page can be drawn", False, reason, f"swift-sprout check {module.name}")]
    if answer.status == 404:
        return now, [
            judged("the address leads to the page", False, thing.rule.path, f"swift-sprout settle {module.name}")
        ]
    return now, []
