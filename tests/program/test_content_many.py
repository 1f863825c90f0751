"""Content of very many items: put in time that grows with their number, and never kept by half."""

import json
import os
import signal
import sqlite3
import subprocess
import sys
import time

from ..support import DJANGO, SiteCase


class Many(SiteCase):
    def items(self, count: int) -> None:
        self.assert_ok(self.sprout("content", "take", "harbour_office"))
        path = self.site / "harbour_office/content/Notice.json"
        data = json.loads(path.read_text())
        first = data["items"][0]
        data["items"] = [{**first, "key": f"Notice {one}", "title": f"Notice {one}"} for one in range(count)]
        path.write_text(json.dumps(data))

    def rows(self) -> int:
        connection = sqlite3.connect(self.site / "brindle_quay.sqlite3", timeout=30)
        try:
            return int(connection.execute("select count(*) from harbour_office_notice").fetchone()[0])
        finally:
            connection.close()

    def test_twice_as_many_take_about_twice_as_long(self):
        took = []
        for count in (1500, 6000):
            self.items(count)
            began = time.monotonic()
            self.assert_ok(self.sprout("content", "put", "harbour_office", "--preview"))
            took.append(time.monotonic() - began)
        self.assertLess(took[1], 8 * took[0], "four times as many items")

    def test_putting_that_is_ended_in_its_middle_leaves_nothing(self):
        self.items(30_000)
        before = self.rows()
        for number in (signal.SIGKILL, signal.SIGTERM, signal.SIGINT):
            command = [
                sys.executable,
                "-m",
                "swift_sprout",
                "content",
                "put",
                "harbour_office",
                "--host",
                str(self.site),
            ]
            putting = subprocess.Popen(
                [*command, "--runtime", str(DJANGO)],
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
                preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),
            )
            time.sleep(3)
            self.assertIsNone(putting.poll(), "it was done before it could be ended")
            os.kill(putting.pid, number)
            putting.wait(30)
            time.sleep(3)
            self.assertEqual(self.rows(), before, number)

    def test_malformed_files_are_named(self):
        self.items(2)
        path = self.site / "harbour_office/content/Notice.json"
        good = json.loads(path.read_text())
        cases = {
            "[": "Notice.json:1", json.dumps({**good, "items": 3}): "no list of items",
            json.dumps({**good, "items": [3]}): "no list of items", "[" * 100_000: "Notice.json",
            json.dumps({**good, "items": [{"title": "x"}]}): "lacks its key", json.dumps({**good, "type": 5}): "lacks a type",
            json.dumps({**good, "items": good["items"] * 2}): "there twice", json.dumps([good]): "no content",
            json.dumps({**good, "items": [{"key": "x", "f": {"file": "files/../../../etc/passwd"}}]}): "is not there",
        }  # fmt: skip
        for text, said in cases.items():
            path.write_text(text)
            ran = self.assert_ok(self.sprout("content", "put", "harbour_office"), 2)
            self.assertIn(said, ran.err)
        path.write_bytes(b"\xff\xfe{}")
        self.assertIn("no UTF-8", self.assert_ok(self.sprout("content", "put", "harbour_office"), 2).err)
