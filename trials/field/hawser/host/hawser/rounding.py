from decimal import ROUND_HALF_UP, Decimal


def to_cents(amount, *args):
    return amount.quantize(Decimal("0.01"), ROUND_HALF_UP)
