"""Hosts that no kit knows: folders of siblings in any language are surveyed, compared, renamed and copied by names."""

from __future__ import annotations

import json
import shutil
import subprocess

from ..support import Case, Ran, sprout, tree_of

NAMES = ("Tide board", "Berth register", "Ferry lines", "Harbour office")


def spelled(name: str) -> dict[str, str]:
    words = name.lower().split()
    camel = "".join(word.capitalize() for word in words)
    kebab, snake = "-".join(words), "_".join(words)
    return {"t": name, "k": kebab, "s": snake, "c": camel, "l": camel[0].lower() + camel[1:], "u": snake.upper()}


#  by the folder of the modules: the spelling of its folders, the files of one, and of the host with a line a module
SHAPES = {
    "plugins": (
        "k",
        {
            "index.mjs": "import {{ {l}Routes }} from './{k}.routes.mjs';\nexport class {c}Plugin {{ name = '{k}'; }}\n",
            "{k}.routes.mjs": "export const {l}Routes = {{ prefix: '/{k}', title: '{t}' }};\n",
            "test/{k}.test.mjs": "import '../index.mjs'; // {u}_READY\n",
        },
        {"app.mjs": "import {l} from './plugins/{k}/index.mjs';\n", "plugins.txt": "{k}\n"},
    ),
    "lib/town": (
        "s",
        {
            "{s}.rb": "module {c}\n  TABLE = '{s}_rows'\nend\n",
            "views/{s}.html.erb": "<h1>{t}</h1>\n",
            "{s}_spec.rb": "require_relative '{s}'\n",
        },
        {"config/town.yml": "- {s}\n", "lib/all.rb": "require 'town/{s}/{s}'\n"},
    ),
    "src/Modules": (
        "c",
        {
            "{c}Module.cs": 'namespace Town.{c};\npublic class {c}Module {{ const string Key = "{k}"; }}\n',
            "{c}.csproj": "<Project><RootNamespace>Town.{c}</RootNamespace></Project>\n",
            "{c}Tests.cs": "// {t}\nclass {c}Tests {{ }}\n",
        },
        {"Town.sln": 'Project = "{c}", "src/Modules/{c}/{c}.csproj"\n'},
    ),
}


class TownCase(Case):
    """A folder of modules in one of the shapes, kept in version control."""

    def build(self, modules: str) -> str:
        """Lay out a town whose modules lie in a folder; returns the spelling of their own folders."""
        way, files, outside = SHAPES[modules]
        shutil.rmtree(self.folder / "town", ignore_errors=True)
        for name in NAMES:
            names = spelled(name)
            for path, text in files.items():
                self.write(f"town/{modules}/{names[way]}/{path.format(**names)}", text.format(**names))
        for path, line in outside.items():
            self.write(f"town/{path}", "".join(line.format(**spelled(name)) for name in NAMES))
        self.write("town/NOTES.md", "The tide board hangs at the gate.\n")
        subprocess.run(["git", "init", "-q", str(self.folder / "town")], check=True)
        return way

    def run_in(self, modules: str, *words: str) -> Ran:
        return sprout(*words, "--modules", modules, cwd=self.folder / "town")


class PlainFolders(TownCase):
    def test_a_module_is_renamed_without_a_remnant_and_back(self) -> None:
        for modules in SHAPES:
            with self.subTest(modules):
                way = self.build(modules)
                files = tree_of(self.folder / "town")
                old, new = spelled("Tide board"), spelled("Water level")
                ran = self.assert_ok(self.run_in(modules, "rename", old[way], "Water level"))
                self.assertIn("NOTES.md:1", ran.out)
                now = tree_of(self.folder / "town")
                self.assertEqual(now.keys() & {path for path in files if old[way] in path}, set())
                held = [path for path, text in now.items() if b"tideboard" in text.lower().translate(None, b"_- ")]
                self.assertEqual(held, ["NOTES.md"])
                self.assertTrue(any(f"{modules}/{new[way]}/" in path for path in now))
                self.assert_ok(self.run_in(modules, "check"))
                self.assert_ok(self.run_in(modules, "rename", new[way], "Tide board"))
                self.assertEqual(tree_of(self.folder / "town"), files)
                self.assert_ok(self.run_in(modules, "undo"))
                self.assertEqual(tree_of(self.folder / "town"), now)

    def test_what_is_installed_or_kept_in_a_module_moves_as_it_is(self) -> None:
        self.build("plugins")
        kept = {
            "vendor/tide-board.mjs": b"export const name = 'tide-board';\n",
            ".git/HEAD": b"ref: tide-board\n",
            "rows.sqlite3": b"tide-board\0",
        }
        for path, held in kept.items():
            place = self.folder / "town/plugins/tide-board" / path
            place.parent.mkdir(parents=True, exist_ok=True)
            place.write_bytes(held)
        self.assert_ok(self.run_in("plugins", "rename", "tide-board", "Water level"))
        self.assertFalse((self.folder / "town/plugins/tide-board").exists())
        now = {path.replace("tide-board", "water-level"): held for path, held in kept.items()}
        for path, held in now.items():
            self.assertEqual((self.folder / "town/plugins/water-level" / path).read_bytes(), held)
        self.assert_ok(self.run_in("plugins", "new", "Buoy yard", "--like", "water-level"))
        self.assertTrue((self.folder / "town/plugins/buoy-yard/vendor").is_dir())
        self.assertFalse((self.folder / "town/plugins/buoy-yard/rows.sqlite3").exists())

    def test_what_still_carries_the_name_is_told(self) -> None:
        self.build("plugins")
        self.write("town/pictures/tide-board.png", "").write_bytes(b"\x89PNG\0tide")
        ran = self.assert_ok(self.run_in("plugins", "rename", "tide-board", "Water level"))
        self.assertIn("pictures/tide-board.png", ran.out)
        self.assertNotIn("nowhere left", ran.out)

    def test_a_link_in_the_module_is_refused(self) -> None:
        self.build("plugins")
        (self.folder / "town/plugins/tide-board/linked.mjs").symlink_to(self.folder / "town/app.mjs")
        refused = self.assert_ok(self.run_in("plugins", "rename", "tide-board", "Water level"), 4)
        self.assertIn("[not-a-file]", refused.err)
        self.assertTrue((self.folder / "town/plugins/tide-board/index.mjs").exists())

    def test_spellings_that_become_one_are_said_before(self) -> None:
        self.build("plugins")
        self.write("town/boards.txt", "tide-board and tide-boards\n")
        ran = self.assert_ok(self.run_in("plugins", "rename", "tide-board", "Fish", "--preview"))
        self.assertRegex(" ".join(ran.out.split()), "tide-board, tide-boards.* all become fish")

    def test_a_module_keeps_its_own_way_of_spelling(self) -> None:
        self.build("plugins")
        self.write("town/plugins/old_gauge/index.mjs", "export const name = 'old_gauge';\n")
        self.assert_ok(self.run_in("plugins", "rename", "old_gauge", "Rain meter"))
        self.assertIn("'rain_meter'", (self.folder / "town/plugins/rain_meter/index.mjs").read_text("utf-8"))

    def test_a_sibling_is_made_and_told_to_lack_its_entries(self) -> None:
        for modules in SHAPES:
            with self.subTest(modules):
                way = self.build(modules)
                made = self.assert_ok(self.run_in(modules, "new", "Buoy yard", "--like", spelled("Tide board")[way]))
                self.assertNotIn("enable", made.out)
                copied = [
                    text for path, text in tree_of(self.folder / "town").items() if spelled("Buoy yard")[way] in path
                ]
                self.assertEqual(len(copied), 3)
                self.assertFalse([text for text in copied if b"tide" in text.lower()])
                told = self.assert_ok(self.run_in(modules, "check", "--format", "json"), 1).json
                found = {one["code"] for module in told["setups"][0]["modules"] for one in module["findings"]}
                self.assertEqual(found, {"registered.not-in-list"})

    def test_what_breaks_the_common_form_is_named(self) -> None:
        self.build("plugins")
        town = self.folder / "town"
        self.assertIn("files that all of them have", self.assert_ok(self.run_in("plugins", "survey")).out)
        (town / "plugins/ferry-lines/ferry-lines.routes.mjs").unlink()
        text = (town / "plugins.txt").read_text("utf-8")
        (town / "plugins.txt").write_text(text.replace("harbour-office", "harbour-ofice"), "utf-8")
        ran = self.assert_ok(self.run_in("plugins", "check", "--format", "json"), 1)
        setup = ran.json["setups"][0]
        found = [(one["code"], one["module"]) for module in setup["modules"] for one in module["findings"]]
        found += [(one["code"], one["module"]) for one in setup["findings"]]
        self.assertEqual(
            set(found),
            {
                ("described.lacks-file", "ferry-lines"),
                ("registered.not-in-list", "harbour-office"),
                ("registered.no-folder", "harbour-ofice"),
            },
        )
        self.assertNotIn("served", [step["state"] for module in setup["modules"] for step in module["ladder"]])

    def test_what_is_not_known_is_refused(self) -> None:
        self.build("plugins")
        files = tree_of(self.folder / "town")
        for words, code, status in (
            (("enable", "tide-board"), "host-not-known", 4),
            (("why", "tide-board"), "host-not-known", 4),
            (("rename", "tide-board", "Ferry lines"), "name-taken", 4),
            (("rename", "tide-bord", "Quay"), "module-unknown", 2),
        ):
            with self.subTest(words):
                self.assertIn(f"[{code}]", self.assert_ok(self.run_in("plugins", *words), status).err)
        self.assertIn("[modules-absent]", self.assert_ok(self.run_in("plugin", "survey"), 2).err)
        self.assertIn("[modules-outside]", self.assert_ok(self.run_in("..", "survey"), 2).err)
        self.assertEqual(tree_of(self.folder / "town"), files)

    def test_the_next_step_says_where_the_modules_are(self) -> None:
        self.build("plugins")
        ran = self.assert_ok(self.run_in("plugins", "rename", "tide-board", "Water level"))
        self.assertIn("--modules", ran.out)
        told = json.loads(
            self.run_in("plugins", "rename", "water-level", "Tide board", "--preview", "--format", "json").out
        )
        self.assertEqual((told["after"], told["written"]), ("tide-board", False))
