"""A customer buys in the copy of a shop: through its own checkout, and without a trace in the shop itself."""

import sqlite3
import tempfile
from contextlib import closing
from pathlib import Path

from trials.field import prepared, styles

from ...support import SiteCase, tree_of

STYLE = next(one for one in styles() if one.name == "hawser")
TABLES = ("order_order", "basket_basket", "catalogue_product", "auth_user", "offer_conditionaloffer")
BOUGHT = "a customer bought a product"


class Purchases(SiteCase):
    """A shop in another's style, whose checkout has a step of its own."""

    kit = "oscar"
    shop: Path

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.shop = prepared(STYLE, Path(folder.name).resolve())

    def built(self) -> Path:
        return self.shop

    def rows(self) -> dict[str, int]:
        with closing(sqlite3.connect(self.site / "hawser.sqlite3")) as database:
            return {name: database.execute(f"select count(*) from {name}").fetchone()[0] for name in TABLES}

    def files(self) -> set[str]:
        return {path for path in tree_of(self.site) if "__pycache__" not in path}

    def test_a_customer_gets_through_the_checkout_and_nothing_of_it_stays(self) -> None:
        rows, files = self.rows(), self.files()
        ran = self.assert_ok(self.sprout("check", "shopfork.checkout", "--format", "json"))
        self.assertIn(BOUGHT, self.evidence(ran, "shopfork.checkout", "placed"))
        self.assertEqual(self.rows(), rows)
        self.assertEqual(self.files(), files)

    def test_nothing_is_bought_where_the_shops_own_code_runs_programs(self) -> None:
        self.change("slate/views.py", "from .models import Slate\n", "import subprocess\n\nfrom .models import Slate\n")
        ran = self.assert_ok(self.sprout("check", "shopfork.checkout", "--format", "json"))
        self.assertNotIn(BOUGHT, ran.out)

    def test_a_step_that_breaks_is_told_with_its_line(self) -> None:
        self.change("shopfork/checkout/views.py", "self.checkout_session._set(", "self.checkout_session._keep(")
        ran = self.sprout("check", "shopfork.checkout")
        self.assertEqual(ran.status, 1, ran.out)
        self.assertIn("shopfork/checkout/views.py:20", ran.out)
        self.assertIn("checking out (/checkout/landing/) fails", " ".join(ran.out.split()))
