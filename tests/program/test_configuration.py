"""What is said once: in the project's file, in the environment, by an option, each before the one behind it."""

from __future__ import annotations

import json

import jsonschema

from ..support import DJANGO, REPOSITORY, SiteCase, WordPressCase, sprout

SCHEMA = REPOSITORY / "src/swift_sprout/reports/schemas/configuration.json"


class Configuration(SiteCase):
    def setUp(self) -> None:
        super().setUp()
        self.root = self.folder / "town"
        (self.root / ".git").mkdir(parents=True)
        self.site.rename(self.root / "backend")
        self.site = self.root / "backend"

    def says(self, text: str, name: str = "pyproject.toml") -> None:
        self.write(f"town/{name}", text)

    def held(self, *words: str, **environment: str) -> dict[str, tuple[str, str]]:
        ran = self.assert_ok(sprout("configuration", *words, "--format", "json", cwd=self.root, **environment))
        jsonschema.validate(ran.json, json.loads(SCHEMA.read_text("utf-8")))
        return {one["key"]: (one["value"], one["source"]) for one in ran.json["values"]}

    def test_from_the_root_of_a_repository_nothing_needs_to_be_said_again(self) -> None:
        self.says(f'[tool.swift-sprout]\nhost = "backend"\nruntime = "{DJANGO}"\n')
        (self.root / "second").mkdir()
        self.write("town/second/manage.py", (self.site / "manage.py").read_text())
        ran = self.assert_ok(sprout("check", "ferries", cwd=self.root))
        self.assertIn("served: /ferries/", ran.out + sprout("check", cwd=self.root).out)
        self.assertIn("1 module, 1 served, no findings", ran.out)
        self.assertEqual(self.assert_ok(sprout("check", cwd=self.site / "ferries")).status, 0)

    def test_an_option_goes_before_the_environment_and_that_before_the_file(self) -> None:
        self.says('time_limit = 50\nkit = "django"\nstyle = "words"\n', "swift-sprout.toml")
        file = str(self.root / "swift-sprout.toml")
        self.assertEqual(self.held()["time_limit"], ("50", file))
        self.assertEqual(self.held(SWIFT_SPROUT_TIME_LIMIT="40")["time_limit"], ("40", "SWIFT_SPROUT_TIME_LIMIT"))
        held = self.held("--time-limit", "30", SWIFT_SPROUT_TIME_LIMIT="40")
        self.assertEqual(held["time_limit"], ("30.0", "--time-limit"))
        self.assertEqual(held["settings"][1], "default")
        self.assertIn("ferries, real set-up", sprout("check", "--static", cwd=self.root).out)
        self.assertIn("✓", sprout("check", "--static", cwd=self.root, SWIFT_SPROUT_STYLE="signs").out)

    def test_code_scanning_finds_the_lines_of_a_host_below_the_root_of_its_repository(self) -> None:
        self.write("town/backend/ferries/urls.py", "urlpatterns = [\n")
        page = self.folder / "check.sarif"
        self.assert_ok(sprout("check", "--static", "--output", page, cwd=self.root), 1)
        result = json.loads(page.read_text("utf-8"))["runs"][0]["results"][0]
        place = result["locations"][0]["physicalLocation"]["artifactLocation"]["uri"]
        self.assertEqual(place, "backend/ferries/urls.py")

    def test_what_is_mistyped_is_refused_with_the_nearest(self) -> None:
        self.says('[tool.swift-sprout]\nrunntime = "python3"\n')
        ran = self.assert_ok(sprout("check", cwd=self.root), 4)
        self.assertIn("pyproject.toml: runntime: unknown key", " ".join(ran.err.split()))
        self.assertIn("Nearest known: runtime.", ran.err)
        self.says('[tool.swift-sprout]\nhost = "backed"\n')
        self.assertIn("which does not exist", self.assert_ok(sprout("check", cwd=self.root), 2).err)
        self.says("[tool.swift-sprout]\n")
        ran = self.assert_ok(sprout("check", cwd=self.root, SWIFT_SPROUT_HOTS="backend"), 4)
        self.assertIn("Nearest known: SWIFT_SPROUT_HOST.", ran.err)
        self.assertEqual(sprout("check", cwd=self.root, SWIFT_SPROUT_TIME_LIMIT="soon").status, 2)
        self.assertEqual(sprout("check", cwd=self.root, SWIFT_SPROUT_STYLE="sign").status, 2)

    def test_a_file_that_says_nothing_of_ours_is_no_matter_whatever_it_holds(self) -> None:
        for text in ("tool = 1\n", "tool = [\n", "[tool]\nswift-sprout = 3\n", "[tool.other]\nhost = 1\n"):
            self.says(text)
            self.assert_ok(sprout("check", "--static", cwd=self.root))

    def test_folders_that_are_left_out_are_named_and_their_modules_asked_for_by_name_only(self) -> None:
        self.says('leave_out = ["ferries"]\n', "swift-sprout.toml")
        ran = self.assert_ok(self.sprout("check", "--format", "json"))
        setup = ran.json["setups"][0]
        self.assertNotIn("ferries", [one["module"] for one in setup["modules"]])
        self.assertIn("left out, as the project says: ferries", setup["notes"])
        self.assertIn("1 module, 1 served", self.assert_ok(self.sprout("check", "ferries")).out)
        self.assertNotIn("ferries", self.assert_ok(self.sprout("survey")).out)


class OfAStranger(WordPressCase):
    def test_a_program_that_a_file_names_is_not_run_where_files_are_only_read(self) -> None:
        mark = self.folder / "was-run"
        program = self.put("tool.sh", f'#!/bin/sh\ntouch {mark}\nexec php "$@"\n')
        program.chmod(0o755)
        self.put("swift-sprout.toml", 'runtime = "./tool.sh"\n')
        self.assert_ok(sprout("check", "--static", "--host", self.site))
        self.assertFalse(mark.exists())
        self.assert_ok(sprout("check", "ferries", "--host", self.site))
        self.assertTrue(mark.exists())


class Words(SiteCase):
    def test_options_before_the_command_help_and_options_that_are_nearly_right(self) -> None:
        self.assert_ok(sprout("--host", self.site, "--static", "check"))
        self.assertEqual(sprout("help", "check").out, sprout("check", "--help").out)
        self.assertEqual(sprout("help").out, sprout("--help").out)
        self.assertIn("hand over:", sprout("help").out)
        self.assertIn("Did you mean --static?", self.assert_ok(sprout("check", "--statik"), 2).err)
        self.assertIn("Nearest known: check", self.assert_ok(sprout("chek"), 2).err)
        self.assertIn("no command is given", self.assert_ok(sprout("--host", self.site), 2).err)
