"""What an archive of a module must be, and how it is packed: the same bytes each time, nothing outside of its folder."""

import tempfile
import unittest
import zipfile
from pathlib import Path

from swift_sprout.core.archives import LARGEST_BYTES, Entry, checked, left_out
from swift_sprout.core.errors import Refused, WrongUse
from swift_sprout.disk.archives import entries_of, packed, write_new


class Names(unittest.TestCase):
    def refused(self, *entries: Entry) -> WrongUse:
        with self.assertRaises(WrongUse) as caught:
            checked(entries, "tide.zip")
        return caught.exception

    def test_one_folder_at_the_top(self):
        entries = [Entry("tide/", 0), Entry("tide/tide.php", 10), Entry("tide/src/Board.php", 10)]
        self.assertEqual(checked(entries, "tide.zip"), "tide")

    def test_every_unsafe_entry_is_named(self):
        names = ("../evil", "tide/../../evil", "/etc/passwd", "C:/evil", "tide\\evil", "tide/a\0b")
        error = self.refused(Entry("tide/tide.php", 1), *(Entry(name, 1) for name in names))
        self.assertEqual(error.code, "archive-unsafe")
        self.assertEqual({problem.place for problem in error.problems}, set(names))

    def test_links_doubles_and_bombs(self):
        self.assertEqual(self.refused(Entry("tide/link", 1, link=True)).code, "archive-unsafe")
        self.assertEqual(self.refused(Entry("tide/a", 1), Entry("tide/A", 1)).code, "archive-unsafe")
        self.assertEqual(self.refused(Entry("tide/a", LARGEST_BYTES + 1)).code, "archive-unsafe")

    def test_nothing_and_no_folder(self):
        self.assertEqual(self.refused().code, "archive-empty")
        self.assertEqual(self.refused(Entry("tide.php", 1)).code, "archive-without-folder")
        self.assertEqual(self.refused(Entry("a/x", 1), Entry("b/x", 1)).code, "archive-without-folder")

    def test_a_dot_in_a_name_is_no_way_out(self):
        self.assertEqual(checked([Entry("tide/..hidden", 1), Entry("tide/a..b", 1)], "tide.zip"), "tide")

    def test_what_is_left_out(self):
        patterns = ["sprout.made", "tests/*", ".*"]
        for path in ("sprout.made", "tests/run.php", "tests/deep/x.php", ".git/config", "src/.hidden"):
            self.assertTrue(left_out(path, patterns), path)
        for path in ("src/tests.php", "sprout.toml", "src/Made.php"):
            self.assertFalse(left_out(path, patterns), path)


class Files(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "out/tide.zip"

    def test_the_same_files_give_the_same_bytes_in_any_order(self):
        files = {"tide.php": b"<?php", "src/A.php": b"a" * 1000, "assets/ü.css": b""}
        first = packed("tide", files)
        self.assertEqual(first, packed("tide", dict(reversed(files.items()))))
        self.assertTrue(write_new(self.path, first))
        self.assertFalse(write_new(self.path, first))
        self.assertEqual({entry.name for entry in entries_of(self.path)}, {f"tide/{name}" for name in files})
        with zipfile.ZipFile(self.path) as held:
            self.assertEqual(held.read("tide/src/A.php"), files["src/A.php"])

    def test_a_file_of_somebody_else_stays(self):
        self.path.parent.mkdir()
        self.path.write_text("mine")
        with self.assertRaises(Refused):
            write_new(self.path, b"archive")
        self.assertEqual(self.path.read_text(), "mine")

    def test_archives_that_cannot_be_read(self):
        self.path.parent.mkdir()
        with self.assertRaises(WrongUse) as caught:
            entries_of(self.path)
        self.assertEqual(caught.exception.code, "archive-absent")
        content = bytearray(packed("tide", {"tide.php": b"<?php " + bytes(range(256)) * 40}))
        content[80] ^= 255
        for damaged in (b"", b"PK", bytes(content), bytes(content[:-30])):
            self.path.write_bytes(damaged)
            with self.assertRaises(WrongUse) as caught:
                entries_of(self.path)
            self.assertEqual(caught.exception.code, "archive-damaged")
