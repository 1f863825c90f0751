"""Files as modules see them while they are tried: written, moved and removed for one run, and never on the disk."""

import shutil
import subprocess
import unittest
from pathlib import Path

import swift_sprout

from ..support import Case

FILES = Path(swift_sprout.__file__).parent / "hosts/kits/wordpress/probe/files.php"


@unittest.skipIf(shutil.which("php") is None, "PHP is not on this machine")
class Files(Case):
    def run_php(self, code: str) -> str:
        begin = (
            f"namespace SwiftSprout; require '{FILES}'; chdir('{self.folder}'); $at = '{self.folder}'; Files::keep(); "
        )
        ran = subprocess.run(["php", "-r", begin + code], capture_output=True, text=True, timeout=60)
        self.assertEqual(ran.returncode, 0, ran.stderr)
        return ran.stdout

    def held(self) -> dict[str, str]:
        return {path.name: path.read_text("utf-8") for path in self.folder.iterdir()}

    def test_what_is_written_is_read_again_and_not_on_the_disk(self) -> None:
        (self.folder / "tides.txt").write_text("06:12\n")
        for code, wanted in (
            ('file_put_contents("$at/berths.txt", "12"); echo file_get_contents("$at/berths.txt");', "12"),
            ('file_put_contents("$at/tides.txt", "18:40", FILE_APPEND); echo implode(",", file("$at/tides.txt", FILE_IGNORE_NEW_LINES));', "06:12,18:40"),
            ('$f = fopen("$at/tides.txt", "r+"); fwrite($f, "07"); fclose($f); echo trim(file_get_contents("$at/tides.txt"));', "07:12"),
            ('$f = fopen("$at/new.csv", "x"); fputcsv($f, ["a", "b"]); fclose($f); echo filesize("$at/new.csv");', "4"),
            ('copy("$at/tides.txt", "$at/copy.txt"); echo trim(file_get_contents("$at/copy.txt"));', "06:12"),
            ('rename("$at/tides.txt", "$at/old.txt"); echo (int) file_exists("$at/tides.txt"), trim(file_get_contents("$at/old.txt"));', "006:12"),
            ('unlink("$at/tides.txt"); echo (int) is_file("$at/tides.txt"), (int) @fopen("$at/tides.txt", "r");', "00"),
            ('mkdir("$at/kept"); file_put_contents("$at/kept/made.php", "<?php return 7;"); echo (int) is_dir("$at/kept"), include "$at/kept/made.php";', "17"),
            ('touch("$at/tides.txt"); touch("$at/none.txt"); echo Files::$written ? "written" : "";', "written"),
        ):  # fmt: skip
            with self.subTest(code):
                self.assertEqual(self.run_php(code), wanted)
                self.assertEqual(self.held(), {"tides.txt": "06:12\n"})

    def test_what_is_only_read_is_read_from_the_disk(self) -> None:
        (self.folder / "part.php").write_text("<?php return __FILE__ . ' ' . __LINE__;")
        told = self.run_php(
            'echo include "part.php"; echo (int) is_dir($at), count(scandir($at)), (int) Files::$written;'
        )
        self.assertEqual(told, f"{self.folder}/part.php 1130")

    def test_what_php_logs_itself_is_not_written(self) -> None:
        code = 'ini_set("error_log", ini_get("error_log")); error_log("lost"); echo "done";'
        self.assertEqual(self.run_php(code), "done")
        self.assertEqual(self.held(), {})
