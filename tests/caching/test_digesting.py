"""What files are known again by, what is noted of reading them, and where that is kept."""

import os
import time
from collections.abc import Callable
from pathlib import Path
from unittest import mock

from swift_sprout.caching.digesting import digest_of_content, folder_in_short, in_groups, read_and_digest, same_file
from swift_sprout.caching.listing import FOLDER, NO_FILE, Listed, list_directly, list_tree
from swift_sprout.caching.place import MOST_KEPT, CacheFolder, cache_folder
from swift_sprout.disk.readings import Readings

from ..support import Case


class Sums(Case):
    def setUp(self) -> None:
        super().setUp()
        self.write("quay/berths.py", "berths = 4")
        self.write("quay/tides/high.py", "high = 12")
        self.write("quay/tides/moon/full.py", "full = True")
        self.quay = str(self.folder / "quay")

    def listed(self, name: str) -> Listed:
        return next(one for one in list_tree(self.quay) if one[0].endswith(f"/{name}"))

    def test_groups_hold_each_file_once(self):
        groups = list(in_groups([self.quay]))
        self.assertEqual(sorted(one for group in groups for one in group), sorted(list_tree(self.quay)))
        self.assertEqual([len(group) for group in groups], [2, 3])

    def test_what_is_asked_of_open_files_is_what_is_asked_of_the_folder(self):
        def ask(entry: os.DirEntry[str]) -> os.stat_result:
            told = read_and_digest(entry.path)[0] if entry.is_file() else None
            return told or entry.stat()

        self.assertEqual(list(in_groups([self.quay], ask)), list(in_groups([self.quay])))

    def test_a_change_anywhere_below_changes_the_sum(self):
        changes: dict[str, Callable[[], object]] = {
            "content": lambda: self.write("quay/tides/moon/full.py", "full = None"),
            "new": lambda: self.write("quay/tides/low.py", ""),
            "gone": lambda: os.unlink(f"{self.quay}/tides/high.py"),
            "another file of the same content": lambda: os.replace(
                self.write("full.py", "full = None"), f"{self.quay}/tides/moon/full.py"
            ),
        }
        for name, change in changes.items():
            with self.subTest(name):
                time.sleep(0.02)
                before = folder_in_short(f"{self.quay}/tides")
                self.assertEqual(folder_in_short(f"{self.quay}/tides"), before)
                change()
                self.assertNotEqual(folder_in_short(f"{self.quay}/tides")[0], before[0])

    def test_content_is_known_again_whatever_its_time(self):
        before = self.listed("high.py")
        os.utime(before[0], (1, 1))
        after = self.listed("high.py")
        self.assertNotEqual(same_file(before), same_file(after))
        self.assertEqual(digest_of_content(before), digest_of_content(after))
        digest = digest_of_content(after)
        self.write("quay/tides/high.py", "high = 13")
        self.assertNotEqual(digest_of_content(self.listed("high.py")), digest)

    def test_what_cannot_be_read_is_told_as_such(self):
        self.assertEqual(read_and_digest(f"{self.quay}/absent.py"), (None, "unread 2"))

    def test_environments_circles_and_pipes_end_a_list(self):
        os.symlink(self.quay, f"{self.quay}/tides/round")
        os.mkfifo(f"{self.quay}/pipe")
        self.write("quay/venv/pyvenv.cfg", "home = /usr")
        self.write("quay/venv/lib/huge.py", "")
        told = {one[0][len(self.quay) :]: one[2] for one in list_tree(self.quay)}
        self.assertEqual((told["/pipe"], told["/venv"], told["/tides/round"]), (NO_FILE, FOLDER, FOLDER))
        self.assertFalse([path for path in told if path.startswith("/venv/")])
        self.assertLess(len(told), 30)
        self.assertEqual(sorted(list_directly(self.quay)[1]), [f"{self.quay}/tides", f"{self.quay}/venv"])


class Noted(Case):
    def test_the_latest_of_all_that_was_read_counts(self):
        quay = self.write("quay/berths.py", "").parent
        read = Readings(since=1)
        self.assertEqual(read.latest_change_with([str(quay / "absent")], "/nowhere"), 0)
        read.places.add(str(quay / "berths.py"))
        self.assertEqual(read.latest_change_with([], "/nowhere"), (quay / "berths.py").stat().st_ctime_ns)
        self.assertEqual(read.latest_change_with([], str(quay)), 0)
        self.assertEqual(read.latest_change_with([str(quay)], str(quay)), quay.stat().st_ctime_ns)

    def test_a_copy_tells_what_it_read_and_one_that_died_may_have_read_anything(self):
        copy, here = Readings(since=1), Readings(since=1)
        copy.latest_change = 7
        copy.places.add("/quay/berths.py")
        here.take(copy.told())
        self.assertEqual((here.latest_change, here.places, here.by_others), (7, {"/quay/berths.py"}, False))
        here.take(None)
        self.assertEqual((here.latest_change, here.by_others), (7, True))


class Cache(Case):
    def setUp(self) -> None:
        super().setUp()
        self.enterContext(mock.patch.dict(os.environ, {"XDG_CACHE_HOME": str(self.folder / "cache")}))

    def test_documents_come_back_and_what_is_none_is_not_believed(self):
        place = CacheFolder("tides")
        self.assertIsNone(place.read("high.json"))
        place.write("high.json", {"metres": 12})
        self.assertEqual(place.read("high.json"), {"metres": 12})
        for text in ("[1]", "{", "[" * 100_000):
            (place.folder / "high.json").write_text(text)
            self.assertIsNone(place.read("high.json"))

    def test_the_oldest_go_when_there_are_very_many(self):
        for number in range(MOST_KEPT + 3):
            CacheFolder(f"tide-{number}").write("high.json", {"number": number})
            os.utime(cache_folder() / f"tide-{number}", (number, number))
        CacheFolder("last").write("high.json", {})
        kept = {path.name for path in cache_folder().iterdir()}
        self.assertEqual(len(kept), MOST_KEPT)
        self.assertTrue({"last", f"tide-{MOST_KEPT + 2}"} <= kept and "tide-0" not in kept)

    def test_a_relative_place_is_none(self):
        with mock.patch.dict(os.environ, {"XDG_CACHE_HOME": "cache"}):
            self.assertEqual(cache_folder(), Path.home() / ".cache/swift-sprout/checks")
