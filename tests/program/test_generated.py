"""Generated modules: whatever the brief holds, the files parse, the host is content, and their own tests pass."""

import ast
import tempfile
from pathlib import Path

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from swift_sprout.core.brief import Brief
from swift_sprout.core.fields import TYPES, parse_field
from swift_sprout.core.hostfacts import Place
from swift_sprout.core.names import name_family
from swift_sprout.core.parts.pages import make_page
from swift_sprout.core.parts.records import Record
from swift_sprout.hosts.django.composing.module import compose
from swift_sprout.hosts.django.kit import KIT
from swift_sprout.hosts.django.view import HostView

from ..support import WORLD, Case, SiteCase, host_python

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
plain = st.sampled_from([kind for kind in TYPES if kind != "choice"])
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


class Properties(Case):
    @settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(briefs())
    def test_any_brief_gives_files_that_their_parsers_accept(self, brief):
        with tempfile.TemporaryDirectory() as empty:
            changes = compose(HostView(Path(empty), KIT.data), KIT.data, brief, Place(".", "", ""))
        for change in changes.changes:
            assert change.after is not None
            text = change.after.decode("utf-8")
            if change.path.endswith(".py"):
                ast.parse(text, change.path)
            elif change.path.endswith(".html"):
                self.assertNotIn("«", text)

    def test_generated_python_is_formatted(self):
        import subprocess
        import sys

        from ..support import sprout

        site = self.folder / "site"
        site.mkdir()
        (site / "manage.py").write_text((WORLD / "django/manage.py").read_text())
        self.assert_ok(sprout("new", "--brief", self.write("b.toml", EVERYTHING), "--host", site))
        ruff = [sys.executable, "-m", "ruff", "check", "--isolated", "--select", "E,F,W,I", "--line-length", "200"]
        ran = subprocess.run([*ruff, str(site / "berth_register")], capture_output=True, text=True)
        self.assertEqual(ran.returncode, 0, ran.stdout)
