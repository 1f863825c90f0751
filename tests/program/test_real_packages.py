"""Packaged modules that nobody here wrote, on a Wagtail site and in a shop: every finding on them was looked at."""

import shutil
from pathlib import Path

from trials.recipes import HOSTS

from ..support import DemoCase

#  of a module that is only copied into a site these hold for each
BESIDE = ("registered.not-listed", "routed.not-included", "compatible.package-absent")


class Packages(DemoCase):
    """Copies packages into the site as modules of its own."""

    folder_of_packages = ""
    #  what is wrong with them on this host; each was looked at in its source
    found: frozenset[tuple[str, str]] = frozenset()

    def setUp(self) -> None:
        super().setUp()
        source = HOSTS / self.folder_of_packages / "packages"
        if not source.is_dir():
            raise RuntimeError(f"the packages are missing ({source}): run the tests with `make test`")
        self.names = []
        for path in sorted(source.iterdir()):
            if (path / "__init__.py").is_file() and path.name not in ("tests", "sandbox", "test"):
                shutil.copytree(path, self.site / path.name, ignore=shutil.ignore_patterns("__pycache__"))
                self.names.append(path.name)

    def findings(self, *modules: str, static: bool) -> set[tuple[str, str]]:
        words = ["check", *modules, *(["--static"] if static else []), "--format", "json"]
        ran = self.sprout(*words)
        self.assertNotIn("Traceback", ran.err)
        self.assertIn(ran.status, (0, 1), ran.err)
        return {
            (module["module"].partition(".")[0], finding["code"])
            for module in ran.json["setups"][0]["modules"]
            for finding in module["findings"]
            if not finding["follows_from"] and finding["severity"] != "note" and finding["code"] not in BESIDE
        }

    def switch_on(self, names: tuple[str, ...]) -> None:
        """List modules in one go, as somebody would who has read what they ask for."""
        settings: Path = self.site / "brindle_quay/settings.py"
        entries = "".join(f'    "{name}",\n' for name in names)
        settings.write_text(settings.read_text().replace('    "ferries",', entries + '    "ferries",'))
        self.assertEqual(self.manage("migrate", "--no-input", "-v", "0").returncode, 0)


class OnWagtail(Packages):
    kit = "wagtail"
    folder_of_packages = "wagtail-8.0-packages"
    found = frozenset(
        {
            ("wagtail_localize", "placed.library-off"),  # its part for another package loads that one's tags
            ("wagtail_localize", "served.block-unknown"),  # its report, edit page and header are made for older layouts
            ("wagtail_tag_manager", "served.block-unknown"),  # its report as well
            ("wagtail_trash", "placed.library-off"),  # it is made for hosts that have another package
        }
    )
    live = (
        "generic_chooser",
        "wagtail_color_panel",
        "wagtail_content_import",
        "wagtail_editable_help",
        "wagtail_footnotes",
        "wagtail_headless_preview",
        "wagtail_modeladmin",
        "wagtailautocomplete",
        "wagtailcodeblock",
        "wagtailmath",
        "wagtailmedia",
        "wagtailmetadata",
    )

    def test_files_alone_raise_no_false_alarm(self):
        self.assertGreaterEqual(len(self.names), 28)
        self.assertEqual({one for one in self.findings(static=True) if one[0] in self.names}, self.found)

    def test_those_that_fit_run_without_a_finding(self):
        self.switch_on(self.live)
        self.assertEqual(self.findings(*self.live, static=False), set())


class InTheShop(Packages):
    kit = "oscar"
    folder_of_packages = "oscar-4.2-packages"
    #  they import what Django 2 to 4 have taken away
    found = frozenset(
        (name, "enabled.import-absent")
        for name in ("eway", "oscar_docdata", "oscar_invoices", "oscar_promotions", "paypal", "worldpay")
    ) | {
        ("eway", "enabled.field-lacks"),  # its relations are written as Django 1 took them
        ("oscar_accounts", "served.attribute-absent"),  # it asks its core for an account that is not there
    }
    live = ("oscar_accounts.apps.AccountsConfig", "oscarapicheckout")

    def test_files_alone_raise_no_false_alarm(self):
        self.assertGreaterEqual(len(self.names), 13)
        self.assertEqual({one for one in self.findings(static=True) if one[0] in self.names}, self.found)

    def test_those_that_fit_run_without_a_false_alarm(self):
        self.switch_on(self.live)
        drift = {("oscar_accounts", "installed.drift")}  # its migrations are of a host with other keys
        drift |= {one for one in self.found if one[0] == "oscar_accounts"}
        self.assertEqual(self.findings("oscar_accounts", "oscarapicheckout", static=False), drift)


del Packages  # its cases stand above
