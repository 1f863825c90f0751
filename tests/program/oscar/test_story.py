"""A module that sells on a real shop: made, switched on, sold, offered, guarded, extended, and taken out again."""

import json
import re
import signal
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from http.cookiejar import CookieJar
from urllib.error import HTTPError
from urllib.request import HTTPCookieProcessor, build_opener

from ...support import BRIEFS, DemoCase, Ran, brief_of, can_be_interrupted, tree_of

BRIEF = brief_of("oscar", "chandlery_offers")
AT_ONCE = """
from .settings import *


class AtOnce:
    def __contains__(self, label):
        return True

    def __getitem__(self, label):
        return None


MIGRATION_MODULES = AtOnce()
"""


class ShopCase(DemoCase):
    kit = "oscar"

    def finding(self, ran: Ran, code: str) -> dict[str, object]:
        for module in ran.json["setups"][0]["modules"]:
            for one in module["findings"]:
                if one["code"] == code:
                    return dict(one)
        raise AssertionError(f"{code} is not among the findings: {ran.out}")


class FromNothing(ShopCase):
    def test_a_module_is_made_sold_offered_and_taken_out_again(self):
        before = tree_of(self.site)
        self.assert_ok(self.sprout("new", "--brief", BRIEF, "-q"))
        off = self.assert_ok(self.sprout("check", "chandlery_offers", "--format", "json"), 1)
        self.assertEqual(self.ladder(off, "chandlery_offers")["registered"], "fail")
        told = self.assert_ok(self.sprout("enable", "chandlery_offers"))
        self.assertIn("settle_chandlery_offers_shop: 7 rows were made.", told.out)
        self.assertIn("migrate address: address.0101_useraddress_berth", told.out)
        urls = (self.site / "brindle_quay/urls.py").read_text()
        self.assertIn('path("", apps.get_app_config("chandlery_offers").urls),', urls)
        settings = (self.site / "brindle_quay/settings.py").read_text()
        self.assertIn('    "chandlery_offers.address.apps.AddressConfig",\n    "oscar.apps.shipping', settings)
        self.assertNotIn('"oscar.apps.address.apps.AddressConfig"', settings)
        loaded = self.assert_ok(self.sprout("settle", "chandlery_offers", "--samples"))
        self.assertIn("load_chandlery_offers_products: 5 made, 0 there already", loaded.out)
        again = self.assert_ok(self.sprout("settle", "chandlery_offers", "--samples"))
        self.assertIn("settle_chandlery_offers_shop: 0 rows were made.", again.out)
        self.assertIn("load_chandlery_offers_products: 0 made, 5 there already", again.out)
        self.assertEqual(self.rows("select count(*) from catalogue_product"), [(5,)])
        self.assertIn("No changes detected", self.manage("makemigrations", "--check", "--dry-run").stdout)
        checked = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(checked.json["summary"]["findings"], 0, checked.out)
        self.assertEqual(set(self.ladder(checked, "chandlery_offers").values()), {"pass"})
        self.assertIn("in the dashboard's menu", self.evidence(checked, "chandlery_offers", "placed"))
        drawn = self.assert_ok(self.sprout("graph")).out
        self.assertRegex(drawn, r"(?m)\bchandlery_offers\.address\b")
        #  the tables of the module's own tests without the host's two hundred migrations, which take half a minute
        self.put("brindle_quay/at_once.py", AT_ONCE)
        tests = self.manage("test", "chandlery_offers", "--settings", "brindle_quay.at_once")
        (self.site / "brindle_quay/at_once.py").unlink()
        self.assertEqual(tests.returncode, 0, tests.stderr[-2000:])
        off = self.assert_ok(self.sprout("disable", "chandlery_offers"))
        self.assertIn('"oscar.apps.address.apps.AddressConfig"', off.out)
        self.assert_ok(self.sprout("undo"))
        self.assert_ok(self.sprout("undo"))
        self.assert_ok(self.sprout("undo"))
        after = tree_of(self.site)
        differ = {path for path in {*before, *after} if before.get(path) != after.get(path)}
        self.assertEqual({path for path in differ if not path.startswith("search_index/")}, {"brindle_quay.sqlite3"})

    def test_everything_that_django_carries_is_carried_here(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "berth_register.toml", "-q"))
        self.assert_ok(self.sprout("enable", "berth_register", "-q"))
        checked = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(set(self.ladder(checked, "berth_register").values()), {"pass"})
        front = (self.site / "templates/oscar/catalogue/browse.html").read_text()
        self.assertIn('{% berths_at_a_glance on="/ /catalogue/" %}', front)
        told = self.assert_ok(self.sprout("survey", "--format", "json")).json
        self.assertEqual((told["host"]["kit"], told["host"]["version"][:3]), ("oscar", "4.2"))


class Shop(ShopCase):
    brief = "chandlery_offers"

    def test_its_product_stands_in_the_real_shop_with_the_panel_and_its_price(self):
        with self.served() as address:
            browser = build_opener(HTTPCookieProcessor(CookieJar()))
            front = browser.open(address + "/catalogue/").read().decode()
            self.assertIn("Storm lantern", front)
            product = re.search(r'href="(/catalogue/storm-lantern_\d+/)"', front)
            assert product is not None
            page = browser.open(address + product.group(1)).read().decode()
            self.assertIn("34.50", page)
            self.assertIn("Lamp oil", page)
            self.assertIn('data-block="chandlery_offers.collected_at_the_ferry"', page)
            token = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', page)
            form = re.search(r'action="(/basket/add/\d+/)"', page)
            assert token is not None and form is not None
            data = f"csrfmiddlewaretoken={token.group(1)}&quantity=2".encode()
            browser.open(address + form.group(1), data)
            basket = browser.open(address + "/basket/").read().decode()
            self.assertIn("Winter lanterns", basket)
            self.assertIn("10.35", basket)  # 15 of a hundred of two at 34.50
            with self.assertRaises(HTTPError) as turned:
                build_opener().open(address + "/dashboard/seasons/nowhere/")
            self.assertEqual(turned.exception.code, 404)
            turned.exception.close()
            self.assertIn("/dashboard/login/", browser.open(address + "/dashboard/seasons/").url)

    @contextmanager
    def served(self) -> Iterator[str]:
        """Run the shop with the tool's own command until the test is done."""
        words = [sys.executable, "-m", "swift_sprout", "serve", "--host", str(self.site), "--runtime", str(self.python)]
        process = subprocess.Popen(
            words, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, preexec_fn=can_be_interrupted
        )
        try:
            assert process.stdout is not None
            found = None
            while found is None and (line := process.stdout.readline()):
                found = re.search(r"http://127\.0\.0\.1:\d+", line)
            assert found is not None, "the host was not served"
            yield found.group(0)
        finally:
            process.send_signal(signal.SIGINT)
            process.communicate(timeout=30)

    def test_who_may_open_the_screen_is_asked_of_the_shop(self):
        visitor = self.assert_ok(self.sprout("why", "chandlery_offers", "/dashboard/seasons/", "--as", "visitor"), 1)
        self.assertIn("chandlery_offers.view_season", visitor.out)
        self.assert_ok(self.sprout("why", "chandlery_offers", "/dashboard/seasons/", "--as", "superuser"))
        routes = self.assert_ok(self.sprout("show", "routes", "chandlery_offers", "--format", "json")).json
        open_to = {row["address"]: row["open to"] for row in routes["rows"]}
        self.assertEqual(open_to["/dashboard/seasons/"], "holders of view_season")
        self.assertEqual(open_to["/dashboard/seasons/new/"], "holders of add_season")
        self.assertEqual(open_to["/seasons/"], "anyone")

    def test_a_guard_that_is_open_to_visitors_is_an_error(self):
        self.change("chandlery_offers/apps.py", "self.post_process_urls(urlpatterns)", "urlpatterns")
        ran = self.assert_ok(self.sprout("check", "chandlery_offers", "--format", "json"), 1)
        found = self.finding(ran, "permitted.guards-not-laid-on")
        self.assertEqual((found["severity"], found["file"]), ("error", "chandlery_offers/apps.py"))
        self.assertEqual(self.ladder(ran, "chandlery_offers")["permitted"], "fail")

    def test_two_modules_cannot_override_one_app_of_the_host(self):
        for path, text in {
            "landing/__init__.py": "",
            "landing/apps.py": "from oscar.apps.address import apps\n\n\nclass AddressConfig(apps.AddressConfig):\n"
            '    name = "landing"\n',
            "landing/models.py": "from oscar.apps.address.models import *  # noqa: F403\n",
        }.items():
            self.put(path, text)
        before = tree_of(self.site)
        ran = self.assert_ok(self.sprout("enable", "landing"), 4)
        self.assertIn("overrides the host's app address, as chandlery_offers.address does already", ran.err)
        self.assertEqual(tree_of(self.site), before)

    def test_parts_are_added_on_one_line_each(self):
        for kind, line in (
            ("product_kind", "Anchor: weighs_kg integer, rusty yes/no"),
            ("shipping_method", "Tender: Brought by the tender, price 6, free_from 90"),
            ("price_rule", "Spring ropes: Rope for the season, kind Rope, percent 10, last_day 2027-04-30"),
            ("staff_screen", "/dashboard/price-lists: Price lists, shows Season, access staff, under Chandlery"),
            ("listener", "Tell the desk, on order placed"),
            ("extension", "address.UserAddress: quay text(20), optional"),
        ):
            with self.subTest(kind):
                if kind == "extension":
                    self.assert_ok(self.sprout("add", kind, line, "--to", "chandlery_offers"), 4)
                    continue
                self.assert_ok(self.sprout("add", kind, line, "--to", "chandlery_offers"))
        self.assert_ok(self.sprout("settle", "chandlery_offers"))
        self.assert_ok(self.sprout("check"))
        kinds = self.rows("select name from catalogue_productclass order by name")
        self.assertEqual(kinds, [("Anchor",), ("Lantern",), ("Rope",)])
        self.assertEqual(self.rows("select count(*) from offer_conditionaloffer"), [(2,)])

    def test_a_field_more_leads_to_a_migration_more(self):
        self.change(
            "chandlery_offers/sprout.toml",
            'label \\"Berth where the boat lies\\""]',
            'label \\"Berth where the boat lies\\"", "season -> Season, optional"]',
        )
        told = self.assert_ok(self.sprout("refresh", "chandlery_offers"))
        self.assertIn("0102_useraddress_season.py", told.out)
        self.assert_ok(self.sprout("settle", "chandlery_offers"))
        self.assertIn("No changes detected", self.manage("makemigrations", "--check", "--dry-run").stdout)
        self.assert_ok(self.sprout("check"))
        columns = {row[1] for row in self.rows("pragma table_info(address_useraddress)")}
        self.assertLessEqual({"berth", "season_id"}, columns)
        gone = self.assert_ok(self.sprout("remove", "chandlery_offers", "--data", "drop"))
        self.assertIn("migrate address back to", gone.out)
        columns = {row[1] for row in self.rows("pragma table_info(address_useraddress)")}
        self.assertFalse({"berth", "season_id"} & columns)
        self.assert_ok(self.sprout("check"))

    def test_what_people_changed_in_the_shop_stays(self):
        self.rows("update offer_benefit set value = 20")
        self.rows("update catalogue_productclass set track_stock = 0 where name = 'Rope'")
        self.assert_ok(self.sprout("settle", "chandlery_offers", "--samples"))
        self.assertEqual(self.rows("select value from offer_benefit"), [(20,)])
        self.assert_ok(self.sprout("check"))

    def test_a_basket_without_stock_is_told(self):
        self.rows("update partner_stockrecord set num_in_stock = 0")
        ran = self.sprout("check", "chandlery_offers", "--format", "json")
        self.assertEqual(ran.status, 1, ran.out)
        self.assertIn("has no stock", str(self.finding(ran, "served.product-not-sold")["cause"]))
        self.rows("delete from partner_stockrecord")
        ran = self.sprout("check", "chandlery_offers", "--format", "json")
        self.assertIn("no stock record", str(self.finding(ran, "served.product-not-sold")["cause"]))

    def test_a_check_writes_nothing_into_the_shop(self):
        before = tree_of(self.site)
        self.assert_ok(self.sprout("check"))
        self.assertEqual(tree_of(self.site), before)

    def test_hand_written_screens_are_adopted(self):
        text = (self.site / "chandlery_offers/sprout.toml").read_text()
        without = text.replace(text[text.index("[[staff_screen]]") : text.index("[[endpoint]]")], "")
        (self.site / "chandlery_offers/sprout.toml").write_text(without)
        ran = self.sprout("check", "chandlery_offers", "--format", "json")
        self.assertIn("described.part-not-in-brief", self.codes(ran, "chandlery_offers"))
        self.assert_ok(self.sprout("adopt", "chandlery_offers"))
        adopted = (self.site / "chandlery_offers/sprout.toml").read_text()
        self.assertIn('path = "/dashboard/seasons"', adopted)
        self.assertIn('access = "may read Season"', adopted)


class BadInput(ShopCase):
    def refused(self, parts: str, status: int = 2) -> str:
        before = tree_of(self.site)
        brief = self.write("brief.toml", f'[module]\nname = "Quay stall"\n{parts}\n')
        ran = self.assert_ok(self.sprout("new", "--brief", brief), status)
        self.assertEqual(tree_of(self.site), before)
        return " ".join((ran.out + ran.err).split())

    def test_records_that_the_host_does_not_have(self):
        said = self.refused('[[extension]]\nof = "partner.Partnr"\nfields = ["quay: text, optional"]')
        self.assertIn("no record 'Partnr'", said)
        self.assertIn("Partner", said)
        said = self.refused('[[extension]]\nof = "partners.Partner"\nfields = ["quay: text, optional"]')
        self.assertIn("no app 'partners'", said)
        self.assertIn("partner", said)

    def test_what_other_hosts_do_not_carry_names_the_nearest(self):
        from swift_sprout.core.errors import WrongUse
        from swift_sprout.hosts.registry import kits

        for name, kit in kits().items():
            for part in ("product_kind", "shipping_method", "price_rule", "staff_screen", "extension"):
                if name == "oscar":
                    self.assertIn(part, kit.data.parts)
                    continue
                with self.subTest(f"{name} {part}"), self.assertRaises(WrongUse) as caught:
                    kit.data.refuse_what_is_not_carried([part])
                self.assertIn("nearest", caught.exception.remedy)

    def test_texts_with_every_sign_stay_texts(self):
        nasty = r"Rope & \"line\" \\ {{ x }} {% y %} <b> 'q' ${z} %s"  # as TOML spells it
        brief = self.write(
            "brief.toml",
            f"""
[module]
name = "Quay stall"
summary = "{nasty}"
[[record]]
name = "Season"
fields = ["name: text(60)"]
[[staff_screen]]
path = "/dashboard/stalls"
title = "{nasty}"
shows = "Season"
under = "{nasty}"
[[shipping_method]]
name = "By barrow"
summary = "{nasty}"
[[product_kind]]
name = "Rope"
attributes = ["lay: choice(a=Left, b=Right)"]
[[price_rule]]
name = "Ends"
summary = "{nasty}"
amount = "1.50"
""",
        )
        self.assert_ok(self.sprout("new", "--brief", brief, "-q"))
        self.assert_ok(self.sprout("enable", "quay_stall", "-q"))
        self.assert_ok(self.sprout("check"))
        data = json.loads((self.site / "quay_stall/shop_data.json").read_text())
        plain = "Rope & \"line\" \\ {{ x }} {% y %} <b> 'q' ${z} %s"
        self.assertEqual(data["offers"][0]["description"], plain)
