"""Spellings of a name in texts and paths, and what each becomes under another name."""

from __future__ import annotations

import re
import unittest
from typing import Any

from swift_sprout.core.names import NameFamily, name_family
from swift_sprout.core.renaming.identifiers import Identifiers
from swift_sprout.core.renaming.occurrences import Occurrence, in_path, occurrences, taken
from swift_sprout.core.renaming.spellings import Renaming


def renaming(old: str, new: str, *others: str, numbers: bool = True) -> Renaming:
    return Renaming(name_family(old), name_family(new), [name_family(one) for one in others], numbers)


class Spellings(unittest.TestCase):
    def test_each_spelling_keeps_its_form(self) -> None:
        found = renaming("Berth register", "Mooring list")
        for before, after in (
            ("berth_register", "mooring_list"),
            ("berth-register", "mooring-list"),
            ("berth.register", "mooring.list"),
            ("BerthRegister", "MooringList"),
            ("berthRegister", "mooringList"),
            ("BERTH_REGISTER", "MOORING_LIST"),
            ("Berth_Register", "Mooring_List"),
            ("Berth register", "Mooring list"),
            ("Berth Register", "Mooring List"),
            ("berth register", "mooring list"),
            ("berthregister", "mooringlist"),
            ("berth_registers", "mooring_lists"),
        ):
            with self.subTest(before):
                self.assertEqual(found.apply(before), after)

    def test_word_limits_part_a_name_from_its_letters(self) -> None:
        found = renaming("Berth register", "Mooring list")
        for text in ("berth_registered", "aberth_register", "berth_register2", "Aberthregister"):
            with self.subTest(text):
                self.assertEqual(found.apply(text), text)
        self.assertEqual(found.apply("getBerthRegisterOf my_berth_register_x"), "getMooringListOf my_mooring_list_x")
        self.assertEqual(renaming("Port", "Quay").apply("report airport port Ports"), "report airport quay Ports")

    def test_names_that_hold_the_old_one_are_left(self) -> None:
        found = renaming("Tide board", "Tide wall", "Tide board archive")
        self.assertEqual(
            found.apply("tide_board tide_board_archive TideBoardArchive TideBoard"),
            "tide_wall tide_board_archive TideBoardArchive TideWall",
        )

    def test_the_other_number_is_left_where_a_record_has_that_name(self) -> None:
        self.assertEqual(
            renaming("Ferry lines", "Routes", numbers=False).apply("ferry_line ferry_lines"), "ferry_line routes"
        )

    def test_one_word_becomes_several_in_the_way_of_what_stands_beside(self) -> None:
        found = renaming("Port", "Sea lock")
        self.assertEqual(
            found.apply('port_x port-x PortX "Port" PORT'), 'sea_lock_x sea-lock-x SeaLockX "Sea lock" SEA_LOCK'
        )

    def test_there_and_back_is_the_same(self) -> None:
        text = "class BerthRegisterConfig: name = 'berth_register'  # Berth register, BERTH_REGISTER, berth-registers\n"
        there = renaming("Berth register", "Mooring list").apply(text)
        self.assertNotIn("erth", there)
        self.assertEqual(renaming("Mooring list", "Berth register").apply(there), text)


class Occurrences(unittest.TestCase):
    def found(self, text: str, inside: bool = False, path: str = "harbour/views.py", **more: Any) -> list[Occurrence]:
        port = Renaming(NameFamily("Port", ("port",)), name_family("Sea lock"))
        return occurrences(path, text, port, inside, **more)

    def sure(self, text: str, inside: bool = False, **more: Any) -> str:
        return taken(text, [one for one in self.found(text, inside, **more) if not one.doubtful])

    def test_one_word_is_sure_only_where_a_name_stands(self) -> None:
        for before, after in (
            ("from port.models import Ship\n", "from sea_lock.models import Ship\n"),
            ("import port\nx = port.models\n", "import sea_lock\nx = sea_lock.models\n"),
            ("reverse('port:list')\n", "reverse('sea_lock:list')\n"),
            ('"port/list.html"\n', '"sea_lock/list.html"\n'),
            ("to='port.Ship'\n", "to='sea_lock.Ship'\n"),
        ):
            with self.subTest(before):
                self.assertEqual(self.sure(before), after)
        for text in (
            "port = 8000\n",
            "the port is open\n",
            "{'port': 1}\n",
            "from town import port_list\n",
            "self.port.x\n",
        ):
            with self.subTest(text):
                self.assertEqual(self.sure(text), text)

    def test_lines_that_register_and_patterns_of_the_kit_are_sure(self) -> None:
        self.assertEqual(
            self.sure('APPS = [\n    "port",\n]\n', registers=frozenset({2})), 'APPS = [\n    "sea_lock",\n]\n'
        )
        pattern = re.compile(r"perms\.port\.")
        self.assertEqual(self.sure("{% if perms.port.add %}", means_module=pattern), "{% if perms.sea_lock.add %}")

    def test_a_place_tells_its_line_and_what_it_is(self) -> None:
        here = self.found("\n\nfrom port import x\n")
        self.assertEqual([(one.line, one.kind, one.before) for one in here], [(3, "import", "port")])
        self.assertEqual([one.kind for one in self.found("port/", path="a/list.html")], ["template"])

    def test_paths_are_renamed_part_by_part(self) -> None:
        several = renaming("Berth register", "Mooring list")
        self.assertEqual(
            in_path("berth_register/templates/berth_register/berth_register_list.html", several),
            "mooring_list/templates/mooring_list/mooring_list_list.html",
        )
        self.assertEqual(in_path("port/port.py", renaming("Port", "Quay")), "quay/quay.py")
        self.assertEqual(in_path("airport/port_list.py", renaming("Port", "Quay")), "airport/port_list.py")


class KeptBeside(unittest.TestCase):
    def test_the_longest_identifier_counts_and_others_stay(self) -> None:
        changed = Identifiers({"tide_board": "water_level", "tide_board_v": "water_v"}, ("tide_board_archive",))
        self.assertEqual(changed.renamed("bq_tide_board_tide"), "bq_water_level_tide")
        self.assertEqual(changed.renamed("tide_board_v"), "water_v")
        self.assertEqual(changed.renamed("atide_board"), "atide_board")
        self.assertEqual(changed.renamed("tide_board_archive_row"), "tide_board_archive_row")
        self.assertEqual(changed.back.renamed("water_level/water_level.php"), "tide_board/tide_board.php")

    def test_a_word_that_may_be_common_is_no_part_of_a_longer_one(self) -> None:
        longer = Identifiers({"tide_board": "quay_tide_board", "group_tide_board": "group_quay_tide_board"})
        self.assertEqual(longer.renamed("group_tide_board, tide_board"), "group_quay_tide_board, quay_tide_board")
        changed = Identifiers({"ferries": "boats", "ferries_": "boats_"}, (), whole=True)
        self.assertEqual(changed.renamed("ferries.sailing,3"), "boats.sailing,3")
        self.assertEqual(changed.renamed("my-ferries"), "my-ferries")
        self.assertEqual(Identifiers({"ferries": "boats"}, (), True).renamed("ferries_row"), "ferries_row")
        self.assertEqual(changed.renamed("ferries_row"), "boats_row")


if __name__ == "__main__":
    unittest.main()
