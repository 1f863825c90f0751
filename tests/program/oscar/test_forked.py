"""A shop that takes its own classes for half of the host's apps: what its files tell, and what the host refutes."""

from ...support import StyleCase, sprout

SETTINGS = "hawser/settings.py"
MIDDLEWARE = '    "oscar.apps.basket.middleware.BasketMiddleware",\n'
SEARCH = '                "oscar.apps.search.context_processors.search_form",\n'


class Forked(StyleCase):
    kit = "oscar"
    style = "hawser"

    def static(self) -> list[tuple[str, str]]:
        told = self.findings("--static")
        self.assertEqual(len(told), len(set(told)), "what is about settings is said once, not once a module")
        return [(code, file) for code, file, _ in told]

    def test_files_alone_accuse_nothing(self) -> None:
        self.assertEqual(self.static(), [])

    def test_nor_do_they_where_no_interpreter_tells_of_the_packages(self) -> None:
        ran = sprout("check", "--static", "--host", self.site)
        self.assertEqual(ran.status, 0, ran.out)
        self.assertNotIn("label", ran.out)

    def test_a_doubt_stays_one_where_the_host_cannot_be_run(self) -> None:
        ran = sprout("check", "--host", self.site)
        self.assertEqual(ran.status, 3, ran.out)
        self.assertIn("routed.unsure", ran.out)
        self.assertNotIn("routed.not-included", ran.out)

    def test_what_files_can_tell_is_named_with_its_line(self) -> None:
        orders = "shopfork/order/processing.py"
        for path, old, new, wanted in (
            (SETTINGS, '_STATUS = "Noted"', '_STATUS = "New"', ("placed.status-unknown", SETTINGS)),
            (SETTINGS, '("Coiled", "Dropped")', '("coiled", "Dropped")', ("placed.status-unknown", SETTINGS)),
            (SETTINGS, '"line4"', '"line_4"', ("described.address-field-unknown", SETTINGS)),
            (SETTINGS, "OSCAR_ALLOW_ANON_", "OSCAR_ALLOW_ANONYM_", ("enabled.setting-misspelt", SETTINGS)),
            (SETTINGS, MIDDLEWARE, "", ("compatible.middleware-absent", SETTINGS)),
            (SETTINGS, SEARCH, "", ("compatible.context-processor-absent", SETTINGS)),
            (SETTINGS, "rounding.to_cents", "rounding.to_cent", ("enabled.setting-names-nothing", SETTINGS)),
            (orders, '"Handed over"', '"Handed Over"', ("placed.status-unknown", orders)),
            ("slate/models.py", '"order.Order"', '"order.Ordr"', ("enabled.relation-absent", "slate/models.py")),
            ("slate/models.py", '"order.Order"', '"basket.Baskett"', ("enabled.relation-absent", "slate/models.py")),
            ("desk/stocktake/apps.py", '= ["is_staff"]', '= ["is_stuff"]', ("permitted.guard-right-unknown", "desk/stocktake/apps.py")),
            ("shopfork/checkout/views.py", "out/landing.html", "out/landings.html", ("served.template-absent", "shopfork/checkout/views.py")),
        ):  # fmt: skip
            with self.subTest(f"{path}: {new}"):
                text = (self.site / path).read_text("utf-8")
                self.change(path, old, new)
                told = self.static()
                (self.site / path).write_text(text, "utf-8")
                self.assertEqual(told[:1], [wanted])

    def test_what_is_only_unusual_is_no_finding(self) -> None:
        for path, old, new in (
            (SETTINGS, '    "Handed over": (),\n', ""),
            (SETTINGS, '("Coiled", "Dropped")', '("Weighed and measured", "Dropped")'),
            (SETTINGS, "OSCAR_SHOP_NAME", 'OSCAR_OWN_LOFT = "north"\nOSCAR_SHOP_NAME'),
            ("shopfork/order/processing.py", '"Handed over"', '"Came from the old shop"'),
            ("slate/models.py", '"order.Order"', '"order.Line"'),
            ("desk/stocktake/apps.py", '= ["is_staff"]', '= ["works_in_the_loft"]'),
        ):
            with self.subTest(f"{path}: {new}"):
                text = (self.site / path).read_text("utf-8")
                self.change(path, old, new)
                told = self.static()
                (self.site / path).write_text(text, "utf-8")
                self.assertEqual(told, [])

    def test_a_template_over_one_of_the_package_is_drawn_though_nobody_here_names_it(self) -> None:
        self.put("templates/oscar/customer/order/order_list.html", "{% harbour_flag %}\n")
        self.put("templates/oscar/customer/wreck.html", "{% harbour_flag %}\n")
        told = {(code, file) for code, file, _ in self.findings("slate")}
        self.assertIn(("served.template-unread", "templates/oscar/customer/order/order_list.html"), told)
        self.assertNotIn(("served.template-unread", "templates/oscar/customer/wreck.html"), told)

    def test_the_running_host_knows_rights_that_files_leave_open(self) -> None:
        self.change("desk/stocktake/apps.py", "partner.dashboard_access", "partner.dashboard_acces")
        self.assertEqual(self.static(), [])
        wanted = ("permitted.guard-right-unknown", "desk/stocktake/apps.py", 12)
        self.assertEqual(self.findings("desk.stocktake"), [wanted])

    def test_why_knows_pages_that_only_the_running_host_tells(self) -> None:
        for words, seen, now in (
            (("desk.stocktake",), "no", "302"),
            (("desk.stocktake", "/dashboard/stocktake/", "--as", "superuser"), "yes", "200"),
            (("signalbook",), "yes", "200"),
            (("shopfork.checkout", "/checkout/landing/"), "no", "302"),
        ):
            with self.subTest(" ".join(words)):
                ran = self.sprout("why", *words)
                self.assertIn(f"seen? {seen}", ran.out)
                self.assertIn(f"now     {now}", ran.out)
                self.assertNotIn("404: no address leads to it", ran.out)
        ran = self.sprout("why", "shopfork.checkout", "/checkout/nowhere/")
        self.assertIn("thing-unknown", ran.err)
