"""One kit on two minor versions of its host: what it makes is served on both, and what differs is known as data."""

import shutil
import unittest
from pathlib import Path

from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.hosts.contract.kit import HostOptions
from swift_sprout.hosts.registry import kit_named
from trials.places import RUNTIMES
from trials.recipes import HOSTS, python_for, recipes

from ..support import Case, Ran, brief_of, sprout, world_of

OLDER = {
    "wagtail": HOSTS / "wagtail-7.4/bin/python",
    "oscar": HOSTS / "oscar-4.1/bin/python",
}
BRIEFS = {"wagtail": "tide_pages", "oscar": "chandlery_offers"}
#  further versions that people run today
OTHERS = (("django", "django-6.0"), ("django", "django-6.1"), ("flask", "flask-3.0"))


class Older(Case):
    """What is made for the newest version that a kit knows, on the oldest that its tests run."""

    def build(self, kit: str) -> Path:
        python = OLDER[kit]
        if not python.exists():
            raise RuntimeError(f"the older {kit} host is missing ({python}): run the tests with `make test`")
        site = self.folder / kit
        site.mkdir()
        kit_named(kit).build_demo(site, HostOptions(str(python)))
        return site

    def on(self, site: Path, kit: str, *words: str | Path) -> Ran:
        return sprout(*words, "--host", site, "--runtime", OLDER[kit])

    def test_a_module_is_made_enabled_checked_and_taken_out(self):
        for kit, brief in BRIEFS.items():
            with self.subTest(kit):
                site = self.build(kit)
                told = self.assert_ok(self.on(site, kit, "survey", "--format", "json")).json
                series = kit_named(kit).data.checked[0]
                self.assertEqual(told["host"]["version"][: len(series)], series)
                self.assertNotIn("outside the checked range", str(told))
                self.assert_ok(self.on(site, kit, "new", "--brief", brief_of(kit, brief), "-q"))
                self.assert_ok(self.on(site, kit, "enable", brief, "-q"))
                checked = self.assert_ok(self.on(site, kit, "check", "--format", "json"))
                self.assertEqual(checked.json["summary"]["findings"], 0, checked.out)
                module = next(one for one in checked.json["setups"][0]["modules"] if one["module"] == brief)
                self.assertEqual({step["state"] for step in module["ladder"]}, {"pass"})
                self.assert_ok(self.on(site, kit, "disable", brief, "-q"))

    def test_every_version_that_people_run_serves_what_is_made(self):
        for kit, name in OTHERS:
            with self.subTest(name):
                recipe = next(one for one in recipes() if one.name == name)
                if not recipe.runtime.exists():
                    if python_for(recipe) is not None:
                        raise RuntimeError(f"{name} is missing: run the tests with `make test`")
                    self.skipTest(f"{name} needs a newer Python than those that are here")
                site = self.folder / name
                site.mkdir()
                kit_named(kit).build_demo(site, HostOptions(str(recipe.runtime)))
                on = ("--host", site, "--runtime", recipe.runtime)
                self.assertNotIn("outside the checked range", self.assert_ok(sprout("survey", *on)).out)
                self.assert_ok(sprout("new", "--brief", brief_of(kit, "tide_board"), "-q", *on))
                self.assert_ok(sprout("enable", "tide_board", "-q", *on))
                checked = self.assert_ok(sprout("check", "--format", "json", *on))
                self.assertEqual(checked.json["summary"]["findings"], 0, checked.out)
                module = next(one for one in checked.json["setups"][0]["modules"] if one["module"] == "tide_board")
                self.assertEqual(module["ladder"][-1]["state"], "pass")
                self.assert_ok(sprout("disable", "tide_board", "-q", *on))

    def test_a_hook_that_only_the_newer_version_calls(self):
        text = "from wagtail import hooks\n\n\n@hooks.register('register_actions')\ndef actions():\n    return []\n"
        for python, wanted in ((OLDER["wagtail"], ["registered.hook-unknown"]), (RUNTIMES["wagtail"], [])):
            with self.subTest(python):
                site = self.folder / "site"
                shutil.rmtree(site, ignore_errors=True)
                shutil.copytree(world_of("django"), site)
                shutil.copytree(world_of("wagtail"), site, dirs_exist_ok=True)
                (site / "home/wagtail_hooks.py").write_text(text)
                host = open_host(HostChoice(str(site), "wagtail", str(python))).host
                found = host.check(["home"], live=False).modules[0].findings
                self.assertEqual([one.code for one in found], wanted)

    def test_a_version_outside_of_the_range_is_told(self):
        for kit in OLDER:
            with self.subTest(kit):
                data = kit_named(kit).data
                self.assertIn("outside the checked range", data.unsure_about("3.0")[0])
                self.assertEqual([data.unsure_about(f"{series}.1") for series in data.checked], [[], []])


if __name__ == "__main__":
    unittest.main()
