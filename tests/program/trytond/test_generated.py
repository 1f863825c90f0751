"""A module with every kind of field and part that trytond carries, made, activated and tested on the real host."""

import sqlite3

from ...support import PlatformCase, tree_of

EVERYTHING = r"""
[module]
name = "Chandlery"
summary = "Ropes, \"lamps\" & <charts>: 100 % of what {boats} need\\"
version = "1.2.3"
needs = ["harbour_office"]

[[record]]
name = "Article"
summary = "Something that is sold"
shown_as = "name"
order_by = ["-name"]
fields = [
  "name: text(40), unique, help \"As on the shelf, 5 % off\"",
  "sort: choice(rope, lamp=\"Lamp & oil\", \"old chart\"), default rope",
  "price: decimal(8,2), default 2.50",
  "weight_kg: number, optional",
  "in_stock: integer, default 1",
  "on_sale: yes/no, default yes",
  "since: date, default 2001-05-01",
  "bought: date, default today",
  "checked: datetime, default now",
  "opens: time, optional",
  "lasts: duration, optional",
  "mail: email, optional, unique",
  "page: link, optional",
  "short: slug, optional",
  "mark: uuid, optional",
  "plan: file, optional",
  "note: long text, optional",
  "like -> Article (likes), optional",
  "clerk -> user, optional",
  "sailing -> ferries.Sailing, optional",
  "notices ->> harbour_office.Notice",
]

[[record]]
name = "Sale"
fields = ["article -> Article (sales)", "pieces: integer", "wants ->> Article, optional"]

[[record]]
name = "Season"
fields = ["kind: choice(winter, summer), default winter", "cold: yes/no"]

[[record]]
name = "Round"
fields = ["at: datetime", "crew: integer"]

[[permission]]
name = "Give a discount"
on = "Sale"

[[permission]]
name = "Close the till"

[[group]]
name = "Sellers"
may = { Sale = "read create", Article = "read", Season = "read", Round = "read" }

[[group]]
name = "Keepers of the shop's \"keys\""
may = { Article = "all" }
also = ["Give a discount", "Close the till"]
includes = ["Sellers"]

[[page]]
path = "/"
title = "Chandlery % of \"Brindle Quay\""
text = "Ropes & <lamps> ${for} {{boats}}"

[[page]]
path = "/articles"
title = "Articles"
shows = "Article"
also = ["/goods"]

[[page]]
path = "/sales"
title = "Sales"
shows = "Sale"
view = "list"
access = "may read Sale"

[[page]]
path = "/sales/new"
title = "Sell"
shows = "Sale"
view = "form"

[[page]]
path = "/articles/{number: integer}/change"
title = "Change an article"
shows = "Article"
view = "form"

[[page]]
path = "/about/{word}/{page: slug}"
title = "About"
methods = ["get", "post"]

[[page]]
path = "/till"
title = "The till"
access = "may Close the till"

[[page]]
path = "/office"
title = "Office"
access = "staff"

[[page]]
path = "/mine"
title = "Mine"
access = "signed in"

[[endpoint]]
path = "/api/articles"
shows = "Article"
methods = ["get post put delete"]

[[endpoint]]
path = "/api/sales"
shows = "Sale"
access = "may read Sale"

[[menu]]
title = "Shop"

[[menu]]
title = "Goods & more"
page = "/articles"
parent = "Shop"

[[menu]]
title = "Till"
page = "/till"
side = "administration"

[[block]]
name = "New goods"
shows = "Article"
limit = 3

[[block]]
name = "Opening hours"
text = "From 6:30, \"mostly\" <b>"

[[placement]]
block = "New goods"
pages = ["/", "/articles"]

[[placement]]
block = "Opening hours"
published = false

[[command]]
name = "Count stock"
lists = "Article"
named = ["sort: choice(rope, lamp), optional", "limit: integer, default 10"]

[[command]]
name = "Greet"
named = ["loud: yes/no", "rate: decimal(3,1), default 1.5", "day: date, default 2026-11-23"]

[[service]]
name = "Price finder"
uses = ["Article", "clock", "log"]

[[service]]
name = "Seller"
uses = ["Sale", "Price finder", "settings", "mail"]

[[listener]]
name = "Note a sale"
on = "record saved"
of = "Sale"

[[listener]]
name = "Note what is gone"
on = "record deleted"
of = "Sale"

[[listener]]
name = "Note a notice"
on = "record saved"
of = "harbour_office.Notice"

[[listener]]
name = "Note who comes"
on = "signed in"

[[listener]]
name = "Note who goes"
on = "signed out"

[[listener]]
name = "Note who fails"
on = "sign-in failed"

[[listener]]
name = "Note the update"
on = "module settled"

[[setting]]
field = "open_on_sundays: yes/no, default no"

[[setting]]
field = "discount: decimal(4,2), default 0.05, label \"Usual discount, %\""

[[sample]]
record = "Article"
rows = [{ name = "Rope 10 m", price = "12.50", since = "2020-01-02", on_sale = true }, { name = "Lamp", sort = "lamp" }]

[[sample]]
record = "Sale"
by = "pieces"
rows = [{ article = "Lamp", pieces = 2 }]

[[translation]]
language = "de"
texts = { Article = "Ware", Articles = "Waren", "Goods & more" = "Waren & mehr" }

[[translation]]
language = "pt-br"

[[asset]]
file = "shop.css"

[[asset]]
file = "shop.js"

[[asset]]
file = "lamp.svg"
"""


class Everything(PlatformCase):
    def test_it_is_made_activated_served_and_its_own_tests_pass(self):
        brief = self.write("chandlery.toml", EVERYTHING)
        self.assert_ok(self.sprout("new", "--brief", brief, "-q"))
        self.assert_ok(self.sprout("enable", "chandlery", "-q"))
        checked = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(checked.json["summary"]["findings"], 0, checked.out)
        self.assertEqual(set(self.ladder(checked, "chandlery").values()), {"pass"})
        self.assertIn("3 new rows", self.assert_ok(self.sprout("settle", "chandlery", "--samples")).out)
        checked = self.assert_ok(self.sprout("check", "chandlery", "--format", "json"))
        self.assertEqual(checked.json["summary"]["findings"], 0, checked.out)
        tests = self.own_tests("chandlery")
        self.assertEqual(tests.returncode, 0, tests.stderr[-3000:])
        connection = sqlite3.connect(self.site / "data/brindle_quay.sqlite")
        self.addCleanup(connection.close)
        columns = {row[1] for row in connection.execute("pragma table_info(chandlery_article)")}
        self.assertLessEqual({"name", "price", "since", "like", "plan", "sailing"}, columns)
        self.assertEqual(connection.execute("select count(*) from chandlery_sale").fetchone()[0], 1)

    def test_what_it_keeps_is_named_written_down_and_dropped(self):
        brief = self.write("chandlery.toml", EVERYTHING)
        self.assert_ok(self.sprout("new", "--brief", brief, "-q"))
        self.assert_ok(self.sprout("enable", "chandlery", "-q"))
        self.assert_ok(self.sprout("settle", "chandlery", "--samples"))
        before = tree_of(self.site)
        refused = self.assert_ok(self.sprout("remove", "chandlery"), 4)
        self.assertIn("chandlery_article", refused.err)
        self.assertEqual(tree_of(self.site), before)
        self.assert_ok(self.sprout("remove", "chandlery", "--data", "drop"))
        rows = self.kept_rows()[0]
        self.assertIn("Rope 10 m", rows.read_text("utf-8"))
        connection = sqlite3.connect(self.site / "data/brindle_quay.sqlite")
        self.addCleanup(connection.close)
        tables = {row[0] for row in connection.execute("select name from sqlite_master")}
        self.assertNotIn("chandlery_article", tables)
        self.assert_ok(self.sprout("check"))
