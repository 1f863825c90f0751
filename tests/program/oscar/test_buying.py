"""A customer buys in the copy of a shop: through its own checkout, and without a trace in the shop itself."""

import sqlite3
from contextlib import closing

from ...support import StyleCase

TABLES = ("order_order", "basket_basket", "catalogue_product", "auth_user", "offer_conditionaloffer")
CHECKOUT = "shopfork.checkout"
BOUGHT = "a customer bought a product"
REQUIRED = "    weight = models.DecimalField(max_digits=6, decimal_places=2)\n"
ADDED = '        migrations.AddField("product", "weight", models.DecimalField(max_digits=6, decimal_places=2, default=1)),\n'


class Purchases(StyleCase):
    """A shop in another's style, whose checkout has a step of its own."""

    kit = "oscar"
    style = "hawser"

    def rows(self) -> dict[str, int]:
        with closing(sqlite3.connect(self.site / "hawser.sqlite3")) as database:
            return {name: database.execute(f"select count(*) from {name}").fetchone()[0] for name in TABLES}

    def placed(self) -> str:
        ran = self.assert_ok(self.sprout("check", CHECKOUT, "--format", "json"))
        return self.evidence(ran, CHECKOUT, "placed")

    def test_a_customer_gets_through_the_checkout_and_nothing_of_it_stays(self) -> None:
        rows, files = self.rows(), self.files()
        self.assertIn(BOUGHT, self.placed())
        self.assertEqual((self.rows(), self.files()), (rows, files))

    def test_nothing_is_bought_where_the_shops_own_code_runs_programs(self) -> None:
        self.change("slate/views.py", "from .models import Slate\n", "import subprocess\n\nfrom .models import Slate\n")
        self.assertNotIn(BOUGHT, self.placed())

    def test_a_step_that_breaks_is_told_with_its_line(self) -> None:
        self.change("shopfork/checkout/views.py", "self.checkout_session._set(", "self.checkout_session._keep(")
        ran = self.sprout("check", CHECKOUT)
        self.assertEqual(ran.status, 1, ran.out)
        self.assertIn("shopfork/checkout/views.py:20", ran.out)
        self.assertIn("checking out (/checkout/landing/) fails", " ".join(ran.out.split()))

    def test_products_that_must_have_more_are_made_with_it(self) -> None:
        self.change("shopfork/catalogue/models.py", "    tarred =", f"{REQUIRED}    tarred =")
        migration = "shopfork/catalogue/migrations/0033_product_length_m_product_tarred.py"
        self.change(migration, "    operations = [\n", f"    operations = [\n{ADDED}")
        with closing(sqlite3.connect(self.site / "hawser.sqlite3")) as database, database:
            database.execute("alter table catalogue_product add column weight decimal not null default 1")
        self.assertIn(BOUGHT, self.placed())

    def test_what_may_be_due_to_made_up_values_is_a_note(self) -> None:
        guarded = '        if not order.notes.exists():\n            raise ValueError("a tracking number first")\n'
        self.change("shopfork/order/processing.py", "        super().handle", f"{guarded}        super().handle")
        ran = self.assert_ok(self.sprout("check", "shopfork.order", "--format", "json"))
        self.assertEqual(self.codes(ran, "shopfork.order"), ["served.buying-unsure"])

    def test_a_checkout_that_goes_on_elsewhere_ends_there(self) -> None:
        self.change(
            "shopfork/checkout/views.py",
            "        source_type, _ =",
            '        raise RedirectRequired("https://pay.example/slate")\n        source_type, _ =',
        )
        old = "from oscar.core.loading import"
        self.change(
            "shopfork/checkout/views.py", old, f"from oscar.apps.payment.exceptions import RedirectRequired\n{old}"
        )
        self.assertNotIn(BOUGHT, self.placed())
