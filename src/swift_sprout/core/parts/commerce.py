"""What a shop sells and how: kinds of products with their attributes, shipping methods, and rules for prices."""

from __future__ import annotations

import datetime
from collections.abc import Iterator
from decimal import Decimal, InvalidOperation
from typing import TYPE_CHECKING, Any, NamedTuple

from ..errors import WrongUse
from ..fields import Field, fits, parse_field, spell_field
from ..names import NameFamily, name_family
from ..nearest import did_you_mean
from .kinds import Contradiction, Kind
from .lines import read_line
from .records import from_line
from .rights import same_name

if TYPE_CHECKING:
    from ..brief import Brief
    from .contents import Sample

ATTRIBUTE_TYPES = ("text", "long text", "integer", "number", "yes/no", "date", "datetime", "choice")
#  what every product has, whatever its kind
PRODUCT_FIELDS = ("title", "description", "price", "stock")
_MOST = Decimal("9999999.99")


class ProductKind(NamedTuple):
    """A kind of product: what is told of each beside title, description, price and stock.

    shipped -- False for what is not sent anywhere; stocked -- False for what is always there
    """

    name: NameFamily
    attributes: tuple[Field, ...] = ()
    shipped: bool = True
    stocked: bool = True

    @property
    def key(self) -> str:
        """What tells it from other kinds of products."""
        return self.name.snake


class ShippingMethod(NamedTuple):
    """A way in which a basket reaches its buyer; prices in the shop's own currency.

    price -- what it costs; free_from -- the basket's total from which on it costs nothing, empty for never
    """

    name: NameFamily
    summary: str = ""
    price: str = "0"
    free_from: str = ""

    @property
    def key(self) -> str:
        """What tells it from other shipping methods."""
        return self.name.snake


class PriceRule(NamedTuple):
    """What makes a basket cheaper: so many products of a kind, and by how much.

    kind     -- the kind of product that it is about; empty for all that the shop sells
    at_least -- how many of them must be in the basket
    percent, amount -- by how much each, or the whole basket, gets cheaper; one of the two
    first_day, last_day -- when it holds, as 2026-11-23; empty for no bound
    """

    name: NameFamily
    summary: str = ""
    kind: str = ""
    at_least: int = 1
    percent: int = 0
    amount: str = ""
    first_day: str = ""
    last_day: str = ""

    @property
    def key(self) -> str:
        """What tells it from other rules."""
        return self.name.snake


def product_kind(brief: Brief, name: str) -> ProductKind | None:
    """Return a brief's kind of product by any spelling of its name, or None."""
    return next((one for one in brief.product_kinds if same_name(one.name.title, name)), None)


def _money(text: str, what: str) -> str:
    try:
        value = Decimal(text.strip())
        if not 0 <= value <= _MOST or value != round(value, 2):
            raise InvalidOperation
    except InvalidOperation:
        raise WrongUse("money", f"{what} cannot be {text!r}.", "Write it as 4 or 4.50, without a currency.") from None
    return text.strip()


# -- kinds of products ------------------------------------------------------------------------------------------


def _make_kind(entry: dict[str, Any]) -> ProductKind:
    attributes = tuple(parse_field(text) for text in entry.get("attributes", ()))
    for one in attributes:
        if one.type not in ATTRIBUTE_TYPES:
            raise WrongUse(
                "attribute-type",
                f"The attribute {one.name!r} of a product cannot be of type {one.type}.",
                did_you_mean(one.type, ATTRIBUTE_TYPES),
            )
        if one.name in PRODUCT_FIELDS:
            raise WrongUse(
                "attribute-name", f"Every product has {one.name!r} anyway.", f"Leave it out, or say {one.name}_value."
            )
        if one.unique or one.default is not None:
            raise WrongUse(
                "attribute-option", f"The attribute {one.name!r} can be neither unique nor have a default.", "Leave it."
            )
    name = name_family(entry["name"], what="product kind")
    return ProductKind(name, attributes, entry.get("shipped", True), entry.get("stocked", True))


def _kind_data(kind: ProductKind) -> dict[str, Any]:
    data: dict[str, Any] = {"name": kind.name.title}
    if kind.attributes:
        data["attributes"] = [spell_field(field) for field in kind.attributes]
    return data | {key: False for key in ("shipped", "stocked") if not getattr(kind, key)}


def _kind_against(kind: ProductKind, brief: Brief) -> Iterator[Contradiction]:
    names = [field.name for field in kind.attributes]
    for name in sorted({name for name in names if names.count(name) > 1}):
        yield Contradiction("attributes", f"the product kind {kind.name.title!r} has {name!r} twice", "Rename one.")
    if any(same_name(kind.name.title, record.name.title) for record in brief.records):
        yield Contradiction("name", f"{kind.name.title!r} is a record as well", "Rename one.")


def _kind_line(text: str) -> dict[str, Any]:
    entry = from_line(text)
    return {"name": entry["name"], "attributes": entry.get("fields", [])}


def products_against(sample: Sample, kind: ProductKind) -> Iterator[Contradiction]:
    """Yield what is wrong with sample rows that are products of a kind."""
    attributes = {field.name: field for field in kind.attributes}
    known = (*PRODUCT_FIELDS, *attributes)
    needed = ["title", "price", *(["stock"] if kind.stocked else [])]
    needed += [field.name for field in kind.attributes if not field.optional and field.type != "yes/no"]
    seen: set[str] = set()
    for number, row in enumerate(sample.rows, 1):
        values = dict(row)
        where = f"row {number} of {sample.record}"
        for name in needed:
            if not values.get(name):
                yield Contradiction("rows", f"{where} has no {name!r}", "Add a value for it.")
        if values.get("title", "") in seen:
            yield Contradiction("rows", f"two rows of {sample.record} have one title: {values['title']}", "Change one.")
        seen.add(values.get("title", ""))
        for name, value in row:
            if name not in known:
                yield Contradiction("rows", f"{where} has the unknown attribute {name!r}", did_you_mean(name, known))
            elif name in attributes and not fits(attributes[name], value):
                yield Contradiction(
                    "rows", f"{where}: {name} of type {attributes[name].type} cannot be {value!r}", "Change it."
                )
        if "price" in values and not _is_money(values["price"]):
            yield Contradiction("rows", f"{where}: the price cannot be {values['price']!r}", "Write it as 4.50.")
        if "stock" in values and not values["stock"].isdigit():
            yield Contradiction("rows", f"{where}: the stock cannot be {values['stock']!r}", "Write a whole number.")


def _is_money(text: str) -> bool:
    try:
        _money(text, "")
    except WrongUse:
        return False
    return True


# -- shipping methods -------------------------------------------------------------------------------------------


def _make_method(entry: dict[str, Any]) -> ShippingMethod:
    name = name_family(entry["name"], what="shipping method")
    price = _money(entry.get("price", "0"), f"The price of {name.title!r}")
    free = entry.get("free_from", "")
    return ShippingMethod(
        name, entry.get("summary", ""), price, _money(free, "The total from which on it is free") if free else ""
    )


def _method_data(method: ShippingMethod) -> dict[str, Any]:
    data: dict[str, Any] = {"name": method.name.title}
    for key, usual in (("summary", ""), ("price", "0"), ("free_from", "")):
        if getattr(method, key) != usual:
            data[key] = getattr(method, key)
    return data


# -- rules for prices -------------------------------------------------------------------------------------------


def _make_rule(entry: dict[str, Any]) -> PriceRule:
    name = name_family(entry["name"], what="price rule")
    percent, amount = entry.get("percent", 0), entry.get("amount", "")
    if bool(percent) == bool(amount):
        raise WrongUse(
            "price-rule", f"The price rule {name.title!r} says not by how much.", "Say percent, or amount, not both."
        )
    if percent and not 1 <= percent <= 100:
        raise WrongUse("price-rule", f"{percent} is no percentage of a price.", "Give a number from 1 to 100.")
    if amount and Decimal(_money(amount, "The amount")) == 0:
        raise WrongUse("price-rule", f"The price rule {name.title!r} takes nothing off.", "Give an amount above 0.")
    at_least = entry.get("at_least", 1)
    if not 1 <= at_least <= 1000:
        raise WrongUse("price-rule", f"A basket cannot hold at least {at_least} products.", "Give 1 to 1000.")
    days = {key: _day(entry.get(key, "")) for key in ("first_day", "last_day")}
    if days["first_day"] and days["last_day"] and days["first_day"] > days["last_day"]:
        raise WrongUse("price-rule", f"The price rule {name.title!r} ends before it begins.", "Swap its days.")
    return PriceRule(name, entry.get("summary", ""), entry.get("kind", ""), at_least, percent, amount, **days)


def _day(text: str) -> str:
    if text:
        try:
            return datetime.date.fromisoformat(text.strip()).isoformat()
        except ValueError:
            raise WrongUse("price-rule", f"{text!r} is no day.", "Write it as 2026-11-23.") from None
    return ""


def _rule_data(rule: PriceRule) -> dict[str, Any]:
    data: dict[str, Any] = {"name": rule.name.title}
    for key, usual in PriceRule._field_defaults.items():
        if getattr(rule, key) != usual:
            data[key] = getattr(rule, key)
    return data


def _rule_against(rule: PriceRule, brief: Brief) -> Iterator[Contradiction]:
    if rule.kind and product_kind(brief, rule.kind) is None:
        known = [kind.name.title for kind in brief.product_kinds]
        what = f"the price rule {rule.name.title!r} is about {rule.kind!r}, which is no product kind of this module"
        yield Contradiction("kind", what, did_you_mean(rule.kind, known))


_KIND = {"name": "text", "attributes": "list", "shipped": "yes/no", "stocked": "yes/no"}
_METHOD = {"name": "text", "summary": "text", "price": "text", "free_from": "text"}
_RULE = {
    "name": "text",
    "summary": "text",
    "kind": "text",
    "at_least": "number",
    "percent": "number",
    "amount": "text",
    "first_day": "text",
    "last_day": "text",
}

MAKES = {
    "product_kind": Kind(
        "product_kind",
        _KIND,
        ("name",),
        _make_kind,
        _kind_data,
        _kind_against,
        "Lantern: burns choice(oil, candle), height_cm integer",
        _kind_line,
    ),
    "shipping_method": Kind(
        "shipping_method",
        _METHOD,
        ("name",),
        _make_method,
        _method_data,
        lambda one, brief: (),
        "Ferry collection: Fetched from the ferry's deck, price 2.50, free_from 40",
        lambda text: read_line("shipping_method", "name", "summary", _METHOD, text),
    ),
    "price_rule": Kind(
        "price_rule",
        _RULE,
        ("name",),
        _make_rule,
        _rule_data,
        _rule_against,
        "Winter lanterns: Two for the dark months, kind Lantern, at_least 2, percent 15",
        lambda text: read_line("price_rule", "name", "summary", _RULE, text),
    ),
}
