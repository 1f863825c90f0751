"""Generated modules: whatever the brief holds, the files parse, the host is content, and their own tests pass."""

import ast
import json
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from swift_sprout.core.brief import Brief
from swift_sprout.core.fields import TYPES, parse_field
from swift_sprout.core.modulefolders import ModuleFolder
from swift_sprout.core.names import name_family
from swift_sprout.core.parts.kinds import KINDS
from swift_sprout.core.parts.pages import make_page
from swift_sprout.core.parts.records import Record
from swift_sprout.edits.carrying import carry
from swift_sprout.hosts.kits.django.composing.module import compose, generate
from swift_sprout.hosts.kits.django.composing.shared import Site
from swift_sprout.hosts.kits.django.kit import KIT
from swift_sprout.hosts.kits.django.view import HostView

from ..support import Case, SiteCase, host_python, sprout, world_of

EVERYTHING = """
[module]
name = "Berth register"
summary = 'Who "lies" where: {{ berths }} {% and %} \\ more'
needs = ["harbour_office"]

[[record]]
name = "Berth"
plural = "Berths"
summary = "A place to lie at"
fields = [
  "name: text(40), unique, help \\"As painted on the wall\\"",
  "kind: choice(quay, buoy, \\"on land\\"), default quay",
  "depth_m: decimal(4,1), default 2.5",
  "length_m: number, optional",
  "places: integer, default 1",
  "lit: yes/no, default yes",
  "open_since: date, default 2001-05-01",
  "checked: datetime, default now",
  "rounds_at: time, optional",
  "turn: duration, optional",
  "mail: email, optional, unique",
  "page: link, optional",
  "short: slug, optional",
  "mark: uuid, optional",
  "data: json, optional",
  "plan: file, optional",
  "note: long text, optional",
  "next_berth -> Berth (before), optional",
  "last_booking -> Booking (last_of), optional",
]
order_by = ["-name"]

[[record]]
name = "Booking"
fields = [
  "berth -> Berth (bookings)",
  "clerk -> user",
  "notice -> harbour_office.Notice, optional",
  "crew ->> user (crews), optional",
  "vessel: text(60)",
  "arrives: date, default today",
]

[[page]]
path = "/berths"
title = "Berths of 'the' \\"quay\\""
text = "All {{ of }} them"
shows = "Berth"

[[page]]
path = "/bookings"
shows = "Booking"
access = "may change Booking"

[[page]]
path = "/berths/rules"
title = "Rules"
access = "signed in"

[[page]]
path = "/office/berths"
shows = "Berth"
access = "staff"

[[page]]
path = "/office-berths"
title = "Same words, other path"
"""


OWNED = """
[module]
name = "Bell log"

[[record]]
name = "Bell"
fields = ["name: text(20)"]

[[record]]
name = "Ringing"
fields = ["bell -> Bell", "by -> user", "seen_by -> user (saw), optional", "note: text(40)"]

[[page]]
path = "/ringings"
shows = "Ringing"

[[page]]
path = "/ringings/new"
title = "Ring"
shows = "Ringing"
view = "form"
access = "signed in"

[[endpoint]]
path = "/api/bells"
title = "Bells"
shows = "Bell"
methods = ["get", "delete"]
"""
PEOPLE = """from django.contrib.auth import get_user_model
from django.test import TestCase
from django.urls import reverse

from bell_log.models import Bell, Ringing


class People(TestCase):
    def setUp(self):
        self.clerk = get_user_model().objects.create_superuser("clerk", password="x")
        self.client.force_login(self.clerk)
        self.bell = Bell.objects.create(name="North")

    def test_the_owner_is_whoever_sends_the_form(self):
        form = self.client.get(reverse("bell_log:ringings-new")).context["form"]
        self.assertEqual(list(form.fields), ["bell", "note"])
        self.client.post(reverse("bell_log:ringings-new"), {"bell": self.bell.pk, "note": "Fog", "by": 99})
        self.assertEqual(Ringing.objects.get().by, self.clerk)

    def test_what_others_point_at_is_not_deleted(self):
        Ringing.objects.create(bell=self.bell, by=self.clerk, note="Fog")
        self.assertEqual(self.client.delete(reverse("bell_log:api-bells-one", args=[self.bell.pk])).status_code, 409)
        Ringing.objects.all().delete()
        self.assertEqual(self.client.delete(reverse("bell_log:api-bells-one", args=[self.bell.pk])).status_code, 204)
"""


class OnTheHost(SiteCase):
    def test_every_field_type_relation_and_guard(self):
        brief = self.write("berth_register.toml", EVERYTHING)
        self.assert_ok(self.sprout("new", "--brief", brief))
        self.assert_ok(self.sprout("enable", "berth_register"))
        ran = self.sprout("check", "berth_register", "--format", "json")
        self.assertEqual(self.codes(ran, "berth_register"), [], ran.out)
        self.assert_ok(ran)
        addresses = ran.json["setups"][0]["modules"][0]["addresses"]
        self.assertEqual(len(addresses), 8, addresses)
        tests = host_python("manage.py", "test", "berth_register", cwd=self.site)
        self.assertEqual(tests.returncode, 0, tests.stderr)
        self.assertIn("Ran 14 tests", tests.stderr)
        drift = host_python("manage.py", "makemigrations", "--check", "--dry-run", cwd=self.site)
        self.assertEqual(drift.returncode, 0, drift.stdout)
        admin = host_python("manage.py", "check", "--fail-level", "WARNING", cwd=self.site)
        self.assertEqual(admin.returncode, 0, admin.stderr)

    def test_a_form_takes_its_owner_from_the_person_and_a_protected_record_answers_409(self):
        brief = self.write("bell_log.toml", OWNED.replace('access = "signed in"', 'access = "anyone"'))
        self.assertIn("owner-unknown", self.assert_ok(self.sprout("new", "--brief", brief), 2).err)
        brief.write_text(OWNED)
        self.assert_ok(self.sprout("new", "--brief", brief))
        self.assert_ok(self.sprout("enable", "bell_log"))
        self.assert_ok(self.sprout("check", "bell_log"))
        self.put("bell_log/tests/test_people.py", PEOPLE)
        tests = host_python("manage.py", "test", "bell_log", cwd=self.site)
        self.assertEqual(tests.returncode, 0, tests.stderr)
        described = json.loads((self.site / "bell_log/openapi.json").read_text())
        self.assertIn("409", described["paths"]["/api/bells/{id}/"]["delete"]["responses"])

    def test_a_bare_module_and_a_record_without_page(self):
        self.assert_ok(self.sprout("new", "Signal mast", "--no-page"))
        self.assert_ok(self.sprout("new", "Buoy list", "--no-page", "--record", "Buoy: colour text(20)"))
        for name in ("signal_mast", "buoy_list"):
            self.assert_ok(self.sprout("enable", name))
            ran = self.assert_ok(self.sprout("check", name, "--format", "json"))
            self.assertEqual(self.ladder(ran, name)["served"], "not-applicable")
        tests = host_python("manage.py", "test", "signal_mast", "buoy_list", cwd=self.site)
        self.assertEqual(tests.returncode, 0, tests.stderr)


texts = st.text(st.characters(exclude_categories=["C"]), max_size=40)
plain = st.sampled_from([kind for kind in TYPES if kind not in ("choice", "image", "document", "content")])
record_fields = st.lists(
    st.builds(
        lambda kind, label, options: (kind, label, options),
        plain | st.just("choice"),
        texts.filter(lambda text: '"' not in text and text.strip()),
        st.lists(st.sampled_from([", optional", ", unique"]), unique=True),
    ),
    min_size=1,
    max_size=6,
)


@st.composite
def briefs(draw):
    """A brief with any text in every place that takes text."""
    drawn = draw(record_fields)
    fields = tuple(
        parse_field(
            f"field_{index}: " + (f'choice(one="{label}", two)' if kind == "choice" else kind) + "".join(options)
        )
        for index, (kind, label, options) in enumerate(drawn)
    )
    record = Record(name_family("Mooring line"), fields, draw(texts), plural_title=draw(texts).strip())
    access = draw(st.sampled_from(["anyone", "signed in", "staff", "may delete Mooring line"]))
    pages = (
        make_page("/lines", draw(texts), draw(texts), "Mooring line", access),
        make_page("/lines/more", draw(texts), draw(texts)),
    )
    title = draw(texts.filter(lambda text: text.strip()))
    name = name_family(title, internal="mooring_lines")
    return Brief(name, draw(texts), "1.0", draw(texts), records=(record,), pages=pages, licence=draw(texts))


LINES = [
    ("record", "Buoy: colour text(20), line -> Mooring line (buoys), lit yes/no"),
    ("permission", "Cut a line, on Mooring line"),
    ("group", "Riggers, may read change Mooring line"),
    ("page", "/lines/new: New line, shows Mooring line, view form"),
    ("page", "/knots/{knot}: One knot"),
    ("endpoint", "/api/lines: Lines, shows Mooring line"),
    ("menu", "Lines, page /lines"),
    ("block", "Newest lines, shows Mooring line"),
    ("command", "Count lines, lists Mooring line"),
    ("service", "Splicer, uses Mooring line, uses clock"),
    ("listener", "Note a line, on record saved, of Mooring line"),
    ("setting", "longest: integer, default 40"),
    ("translation", "de, texts Lines=Leinen"),
    ("asset", "lines.css"),
]
chosen_lines = st.lists(st.sampled_from(LINES), unique=True, min_size=1, max_size=5)
hand_written = st.text(st.characters(exclude_categories=["C"]), max_size=30)


def whole(brief: Brief, lines: list[tuple[str, str]]) -> Brief:
    """The brief with parts added, in that order."""
    from swift_sprout.actions.making import part_from_line

    for kind, line in lines:
        brief = brief.with_part(kind, part_from_line(kind, line))
    return brief


def parts_of(content: bytes) -> set[object]:
    """What a Python file defines, whatever the order; lists and dictionaries as sets of their items."""
    found: set[object] = set()
    for node in ast.parse(content).body:
        held = getattr(node, "value", None)
        if isinstance(held, ast.List | ast.Dict):
            items = held.elts if isinstance(held, ast.List) else held.keys
            found |= {ast.unparse(item) for item in items if item is not None}
        elif isinstance(node, ast.ImportFrom):
            found |= {(node.module, node.level, alias.name) for alias in node.names}
        else:
            found.add(ast.unparse(node))
    return found


class Properties(Case):
    @settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(briefs(), chosen_lines)
    def test_a_brief_spelled_as_toml_reads_back(self, brief, lines):
        from swift_sprout.core.brief import brief_from_toml
        from swift_sprout.core.brieftext import brief_text

        once = brief_from_toml(brief_text(whole(brief, lines)), "sprout.toml")
        self.assertEqual(brief_from_toml(brief_text(once), "sprout.toml"), once)
        self.assertEqual(
            [len(once.parts(kind)) for kind in KINDS], [len(whole(brief, lines).parts(kind)) for kind in KINDS]
        )

    @settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(briefs(), chosen_lines, st.randoms())
    def test_parts_added_in_any_order_give_the_same_module(self, brief, lines, random):
        site = Site("mooring_lines")
        before = generate(KIT.data, brief, site)
        files = [dict(before), dict(before)]
        for each in files:
            here = brief
            for kind, line in lines:
                after = whole(here, [(kind, line)])
                old, new = generate(KIT.data, here, site), generate(KIT.data, after, site)
                for path, content in new.items():
                    if path != "sprout.toml":
                        each[path] = carry(path, each[path], old.get(path, b""), content) if path in each else content
                here = after
            random.shuffle(lines)
        straight = generate(KIT.data, whole(brief, lines), site)
        self.assertEqual(set(files[0]), set(files[1]))
        self.assertEqual(set(files[0]), set(straight))
        for path, content in files[0].items():
            if path.endswith(".py"):
                self.assertEqual(parts_of(content), parts_of(files[1][path]), path)
                self.assertEqual(parts_of(content), parts_of(straight[path]), path)
            elif path.endswith(".json"):
                self.assertEqual(json.loads(content), json.loads(straight[path]))

    @settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(briefs(), chosen_lines, st.lists(hand_written, min_size=1, max_size=4), st.randoms())
    def test_what_people_wrote_survives_any_part(self, brief, lines, remarks, random):
        site = Site("mooring_lines")
        old, new = generate(KIT.data, brief, site), generate(KIT.data, whole(brief, lines), site)
        for path, content in old.items():
            if not path.endswith(".py") or path not in new:
                continue
            rows = content.decode().split("\n")
            tree = ast.parse(content)
            places = [0, len(rows), *(node.lineno - 1 for node in tree.body if not getattr(node, "decorator_list", []))]
            kept = []
            for number, remark in enumerate(remarks):
                kept.append(f"# {number} {remark}")
                rows.insert(random.choice(places) if number else len(rows), kept[-1])
                places = [0, len(rows)]
            rows.append(f"def by_hand_{len(remarks)}():\n    return {remarks!r}  # mine")
            hand = "\n".join(rows).encode()
            carried = carry(path, hand, content, new[path])
            for line in [*kept, rows[-1]]:
                self.assertIn(line, carried.decode())
            self.assertLessEqual(parts_of(new[path]), parts_of(carried))
            self.assertEqual(carry(path, carried, content, new[path]), carried)

    @settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(briefs())
    def test_any_brief_gives_files_that_their_parsers_accept(self, brief):
        with tempfile.TemporaryDirectory() as empty:
            changes = compose(HostView(Path(empty), KIT.data), KIT.data, brief, ModuleFolder(".", "", ""))
        for change in changes.changes:
            assert change.after is not None
            text = change.after.decode("utf-8")
            if change.path.endswith(".py"):
                ast.parse(text, change.path)
            elif change.path.endswith(".html"):
                self.assertNotIn("«", text)

    def test_code_is_formatted_also_where_the_configuration_cannot_be_followed(self):
        for number, said in enumerate(
            (
                "[tool.ruff]\nrequired-version = '==0.0.1'\n",
                "[tool.ruff]\nno-such-key = 1\n",
                "[tool]\nruff = 'yes'\nblack = 3\n",
                "tool = 1\n",
                "[tool.ruff\n",
            )
        ):
            with self.subTest(said):
                site = self.folder / f"site{number}"
                shutil.copytree(world_of("django"), site)
                (site / "pyproject.toml").write_text(said)
                self.assert_ok(sprout("new", "Berth list", "--page", "/berths: Berths", "--host", site))
                ruff = [sys.executable, "-m", "ruff", "format", "--check", "--isolated", "berth_list"]
                ran = subprocess.run(ruff, cwd=site, capture_output=True, text=True)
                self.assertEqual(ran.returncode, 0, ran.stdout + ran.stderr)

    def test_generated_python_is_formatted_as_the_project_says(self):
        for number, (file, said, length, quotes) in enumerate(
            (
                ("", "", 88, "double"),
                (
                    "pyproject.toml",
                    "[tool.ruff]\nline-length = 100\n[tool.ruff.format]\nquote-style = 'single'\n",
                    100,
                    "single",
                ),
                ("pyproject.toml", "[tool.black]\nline-length = 79\n", 79, "double"),
                ("setup.cfg", "[flake8]\nmax-line-length = 110\n", 110, "double"),
            )
        ):
            with self.subTest(said):
                site = self.folder / f"site{number}"
                shutil.copytree(world_of("django"), site)
                if file:
                    (site / file).write_text(said)
                self.assert_ok(sprout("new", "--brief", self.write("b.toml", EVERYTHING), "--host", site))
                options = [
                    "--isolated",
                    "--config",
                    f"line-length={length}",
                    "--config",
                    f"format.quote-style='{quotes}'",
                ]
                ruff = [sys.executable, "-m", "ruff"]
                for words in (["format", "--check"], ["check", "--select", "F,W,I,UP,B,DJ,SIM,C4,RET,PIE"]):
                    ran = subprocess.run(
                        [*ruff, *words, *options, "berth_register"], cwd=site, capture_output=True, text=True
                    )
                    self.assertEqual(ran.returncode, 0, ran.stdout + ran.stderr)


class OnDisk(Case):
    @settings(max_examples=12, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.lists(st.sampled_from(LINES), unique=True, min_size=1, max_size=6), hand_written)
    def test_add_undo_and_refresh(self, lines, remark):
        """What is added is taken back byte for byte, and a refresh with an unchanged brief changes nothing."""
        from swift_sprout.actions.extending import add
        from swift_sprout.actions.hosting import HostChoice, open_host
        from swift_sprout.actions.making import Wanted, make
        from swift_sprout.actions.refreshing import refresh
        from swift_sprout.actions.undoing import undo

        from ..support import tree_of

        site = self.folder / "site"
        shutil.rmtree(site, ignore_errors=True)
        shutil.copytree(world_of("django"), site)
        choice = HostChoice(str(site))
        records = ("Mooring line: name text(40), metres integer",)
        make(open_host(choice), Wanted("Mooring lines", records=records, pages=("/lines: Lines, shows Mooring line",)))
        models = site / "mooring_lines/models.py"
        models.write_text(f"{models.read_text()}\n\n# {remark}\n", "utf-8")
        seen = [tree_of(site)]
        for kind, line in lines:
            add(open_host(choice), kind, line, "mooring_lines", preview=False)
            seen.append(tree_of(site))
            self.assertFalse(refresh(open_host(choice), "mooring_lines", preview=False).changes)
            self.assertTrue(add(open_host(choice), kind, line, "mooring_lines", preview=False).already)
            self.assertEqual(tree_of(site), seen[-1])
        self.assertIn(f"# {remark}\n", models.read_text("utf-8"))
        for before in reversed(seen[:-1]):
            undo(open_host(choice), preview=False)
            self.assertEqual(tree_of(site), before)
