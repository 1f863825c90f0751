from decimal import Decimal

from oscar.apps.partner import strategy


class Selector(strategy.Selector):
    def strategy(self, request=None, user=None, **kwargs):
        return Quayside(request)


class Quayside(strategy.UseFirstStockRecord, strategy.FixedRateTax, strategy.StockRequired, strategy.Structured):
    rate = Decimal("0.20")
