"""Pages that nobody links, parts that nothing registers, modules that stop the site: on a host by hand with a mapper."""

import shutil
import sqlite3
from pathlib import Path

from trials.field import HERE, styles

from ...support import Case, Ran, sprout

STYLE = next(one for one in styles() if one.name == "sluice")


class OnAHostByHand(Case):
    def setUp(self) -> None:
        super().setUp()
        self.site = self.folder / "site"
        shutil.copytree(HERE / "sluice/host", self.site)

    def change(self, path: str, old: str, new: str) -> None:
        file = self.site / "lockkeeper" / path
        text = file.read_text("utf-8")
        self.assertIn(old, text)
        file.write_text(text.replace(old, new, 1), "utf-8")

    def check(self, status: int = 0) -> Ran:
        return self.assert_ok(sprout("check", "--format", "json", *STYLE.options, "--host", self.site), status)

    def told(self, ran: Ran) -> list[tuple[str, str]]:
        """Return code and file of each finding that follows from no other."""
        setup = ran.json["setups"][0]
        every = [*setup["findings"], *(one for module in setup["modules"] for one in module["findings"])]
        return [(one["code"], one["file"]) for one in every if not one["follows_from"]]

    def test_pages_by_a_record_and_by_one_that_it_belongs_to_are_opened(self) -> None:
        pages = {page for module in self.check().json["setups"][0]["modules"] for page in module["addresses"]}
        self.assertLessEqual(
            {"/locks/quay-lock", "/locks/quay-lock/passages/1", "/crews/1", "/api/locks/quay-lock"}, pages
        )

    def test_nothing_of_what_is_tried_stays(self) -> None:
        self.check()
        database = self.site / "instance/locks.sqlite"
        kept: list[tuple[int]] = []
        if database.exists() and database.stat().st_size:
            with sqlite3.connect(database) as connection:
                kept = connection.execute("select count(*) from passage where vessel != 'Grey Heron'").fetchall()
        self.assertIn(kept, ([], [(0,)]))

    def test_a_package_that_stops_the_site_leaves_the_others_asked(self) -> None:
        self.change("locks/forms.py", "Optional()", "Optionals()")
        ran = self.check(1)
        self.assertEqual(self.told(ran), [("enabled.name-undefined", "lockkeeper/locks/forms.py")])
        self.assertEqual(ran.json["setups"][0]["failure"], "")
        served = {one["module"] for one in ran.json["setups"][0]["modules"] if one["addresses"]}
        self.assertIn("lockkeeper.api", served)  # the navigation links what was left out

    def test_what_breaks_on_every_page_is_told_once(self) -> None:
        self.change("__init__.py", 'return {"navigation"', '{"navigation"')
        self.assertEqual(self.told(self.check(1)), [("served.host-page", "lockkeeper/__init__.py")])

    def test_an_error_that_is_handled_is_no_fault_and_one_of_its_handler_is(self) -> None:
        self.assertEqual(self.told(self.check()), [])
        self.change("errors.py", "def not_keeper(error)", "def not_keeper()")
        ran = self.check(1)
        (finding,) = [one for module in ran.json["setups"][0]["modules"] for one in module["findings"]]
        self.assertIn("not_keeper() takes 0 positional arguments", finding["cause"])

    def test_the_page_on_absent_pages_is_asked_for(self) -> None:
        self.change("errors.py", '"not_found.html"', '"notfound.html"')
        self.assertEqual(self.told(self.check(1)), [("served.host-page", "lockkeeper/errors.py")])

    def test_a_blueprint_is_left_out_only_where_nothing_registers_it(self) -> None:
        line = 'bp.register_blueprint(locks_bp, url_prefix="/locks")\n'
        version = '\n\n@bp.get("/version")\ndef version():\n    return {"version": 1}\n'
        self.change(
            "api/__init__.py", line, f"import os  # noqa: E402\n\nif os.environ.get('WITH_LOCKS'):\n    {line}{version}"
        )
        self.assertEqual(self.told(self.check()), [])
        self.change("api/__init__.py", f"    {line}", "    pass\n")
        self.assertEqual(self.told(self.check(1)), [("registered.blueprint-left-out", "lockkeeper/api/locks.py")])

    def test_validators_of_fields_that_a_subclass_brings_are_right(self) -> None:
        forms = self.site / "lockkeeper/locks/forms.py"
        shared = '\n\nclass Named(FlaskForm):\n    vessels = StringField("All")\n\n    def validate_vessel(self, field):\n        pass\n'
        text = forms.read_text("utf-8").replace("class PassageForm(FlaskForm):", "class PassageForm(Named):")
        head, tail = text.split("\n\n\nclass PassageForm", 1)
        forms.write_text(f"{head}{shared}\n\nclass PassageForm{tail}", "utf-8")
        self.assertEqual(self.told(self.check()), [])

    def test_the_host_is_left_as_it_was(self) -> None:
        def files() -> dict[Path, bytes]:
            paths = (path for path in self.site.rglob("*") if path.is_file() and "__pycache__" not in path.parts)
            return {path: path.read_bytes() for path in paths if "instance" not in path.parts}

        before = files()
        self.check()
        self.assertEqual(files(), before)
