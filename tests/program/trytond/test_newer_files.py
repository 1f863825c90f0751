"""Files that are newer than the database: a check judges what they say, on a copy, and tells what an update is due for."""

from ...support import PlatformCase, Ran

DATA = "modules/ferries/sailing.xml"
WINDOW = '<field name="res_model">ferries.sailing</field>'
ENTRY = 'action="act_sailing" sequence="10"'


class NewerFiles(PlatformCase):
    def change_data(self, old: str, new: str) -> None:
        path = self.site / DATA
        text = path.read_text("utf-8")
        self.assertIn(old, text)
        path.write_text(text.replace(old, new, 1), "utf-8")

    def check(self, status: int = 0) -> Ran:
        return self.assert_ok(self.sprout("check", "ferries", "--format", "json"), status)

    def told(self, ran: Ran) -> list[tuple[str, str]]:
        (module,) = ran.json["setups"][0]["modules"]
        return [(one["code"], one["severity"]) for one in module["findings"] if not one["follows_from"]]

    def database(self) -> bytes:
        return (self.site / "data/brindle_quay.sqlite").read_bytes()

    def test_a_changed_record_is_a_note_until_it_is_settled(self) -> None:
        self.assertEqual(self.told(self.check()), [])
        self.change_data(ENTRY, ENTRY.replace("10", "15"))
        before = self.database()
        changed = self.check()
        self.assertEqual(self.told(changed), [("served.stale-data", "note")])
        (module,) = changed.json["setups"][0]["modules"]
        line = (self.site / DATA).read_text("utf-8").partition(ENTRY.replace("10", "15"))[0].count("\n") + 1
        self.assertEqual((module["findings"][0]["file"], module["findings"][0]["line"]), (DATA, line))
        self.assertEqual(self.database(), before)
        self.assert_ok(self.sprout("settle", "ferries"))
        self.assertEqual(self.told(self.check()), [])

    def test_code_that_is_newer_brings_no_note(self) -> None:
        with (self.site / "modules/ferries/sailing.py").open("a") as handle:
            handle.write("\n\nTOWN = 'Brindle Quay'\n")
        self.assertEqual(self.told(self.check()), [])

    def test_what_would_break_is_told_before_the_database_has_it(self) -> None:
        self.change_data(WINDOW, WINDOW + '\n<field name="domain" eval="[(\'nowhere\', \'=\', 1)]" pyson="1"/>')
        before = self.database()
        self.assertIn(("placed.window-breaks", "error"), self.told(self.check(1)))
        self.assertEqual(self.database(), before)

    def test_an_update_that_fails_leaves_the_rest_asked(self) -> None:
        self.change_data(WINDOW, WINDOW.replace("sailing", "sailings"))
        ran = self.check(1)
        self.assertEqual(ran.json["setups"][0]["failure"], "")
        codes = [code for code, _ in self.told(ran)]
        self.assertEqual(len(codes), 1, codes)
        self.assertIn(codes[0], ("installed.model-named", "installed.update-fails"))
        states = {step["rung"]: step["state"] for step in ran.json["setups"][0]["modules"][0]["ladder"]}
        self.assertEqual(states["served"], "pass")
