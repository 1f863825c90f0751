"""Where PHP keeps the compiled files of hosts."""

from __future__ import annotations

import os
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from swift_sprout.hosts.kits.wordpress.php import MOST_HOSTS, options


class CompiledFiles(unittest.TestCase):
    def test_those_of_hosts_asked_longest_ago_are_dropped(self) -> None:
        with tempfile.TemporaryDirectory() as folder, mock.patch.dict(os.environ, {"XDG_CACHE_HOME": folder}):
            kept = Path(folder) / "swift-sprout" / "php"
            places = []
            for number in range(MOST_HOSTS + 3):
                given = options(Path("/quay") / str(number))
                place = next(Path(one.partition("=")[2]) for one in given if one.startswith("opcache.file_cache="))
                os.utime(place, (number, number))  # all are made within one tick of some clocks
                places.append(place)
            self.assertEqual(len(set(places)), MOST_HOSTS + 3)
            self.assertLessEqual(len(list(kept.iterdir())), MOST_HOSTS)
            self.assertTrue(places[-1].is_dir())
            self.assertFalse(places[0].exists())

    def test_a_host_keeps_its_own(self) -> None:
        with tempfile.TemporaryDirectory() as folder, mock.patch.dict(os.environ, {"XDG_CACHE_HOME": folder}):
            self.assertEqual(options(Path("/quay")), options(Path("/quay")))


if __name__ == "__main__":
    unittest.main()
