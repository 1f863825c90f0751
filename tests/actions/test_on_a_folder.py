"""What commands do, called as functions on a host that is nothing but a folder."""

import json

from swift_sprout.actions.adopting import adopt
from swift_sprout.actions.checking import check, exit_status, why_not_well
from swift_sprout.actions.extending import add
from swift_sprout.actions.making import Wanted, make, make_all, plan
from swift_sprout.actions.mending import mend
from swift_sprout.actions.refreshing import refresh
from swift_sprout.actions.removing import remove
from swift_sprout.actions.sandboxing import check_with_sandbox
from swift_sprout.actions.showing import table
from swift_sprout.actions.switching import disable, enable
from swift_sprout.actions.undoing import undo
from swift_sprout.core.errors import HostFailed, Refused, WrongUse

from ..support import tree_of
from .folderhost import LedgerCase

TIDES = Wanted(
    name="Tide board", pages=("/tides: Tides today",), records=("Tide: station text(20), high decimal(4,1)",)
)


class Making(LedgerCase):
    def test_a_module_is_made_as_its_plan_says(self):
        before = tree_of(self.root)
        planned = plan(self.opened, TIDES)
        self.assertEqual(tree_of(self.root), before)
        made = make(self.opened, TIDES)
        self.assertEqual(
            [change.path for change in made.changes.changes], [change.path for change in planned.changes.changes]
        )
        self.assertEqual(made.module, "tide_board")
        self.assertEqual(self.text("sheets/tide_board/sheet.txt"), "/tides Tides today\nend\n")
        self.assertEqual(json.loads(self.text("sheets/tide_board/columns.json")), {"tide": "2"})
        self.assertIn("enable tide_board", made.next_steps[0])

    def test_what_cannot_be_made_is_refused_and_nothing_is_written(self):
        before = tree_of(self.root)
        for wanted, code in (
            (TIDES._replace(name="Index"), "name-taken"),
            (TIDES._replace(place="nowhere"), "place-unknown"),
            (TIDES._replace(pages=("/tides: Tides, shows Nothing",)), ""),
            (TIDES._replace(name=""), ""),
        ):
            with self.subTest(wanted), self.assertRaises((WrongUse, Refused)) as caught:
                make(self.opened, wanted)
            self.assertIn(code, caught.exception.code)
        self.assertEqual(tree_of(self.root), before)
        make(self.opened, TIDES)
        with self.assertRaises(Refused):
            make(self.opened, TIDES)

    def test_several_are_made_together_or_none(self):
        briefs = []
        for name in ("Tides", "Berths"):
            briefs.append(
                str(
                    self.write(
                        f"{name}.toml",
                        f'[module]\nname = "{name}"\n[[page]]\npath = "/{name.lower()}"\ntitle = "{name}"\n',
                    )
                )
            )
        bad = str(self.write("bad.toml", '[module]\nname = "Bad"\n[[menu]]\ntitle = "Bad"\n'))
        with self.assertRaises(WrongUse):
            make_all(self.opened, Wanted(briefs=(*briefs, bad)), preview=False)
        self.assertEqual(self.host.modules(), [])
        made = make_all(self.opened, Wanted(briefs=tuple(briefs)), preview=False)
        self.assertEqual(sorted(one.module for one in made), ["berths", "tides"])
        undo(self.opened, preview=False)
        self.assertEqual(self.host.modules(), [])


class Changing(LedgerCase):
    def setUp(self) -> None:
        super().setUp()
        make(self.opened, TIDES)

    def test_a_part_is_added_to_files_that_somebody_edited(self):
        sheet = self.root / "sheets/tide_board/sheet.txt"
        sheet.write_text("# by hand\n" + sheet.read_text())
        added = add(self.opened, "page", "/ebb: Ebb", "tide_board", preview=False)
        self.assertEqual(added.module, "tide_board")
        self.assertEqual(sheet.read_text(), "# by hand\n/tides Tides today\n/ebb Ebb\nend\n")
        self.assertIn('path = "/ebb"', self.text("sheets/tide_board/sprout.toml"))
        self.assertTrue(add(self.opened, "page", "/ebb: Ebb", "tide_board", preview=False).already)
        with self.assertRaises(WrongUse) as caught:
            add(self.opened, "menu", "Tides", "tide_board", preview=False)
        self.assertIn("The nearest is a page.", caught.exception.remedy)
        undo(self.opened, preview=False)
        self.assertEqual(sheet.read_text(), "# by hand\n/tides Tides today\nend\n")

    def test_json_is_carried_by_its_syntax(self):
        columns = self.root / "sheets/tide_board/columns.json"
        columns.write_text('{\n  "mine": "1",\n  "tide": "2"\n}\n')
        add(self.opened, "record", "Buoy: name text(9)", "tide_board", preview=False)
        self.assertEqual(json.loads(columns.read_text()), {"mine": "1", "tide": "2", "buoy": "1"})

    def test_a_changed_brief_reaches_the_files(self):
        brief = self.root / "sheets/tide_board/sprout.toml"
        brief.write_text(brief.read_text().replace("Tides today", "Tides this week"))
        self.assertIn(
            "sheet.txt",
            " ".join(change.path for change in refresh(self.opened, "tide_board", preview=True).changes.changes),
        )
        self.assertIn("Tides today", self.text("sheets/tide_board/sheet.txt"))
        refresh(self.opened, "tide_board", preview=False)
        self.assertIn("Tides this week", self.text("sheets/tide_board/sheet.txt"))
        self.assertFalse(refresh(self.opened, "tide_board", preview=False).changes)

    def test_where_both_changed_a_line_the_conflict_is_told(self):
        brief, sheet = self.root / "sheets/tide_board/sprout.toml", self.root / "sheets/tide_board/sheet.txt"
        brief.write_text(brief.read_text().replace("Tides today", "Tides this week"))
        sheet.write_text(sheet.read_text().replace("Tides today", "Tides by hand"))
        done = refresh(self.opened, "tide_board", preview=False)
        self.assertEqual(done.conflicts, ["sheets/tide_board/sheet.txt:1"])
        with self.assertRaises(Refused):
            refresh(self.opened, "tide_board", preview=False)  # while the marks stand there

    def test_it_is_enabled_disabled_and_removed(self):
        self.assertEqual(enable(self.opened, "Tide board".replace(" ", "_"), None, preview=True).module, "tide_board")
        self.assertEqual(self.listed(), [])
        enable(self.opened, "tide_board", None, preview=False)
        self.assertEqual((self.listed(), json.loads(self.text("kept.json"))), (["tide_board"], ["tide_board"]))
        self.assertTrue(enable(self.opened, "tide_board", None, preview=False).already)
        disable(self.opened, "tide_board", preview=False)
        self.assertEqual((self.listed(), json.loads(self.text("kept.json"))), ([], []))
        enable(self.opened, "tide_board", None, preview=False)
        remove(self.opened, "tide_board", "keep", preview=False)
        self.assertEqual((self.listed(), self.host.modules()), ([], []))
        undo(self.opened, preview=False)
        self.assertEqual([one.name for one in self.host.modules()], ["tide_board"])

    def test_what_the_host_refuses_leaves_its_files_as_they_were(self):
        self.write("ledger/sheets/tide_board/refuses", "")
        before = tree_of(self.root)
        with self.assertRaises(HostFailed):
            enable(self.opened, "tide_board", None, preview=False)
        self.assertEqual(tree_of(self.root), before)

    def test_undo_takes_back_one_command_after_the_other_and_keeps_what_was_written_since(self):
        add(self.opened, "page", "/ebb: Ebb", "tide_board", preview=False)
        self.write("ledger/sheets/tide_board/sheet.txt", "by hand\n")
        with self.assertRaises(Refused) as caught:
            undo(self.opened, preview=False)
        self.assertIn("sheet.txt", caught.exception.sentence + str(caught.exception.problems))
        self.assertEqual(self.text("sheets/tide_board/sheet.txt"), "by hand\n")


class Asking(LedgerCase):
    def setUp(self) -> None:
        super().setUp()
        make(self.opened, TIDES)

    def test_a_check_tells_the_cause_and_the_status(self):
        result = check(self.opened, [], static=True)
        self.assertEqual([finding.code for finding in result.findings], ["registered.not-listed"])
        self.assertEqual((exit_status(result), why_not_well(result)), (1, "1 finding"))
        enable(self.opened, "tide_board", None, preview=False)
        self.assertEqual(exit_status(check(self.opened, ["tide_board"], static=True)), 0)
        with self.assertRaises(WrongUse) as caught:
            check(self.opened, ["tide_bord"], static=True)
        self.assertIn("tide_board", caught.exception.remedy)

    def test_what_is_mended_is_gone(self):
        self.assertEqual(self.listed(), [])
        left = mend(self.opened, [], static=True, preview=False).left
        self.assertEqual(self.listed(), [])
        self.assertIn("tide_board may be off on purpose", left[0])
        done = mend(self.opened, ["tide_board"], static=True, preview=False)
        self.assertEqual(self.listed(), ["tide_board"])
        assert done.after is not None
        self.assertEqual(exit_status(done.after), 0)

    def test_a_mend_that_does_not_help_is_taken_back_and_others_go_on(self):
        self.write("ledger/ledger.json", '["smudged", "spotted", "tide_board"]')
        self.write("ledger/sheets/smudged/sheet.txt", "a blot and a blot\n")
        self.write("ledger/sheets/spotted/sheet.txt", "a blot\n")
        done = mend(self.opened, [], static=True, preview=False)
        self.assertEqual(self.text("sheets/smudged/sheet.txt"), "a blot and a blot\n")
        self.assertEqual(self.text("sheets/spotted/sheet.txt"), "a \n")
        self.assertEqual((done.codes, len(done.left)), (["found.blot"], 1))
        self.assertIn("sheets/smudged/sheet.txt:1 was taken back, for then it is still so", done.left[0])
        self.assertEqual([change.path for change in done.changes.changes], ["sheets/spotted/sheet.txt"])

    def test_what_one_run_mended_is_one_undo(self):
        self.write("ledger/ledger.json", '["smudged", "spotted", "tide_board"]')
        self.write("ledger/sheets/smudged/sheet.txt", "a blot\n")
        self.write("ledger/sheets/spotted/sheet.txt", "a blot\n")
        self.assertEqual(len(mend(self.opened, [], static=True, preview=False).codes), 2)
        done = undo(self.opened, preview=False)
        self.assertEqual(len(done.changes.changes), 2)
        self.assertEqual(self.text("sheets/smudged/sheet.txt"), "a blot\n")
        self.assertEqual(self.text("sheets/spotted/sheet.txt"), "a blot\n")

    def test_undo_does_not_reach_past_steps_that_nothing_takes_back(self):
        enable(self.opened, "tide_board", None, preview=False)
        self.write("ledger/sheets/tide_board/sheet.txt", "/tides Tides today\nunsettled\nend\n")
        done = mend(self.opened, [], static=True, preview=False)
        self.assertEqual((done.codes, len(done.steps)), (["installed.unsettled"], 1))
        for preview in (True, False):
            with self.subTest(preview=preview), self.assertRaises(Refused) as caught:
                undo(self.opened, preview=preview)
            self.assertEqual(caught.exception.code, "undo-lasting")
        self.assertEqual(self.listed(), ["tide_board"])
        undo(self.opened, preview=False, pass_over=True)
        self.assertEqual(self.listed(), [])

    def test_a_mend_that_harms_another_module_is_taken_back(self):
        self.write("ledger/ledger.json", '["leaning", "spotted", "tide_board"]')
        self.write("ledger/sheets/leaning/sheet.txt", "leans\n")
        self.write("ledger/sheets/spotted/sheet.txt", "a blot\n")
        done = mend(self.opened, ["spotted"], static=True, preview=False)
        self.assertEqual((done.codes, self.text("sheets/spotted/sheet.txt")), ([], "a blot\n"))
        self.assertIn("leaning has placed.leaning", done.left[0])
        assert done.after is not None
        self.assertEqual([module.module for module in done.after.setups[0].modules], ["spotted"])

    def test_a_sandbox_leaves_the_host_as_it_is(self):
        before = tree_of(self.root)
        result = check_with_sandbox(self.opened, [], False)
        self.assertEqual([len(setup.modules[0].findings) for setup in result.setups], [1, 0])
        self.assertEqual(tree_of(self.root), before)

    def test_a_module_by_hand_is_adopted(self):
        self.write("ledger/sheets/by_hand/sheet.txt", "/x X\n")
        done = adopt(self.opened, "by_hand", preview=False)
        self.assertIn("sprout.toml", " ".join(change.path for change in done.changes.changes))
        self.assertIn('internal = "by_hand"', self.text("sheets/by_hand/sprout.toml"))

    def test_files_and_names_are_shown(self):
        files = {row[0] for row in table(self.opened, "files", "tide_board", live=False).rows}
        self.assertIn("sheet.txt", files)
        names = table(self.opened, "names", "tide_board", live=False).rows
        self.assertTrue(any("tide_board" in row for row in names))
