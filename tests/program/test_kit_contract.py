"""The contract of kits: docs/kits.md is taken at its word, installed as a package, and gone through."""

import os
import re
import shutil
import signal
import subprocess
import sys
import time
import tomllib
import unittest
from pathlib import Path
from typing import Any, NamedTuple

from swift_sprout.core.errors import WrongUse
from swift_sprout.core.ladder import RUNGS
from swift_sprout.core.parts.kinds import KINDS
from swift_sprout.hosts.contract.kitdata import KitData, load_kit_data
from swift_sprout.hosts.contract.kitfacts import Recognise
from swift_sprout.hosts.kits.flask.facts import flask
from swift_sprout.hosts.registry import kits, recognise
from swift_sprout.running.loopback import free_port, get, wait_until_answering

from ..support import REPOSITORY, Case, Ran, can_be_interrupted, sprout, tree_of

PAGE = (REPOSITORY / "docs/kits.md").read_text("utf-8")
ALL_BLOCKS: dict[str, str] = dict(re.findall(r"```\w+ file=(\S+)\n(.*?)```\n", PAGE, re.DOTALL))
RADIO = {name.removeprefix("radio/"): text for name, text in ALL_BLOCKS.items() if name.startswith("radio/")}
BLOCKS = {name: text for name, text in ALL_BLOCKS.items() if not name.startswith("radio/")}


class BoardFacts(NamedTuple):
    """What the kit of the walk-through could say beside.

    roofs -- how many the board has
    """

    roofs: int = 1


class OwnKits(Case):
    def test_every_kit_follows_the_schema_and_names_what_is_there(self):
        for name, kit in kits().items():
            with self.subTest(name):
                facts = kit.data.facts
                self.assertRegex(facts.id, "^[a-z][a-z0-9-]*$")
                self.assertLessEqual(set(facts.parts), set(KINDS))
                self.assertLessEqual(set(facts.rungs), {str(rung) for rung in RUNGS})
                for entry in facts.file:
                    places = [folder / "templates" / entry.template for folder in kit.data.folders]
                    self.assertTrue(any(place.is_file() for place in places), entry.template)
                named = {entry.template for entry in facts.file} | {"migration.py.mustache", "taken_over.py.mustache"}
                there = {path.name for path in (kit.data.folder / "templates").glob("*.mustache")}
                self.assertEqual(there - named, set())

    def test_the_same_job_has_the_same_room_in_every_kit(self):
        rooms = dict(
            re.findall(
                r"^\| `([a-z]+(?:\.\w+)?)` \| (.+) \|$", PAGE.partition("### Rooms")[2].partition("\n## ")[0], re.M
            )
        )
        needed = [name for name, what in rooms.items() if "where" not in what]
        self.assertGreater(len(needed), 8)
        for name, kit in kits().items():
            if kit.data.base is not None:
                continue  # it has those of the kit below, and says only what differs
            there = {path.name for path in kit.data.folder.iterdir() if path.name != "__pycache__"}
            plain = {one.removesuffix(".py") if one.removesuffix(".py") in rooms else one for one in there}
            with self.subTest(name):
                self.assertEqual(set(needed) - plain, set())
                mends = any(rule.mendable for rule in kit.data.rules)
                self.assertEqual("mends" in plain, mends)

    def test_the_pages_of_the_contract_have_every_key(self):
        from tools.kits_page import HOSTS, README, SECTIONS, host_page, page, readme

        for name, kit in kits().items():
            self.assertEqual((HOSTS / f"{name}.md").read_text("utf-8"), host_page(kit.data), "run tools/kits_page.py")
        self.assertEqual(README.read_text("utf-8"), readme(), "run tools/kits_page.py")
        for name in SECTIONS:
            self.assertEqual((REPOSITORY / "docs" / name).read_text("utf-8"), page(name), "run tools/kits_page.py")

    def test_a_kit_file_that_is_wrong_is_told_with_its_place(self):
        for text, said in (
            ("id = \nx = 1\n", "kit.toml:1"),
            ('format = "swift-sprout/kit/9"\n', "swift-sprout/kit/1"),
            ('format = "swift-sprout/kit/1"\nid = "x"\n', "title"),
        ):
            with self.subTest(text):
                self.write("kit.toml", text)
                with self.assertRaises(WrongUse) as caught:
                    load_kit_data(self.folder)
                self.assertIn(said, caught.exception.sentence + caught.exception.remedy)

    def test_a_key_or_value_that_is_wrong_is_told_with_the_nearest(self):
        whole = BLOCKS["package/board_kit/kit.toml"]
        for old, new, said in (
            ("sort =", "sorted =", ("sorted: unknown key", "Nearest known: sort.")),
            ("longest = 40", "longer = 40", ("naming.longer: unknown key", "Nearest known: longest.")),
            ("longest = 40\n", "", ("naming.longest: missing key",)),
            ("longest = 40", 'longest = "40"', ("naming.longest: '40' is not a whole number",)),
            ("longest = 40", "longest = true", ("naming.longest: True is not a whole number",)),
            ('spelling = "kebab"', 'spelling = "kebap"', ("naming.spelling: 'kebap' is not one of", "kebab")),
            ('files = ["*"]', 'files = "*"', ("refresh[0].files: '*' is not a list",)),
            ('files = ["*"]', "files = [1]", ("refresh[0].files[0]: 1 is not text",)),
            ('kind = "reload"', 'kind = "reboot"', ("refresh[0].kind: 'reboot' is not one of",)),
            ("[parts]", "[[parts]]", ("parts: a list is not a table",)),
            ('record = "A notice', 'record = ["x"]\nrows = "A notice', ("instead.record: a list is not text",)),
            ("[rungs]", "[rungs.seen]", ("rungs.seen: a table is not text",)),
            ("[[file]]", "[boards]\nx = 1\n[[file]]", ("boards: unknown key", "Nearest known: board.")),
            ("[[file]]", "[board]\nroof = 1\n[[file]]", ("board.roof: unknown key", "Nearest known: roofs.")),
        ):
            with self.subTest(new):
                self.assertIn(old, whole)
                self.write("kit.toml", whole.replace(old, new))
                with self.assertRaises(WrongUse) as caught:
                    load_kit_data(self.folder, board=BoardFacts)
                for words in (str(self.folder / "kit.toml"), *said):
                    self.assertIn(words, caught.exception.sentence + caught.exception.remedy)
        self.write("kit.toml", whole.replace("[[file]]", "[board]\nroofs = 2\n[[file]]"))
        self.assertEqual(load_kit_data(self.folder, board=BoardFacts).section(BoardFacts), BoardFacts(2))

    def test_a_rule_that_is_wrong_is_told_with_the_nearest(self):
        self.write("kit.toml", BLOCKS["package/board_kit/kit.toml"])
        rule = '["found.plank"]\ncause = "c"\neffect = "e"\nmend = "m"\n'
        for old, new, said in (
            ("found.plank", "fuond.plank", ("fuond.plank: no rung is named 'fuond'", "Nearest known: found.")),
            ("cause", "couse", ("found.plank.couse: unknown key", "cause")),
            ('mend = "m"\n', "", ("found.plank.mend: missing key",)),
            ('mend = "m"', 'mend = "m"\nmendable = "yes"', ("found.plank.mendable: 'yes' is not true or false",)),
        ):
            with self.subTest(new):
                self.write("rules.toml", rule.replace(old, new))
                with self.assertRaises(WrongUse) as caught:
                    len(load_kit_data(self.folder).rules)
                for words in (str(self.folder / "rules.toml"), *said):
                    self.assertIn(words, caught.exception.sentence + caught.exception.remedy)


class BuildsOn(Case):
    """A kit of a package that builds on one of our own: it says only what differs."""

    def kit(self, text: str, rules: str = "") -> KitData:
        self.write(
            "kit/kit.toml", 'format = "swift-sprout/kit/1"\nid = "pier"\ntitle = "Pier"\nsort = "piers"\n' + text
        )
        self.write("kit/rules.toml", rules)
        return load_kit_data(self.folder / "kit")

    def test_what_it_says_lies_over_what_the_other_says(self):
        base = kits()["flask"].data
        data = self.kit(
            'builds_on = "flask"\nworks = ">=9"\n[recognise]\nfile = "pier.py"\n[naming]\nlongest = 7\n'
            '[parts]\npage = "a plank"\n[[file]]\ntemplate = "plank.mustache"\nwrites = "__init__.py"\nwhy = "mine"\n'
            '[[refresh]]\nfiles = ["*.plank"]\nkind = "restart"\nwhy = "planks"\n',
            '["found.plank"]\ncause = "c"\neffect = "e"\nmend = "m"\n',
        )
        self.assertEqual(data.ids, ["pier", "flask"])
        self.assertEqual(data.facts.recognise, Recognise("pier.py"))
        self.assertEqual(data.facts.naming, base.facts.naming._replace(longest=7))
        self.assertEqual(data.parts, {**base.parts, "page": "a plank"})
        self.assertEqual(data.facts.refresh[0].files, ("*.plank",))
        written = [entry.writes for entry in data.facts.file]
        self.assertEqual(sorted(written), sorted(entry.writes for entry in base.facts.file))
        self.assertEqual(next(one for one in data.facts.file if one.writes == "__init__.py").why, "mine")
        self.assertEqual(flask(data), flask(base))
        self.assertEqual({rule.code for rule in data.rules}, {rule.code for rule in base.rules} | {"found.plank"})
        self.assertEqual(base.facts.naming.longest, kits()["flask"].data.facts.naming.longest)

    def test_a_rule_of_the_kit_below_is_not_replaced(self):
        code = next(iter(kits()["flask"].data.rules)).code
        data = self.kit('builds_on = "flask"\n', f'["{code}"]\ncause = "c"\neffect = "e"\nmend = "m"\n')
        with self.assertRaises(WrongUse) as caught:
            len(data.rules)
        self.assertIn(f"{code}: the kit below has a rule of that code", caught.exception.sentence)

    def test_a_kit_that_is_not_there_cannot_be_built_on(self):
        with self.assertRaises(WrongUse) as caught:
            self.kit('builds_on = "jetty"\n')
        self.assertIn("jetty", caught.exception.sentence)

    def test_the_kit_that_knows_more_of_a_host_is_taken(self):
        for settings, kit in (
            ("INSTALLED_APPS = []", "django"),
            ("INSTALLED_APPS = ['wagtail']", "wagtail"),
            ("INSTALLED_APPS = ['oscar.config.Shop']", "oscar"),
        ):
            with self.subTest(kit):
                self.write("site/manage.py", "import os\nos.environ['DJANGO_SETTINGS_MODULE'] = 'quay.settings'\n")
                self.write("site/quay/settings.py", settings)
                found = recognise([self.folder / "site"])
                assert found is not None
                self.assertEqual(found[0].data.id, kit)
                asked = recognise([self.folder / "site"], "django")
                assert asked is not None
                self.assertEqual(asked[0].data.id, "django")


class Installed(Case):
    """A host beside a kit that is installed as a package; ``blocks`` are their files by path."""

    blocks: dict[str, str] = {}

    def setUp(self) -> None:
        super().setUp()
        for name, text in self.blocks.items():
            self.write(name, text)
        self.host = self.folder / "host"
        project = tomllib.loads(self.blocks["package/pyproject.toml"])["project"]
        self.install(project["name"], project["entry-points"]["swift_sprout.kits"])

    def install(self, name: str, kits_of_package: dict[str, str]) -> None:
        """Write what an installation puts beside a package."""
        lines = "".join(f"{kit} = {value}\n" for kit, value in kits_of_package.items())
        place = f"package/{name.replace('-', '_')}-1.0.0.dist-info"
        self.write(f"{place}/entry_points.txt", f"[swift_sprout.kits]\n{lines}")
        self.write(f"{place}/METADATA", f"Metadata-Version: 2.1\nName: {name}\nVersion: 1.0.0\n")

    @property
    def environment(self) -> dict[str, str]:
        path = os.pathsep.join(filter(None, [str(self.folder / "package"), os.environ.get("PYTHONPATH", "")]))
        return {"PYTHONPATH": path}

    def run_on(self, *words: str) -> Ran:
        options = [] if words[0] == "kits" else ["--host", str(self.host)]
        return sprout(*words, *options, cwd=None, stdin=None, **self.environment)


class WalkThrough(Installed):
    blocks = BLOCKS

    def setUp(self) -> None:
        super().setUp()
        (self.folder / "host/notices").mkdir()

    def test_the_page_holds_a_whole_kit(self):
        self.assertEqual(
            {Path(name).name for name in BLOCKS},
            {"board.py", "board.json", "kit.toml", "rules.toml", "page.html.mustache", "__init__.py", "pyproject.toml"},
        )
        self.assertEqual(load_kit_data(self.folder / "package/board_kit").id, "board")

    def test_the_commands_of_the_page(self):
        kit = self.assert_ok(self.run_on("kits", "--kit", "board"))
        self.assertIn("Notice board", kit.out)
        self.assertIn("3 causes known", kit.out)
        before = tree_of(self.host)
        self.assert_ok(self.run_on("new", "Low water", "--page", "/low-water: Low water today"))
        failing = self.assert_ok(self.run_on("check", "low-water", "--format", "json"), 1)
        findings = failing.json["setups"][0]["modules"][0]["findings"]
        self.assertEqual(findings[0]["code"], "registered.not-listed")
        self.assertEqual(findings[1]["follows_from"], "registered.not-listed")
        self.assert_ok(self.run_on("enable", "low-water"))
        passing = self.assert_ok(self.run_on("check", "low-water"))
        self.assertIn("/low-water in", passing.out)
        for words in (
            ("survey",),
            ("graph",),
            ("show", "order", "low-water"),
            ("why", "low-water"),
            ("show", "files", "low-water"),
        ):
            self.assert_ok(self.run_on(*words))
        (self.host / "notices/low-water/page.html").unlink()
        self.assertIn("found.no-page", self.assert_ok(self.run_on("check", "low-water"), 1).out)
        (self.host / "notices/low-water/page.html").write_bytes(b"")
        self.assertIn("served.other", self.assert_ok(self.run_on("check", "low-water"), 1).out)

        self.assert_ok(self.run_on("refresh", "low-water"))
        while self.run_on("undo").status == 0:
            pass
        self.assertIn("notices/low-water/page.html", self.run_on("undo").err)  # written by hand since: it stays
        self.assertEqual(tree_of(self.host)["board.json"], before["board.json"])

    def test_what_it_cannot_carry_is_refused_with_the_nearest(self):
        ran = self.assert_ok(self.run_on("new", "Low water", "--record", "Tide: height decimal(4,2)"), 2)
        self.assertIn("write what it says as the text of a page", ran.err)
        self.assertIn("A module cannot be named", self.run_on("new", "x" * 60, "--page", "/x").err)
        self.assertIn("no-demo", self.run_on("demo", str(self.folder / "new"), "--kit", "board").err)


@unittest.skipUnless(shutil.which("node") or os.environ.get("CI"), "Node is not here")
class OnNode(Installed):
    """The second walk-through: a host of another language, added without a line of ours."""

    blocks = RADIO

    def first(self, ran: Ran) -> dict[str, Any]:
        finding: dict[str, Any] = ran.json["setups"][0]["modules"][0]["findings"][0]
        return finding

    def test_the_commands_of_the_page(self):
        survey = self.assert_ok(self.run_on("survey"))
        self.assertIn("node", survey.out)
        before = tree_of(self.host)
        made = self.assert_ok(self.run_on("new", "Low water", "--page", "/low-water: Low water today"))
        self.assertIn("swift-sprout enable lowWater", made.out)
        self.assert_ok(self.run_on("add", "call", "Fog horn: Sound your horn, times 2", "--to", "lowWater"))
        text = (self.host / "stations/lowWater/lowWater.mjs").read_text()
        self.assertEqual(text.count('  "Sound your horn",\n'), 2)
        self.assertIn("[[call]]", (self.host / "stations/lowWater/sprout.toml").read_text())
        failing = self.assert_ok(self.run_on("check", "lowWater", "--format", "json"), 1)
        self.assertEqual(self.first(failing)["code"], "registered.not-listed")
        sandbox = self.assert_ok(self.run_on("check", "lowWater", "--sandbox", "--format", "json"), 1).json
        self.assertEqual([one["modules"][0]["ladder"][-1]["state"] for one in sandbox["setups"]], ["fail", "pass"])
        self.assertEqual(tree_of(self.host)["radio.json"], before["radio.json"])
        self.assert_ok(self.run_on("enable", "lowWater"))
        self.assertIn("/lowWater in", self.assert_ok(self.run_on("check", "lowWater")).out)
        self.assertIn("served", self.assert_ok(self.run_on("why", "lowWater")).out)
        self.assertIn("lowWater", self.assert_ok(self.run_on("show", "names", "lowWater")).out)
        while self.run_on("undo").status == 0:
            pass
        self.assertEqual(tree_of(self.host), before)

    def test_what_breaks_is_placed_by_the_probe(self):
        self.assert_ok(self.run_on("new", "Low water", "--page", "/low-water: Low water today", "-q"))
        self.assert_ok(self.run_on("new", "Tide gate", "--page", "/tide-gate: The gate", "-q"))
        for name in ("lowWater", "tideGate"):
            self.assert_ok(self.run_on("enable", name, "-q"))
        station = self.host / "stations/lowWater/lowWater.mjs"
        healthy = station.read_text()
        for text, line, said in (
            ("export const x = ;\n" + healthy, 1, "Unexpected token"),
            (healthy + "\nnobody();\n", healthy.count("\n") + 2, "nobody is not defined"),
            ('import "./gone.mjs";\n' + healthy, 0, "Cannot find module"),
        ):
            with self.subTest(said):
                station.write_text(text)
                ran = self.assert_ok(self.run_on("check", "--format", "json"), 1)
                modules = {one["module"]: one for one in ran.json["setups"][0]["modules"]}
                finding = modules["lowWater"]["findings"][0]
                self.assertEqual((finding["code"], finding["file"], finding["line"]),
                                 ("enabled.not-loaded", "stations/lowWater/lowWater.mjs", line))  # fmt: skip
                self.assertIn(said, finding["cause"])
                self.assertEqual(modules["tideGate"]["findings"], [])

    def test_it_is_served_on_the_port_of_its_environment(self):
        self.assert_ok(self.run_on("new", "Low water", "--page", "/low-water: Low water today", "-q"))
        self.assert_ok(self.run_on("enable", "lowWater", "-q"))
        port = free_port()
        words = [sys.executable, "-m", "swift_sprout", "serve", "--port", str(port), "--host", str(self.host)]
        with subprocess.Popen(words, env={**os.environ, **self.environment}, stdout=subprocess.DEVNULL,
                              preexec_fn=can_be_interrupted) as serving:  # fmt: skip
            try:
                self.assertTrue(wait_until_answering(port, 30))
                self.assertEqual(get(port, "/lowWater", {}, 10).body, b"Low water today")
            finally:
                serving.send_signal(signal.SIGINT)

    def test_a_watched_check_wakes_when_a_station_is_saved(self):
        self.assert_ok(self.run_on("new", "Low water", "--page", "/low-water: Low water today", "-q"))
        page = self.folder / "watched.json"
        words = [sys.executable, "-m", "swift_sprout", "check", "lowWater", "--watch", "--host", str(self.host)]
        words += ["--output", str(page)]
        out = self.folder / "watched.txt"
        with out.open("wb") as stream, subprocess.Popen(words, env={**os.environ, **self.environment}, stdout=stream,
                                                         preexec_fn=can_be_interrupted) as watching:  # fmt: skip
            try:
                self.wait_for(out, "registered.not-listed", 1)
                station = self.host / "stations/lowWater/lowWater.mjs"
                station.write_text(station.read_text() + "// at high water as well\n")
                self.wait_for(out, "registered.not-listed", 2)
                self.assertIn("registered.not-listed", page.read_text("utf-8"))
            finally:
                watching.send_signal(signal.SIGINT)

    def wait_for(self, file: Path, text: str, times: int) -> None:
        deadline = time.monotonic() + 60
        while file.read_text("utf-8").count(text) < times and time.monotonic() < deadline:
            time.sleep(0.1)
        self.assertEqual(file.read_text("utf-8").count(text), times)

    def test_a_copy_reads_the_dependencies_of_the_host(self):
        self.assert_ok(self.run_on("new", "Low water", "--page", "/low-water: Low water today", "-q"))
        self.write("host/node_modules/tide-tables/package.json", '{"name": "tide-tables", "main": "tables.js"}')
        self.write("host/node_modules/tide-tables/tables.js", "module.exports = {};\n")
        station = self.host / "stations/lowWater/lowWater.mjs"
        station.write_text('import "tide-tables";\n' + station.read_text())
        sandbox = self.run_on("check", "lowWater", "--sandbox", "--format", "json").json
        self.assertEqual(sandbox["setups"][1]["modules"][0]["ladder"][-1]["state"], "pass")

    def test_a_part_of_another_kind_is_refused_with_the_nearest(self):
        self.assert_ok(self.run_on("new", "Low water", "--page", "/low-water: Low water today", "-q"))
        for words, said in (
            (("add", "cal", "Fog horn", "--to", "lowWater"), "call"),
            (("add", "call", "Fog horn, time 2", "--to", "lowWater"), "times"),
            (("add", "record", "Tide: height decimal(4,2)", "--to", "lowWater"), "carry no record"),
        ):
            ran = self.assert_ok(self.run_on(*words), 2)
            self.assertIn(said, ran.err)
        brief = self.host / "stations/lowWater/sprout.toml"
        brief.write_text(brief.read_text() + '\n[[call]]\nname = "Fog horn"\ntims = 2\n')
        self.assertIn("Nearest known: times", self.assert_ok(self.run_on("refresh", "lowWater"), 2).err)

    def test_without_node_it_says_what_to_install(self):
        ran = self.run_on("check", "--runtime", str(self.folder / "no-node"))
        self.assertEqual(ran.status, 3, ran.out + ran.err)
        self.assertNotIn("Traceback", ran.err)
        self.assertIn("Install Node", ran.out + ran.err)

    def test_a_kit_of_another_package_builds_on_it(self):
        self.write("package/bell_kit/kit.toml", 'format = "swift-sprout/kit/1"\nid = "bell"\ntitle = "Bell"\n'
                   'sort = "radio"\nbuilds_on = "radio"\nchecked = ["1"]\n[recognise]\nfile = "bell.json"\n')  # fmt: skip
        self.write("package/bell_kit/rules.toml", "")
        self.write("package/bell_kit/__init__.py", "from pathlib import Path\nfrom radio_kit import RadioKit\n"
                   "KIT = RadioKit(Path(__file__).parent)\n")  # fmt: skip
        self.install("bell-kit", {"bell": "bell_kit:KIT"})
        (self.host / "bell.json").write_text("{}")
        self.assertIn("Bell", self.assert_ok(self.run_on("survey")).out)
        self.assert_ok(self.run_on("new", "Low water", "--page", "/low-water: Low water today", "-q"))
        self.assert_ok(self.run_on("enable", "lowWater", "-q"))
        self.assert_ok(self.run_on("check", "lowWater"))
