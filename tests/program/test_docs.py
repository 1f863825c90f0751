"""What the README and the help texts say is what the program does."""

import re
import shlex

from swift_sprout.cli.main import COMMANDS

from ..support import REPOSITORY, SiteCase, sprout

README = (REPOSITORY / "README.md").read_text("utf-8")
TABLE_OF_COMMANDS = (REPOSITORY / "docs/commands.md").read_text("utf-8")
BRIEF = (REPOSITORY / "docs/brief.md").read_text("utf-8")


class Help(SiteCase):
    def test_every_command_has_help_with_an_example(self):
        for command in COMMANDS:
            with self.subTest(command):
                ran = self.assert_ok(sprout(command, "--help"))
                self.assertIn("example", ran.out)
                self.assertIn(f"swift-sprout {command}", ran.out)
                self.assertIn("--format", ran.out)
                self.assertIn(f"`{command}", TABLE_OF_COMMANDS)

    def test_the_program_itself(self):
        self.assertIn("exit status", self.assert_ok(sprout("--help")).out)
        self.assertRegex(self.assert_ok(sprout("--version")).out, r"^swift-sprout \d+\.\d+\.\d+$")
        self.assertEqual(sprout().status, 2)
        self.assertIn("there is no such folder", sprout("--host", "x", "survey").err)

    def test_examples_of_the_help_are_understood(self):
        """Every example command line is taken apart without an error about its arguments."""
        for command in COMMANDS:
            text = sprout(command, "--help").out.replace("\\\n", " ")
            for line in re.findall(r"^\s+(swift-sprout .+)$", text, re.MULTILINE):
                words = shlex.split(line.partition(" > ")[0])[1:]
                if words[0] in ("serve", "demo") or "--watch" in words:
                    continue
                with self.subTest(line):
                    place = [] if "--host" in words else ["--host", str(self.site)]
                    ran = sprout(*words, *place, cwd=self.folder)  # some write files where they are run
                    self.assertNotIn("[arguments]", ran.err)
                    self.assertNotIn("Traceback", ran.err)


class Story(SiteCase):
    def test_the_five_commands_of_the_readme(self):
        block = README.split("## The story in five commands")[1].split("Run them")[0]
        lines = [line.strip() for line in block.splitlines() if line.strip().startswith("swift-sprout")]
        statuses = []
        for line in lines:
            words = shlex.split(line, comments=True)[1:]
            ran = self.sprout(*words)
            self.assertNotIn("Traceback", ran.err)
            statuses.append(ran.status)
        self.assertEqual(statuses, [0, 0, 1, 0, 0])

    def test_the_brief_of_its_page(self):
        text = BRIEF.split("# A brief")[1].split("A field is")[0]
        brief = self.write("brief.toml", "\n".join(line[4:] for line in text.splitlines()))
        self.assert_ok(self.sprout("new", "--brief", brief, "--preview"))

    def test_pictures_and_pages_that_are_linked_exist(self):
        for target in re.findall(r"\]\(([^)#]+)\)", README):
            self.assertTrue((REPOSITORY / target).exists(), target)
        self.assertLess(len(list((REPOSITORY / "docs/screenshots").glob("*.png"))), 20)
