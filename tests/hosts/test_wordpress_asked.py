"""What the site and its administration told, put together: every rule for a module reads it from there."""

import unittest
from typing import Any

from swift_sprout.hosts.kits.wordpress.asking import AskedHost, Boot

FERRIES = "/site/wp-content/plugins/ferries/ferries.php"
TIDES = "/site/wp-content/plugins/tides/tides.php"


def hook(name: str, file: str) -> dict[str, Any]:
    return {"hook": name, "file": file, "name": "f", "callable": True, "wants": 1, "given": 1, "line": 3}


def told(**answers: Any) -> Boot:
    return Boot({"booted": True, **answers}, {}, None, "")


class Asked(unittest.TestCase):
    def test_of_the_site_alone_it_is_what_the_site_told(self) -> None:
        site = told(hooks=[hook("init", FERRIES)])
        self.assertIs(AskedHost(site, {}).answers, site.answers)
        self.assertEqual(AskedHost(site, {}).boots, [site])

    def test_of_both_it_is_everything_that_either_knows(self) -> None:
        site = told(
            hooks=[hook("init", FERRIES)],
            names={"handles": ["tides", "berths"]},
            made={"register_setting": [{"option": "ferries"}]},
            rules={"names": ["berth"]},
        )
        there = told(
            hooks=[hook("admin_menu", TIDES), hook("admin_init", FERRIES)],
            names={"handles": ["tides", "screen"], "types": ["berth"]},
            made={"register_setting": [{"option": "tides"}]},
            menu=[{"slug": "tides"}],
        )
        asked = AskedHost(site, {}, there)
        self.assertEqual(asked.answers["names"], {"handles": ["berths", "screen", "tides"], "types": ["berth"]})
        self.assertEqual(asked.answers["made"], {"register_setting": [{"option": "ferries"}, {"option": "tides"}]})
        self.assertEqual((asked.answers["rules"], asked.answers["menu"]), ({"names": ["berth"]}, [{"slug": "tides"}]))
        self.assertEqual(asked.hooked, {"init", "admin_menu", "admin_init"})
        self.assertEqual([one["hook"] for one in asked.hooks_by_file[FERRIES]], ["init", "admin_init"])
        self.assertEqual([one["hook"] for one in asked.hooks_by_file[TIDES]], ["admin_menu"])
        #  what each of both told stays what it was
        self.assertEqual(site.answers["names"], {"handles": ["tides", "berths"]})
        self.assertEqual(len(site.answers["hooks"]), 1)

    def test_rights_are_given_by_code_of_a_module_and_not_by_the_hosts_own(self) -> None:
        for file, gives in (("", False), (TIDES, True)):
            with self.subTest(file):
                self.assertEqual(AskedHost(told(hooks=[hook("user_has_cap", file)]), {}).gives_rights, gives)

    def test_the_rights_of_all_roles_are_known(self) -> None:
        roles = {"editor": {"holds": ["edit_pages"]}, "clerk": {"holds": ["read_berths", "edit_pages"]}}
        self.assertEqual(AskedHost(told(roles=roles), {}).rights, {"edit_pages", "read_berths"})

    def test_what_was_not_told_is_empty(self) -> None:
        asked = AskedHost(told(), {}, told())
        self.assertEqual((asked.answers["hooks"], asked.answers["names"], asked.answers["made"]), ([], {}, {}))
        self.assertEqual((asked.hooked, asked.rights, asked.gives_rights), (frozenset(), frozenset(), False))
