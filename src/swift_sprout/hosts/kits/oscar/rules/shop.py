"""What the running shop sells and offers of a module: product classes, offers, shipping methods, for a real basket."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from ...django.asking import said
from .reading import line_with, method_classes, shop_data

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.examining.examination import Examination


def _shop(one: Examination) -> dict[str, Any]:
    found: dict[str, Any] = (one.live.answers.get("shop") or {}) if one.live is not None else {}
    return found


def _basket(one: Examination) -> dict[str, Any]:
    found: dict[str, Any] = (_shop(one).get("baskets") or {}).get(one.module.name) or {}
    return found


def rows(one: Examination) -> Iterator[Finding]:
    """Product classes and offers that the module brings, and that the shop has not, or has otherwise."""
    wanted, path = shop_data(one)
    shop = _shop(one)
    if wanted is None or not {"kinds", "offers"} <= set(shop) or one.registered_as is None:
        return
    for entry in wanted.get("kinds", ()):
        there = shop["kinds"].get(entry["name"])
        if there is None:
            line = line_with(path, f'"{entry["name"]}"')
            yield one.find("installed.shop-row-absent", path, line, what="product class", name=entry["name"])
            continue
        for attribute in entry.get("attributes", ()):
            held = there["attributes"].get(attribute["code"])
            line = line_with(path, f'"{attribute["code"]}"')
            if held is None:
                yield one.find(
                    "installed.attribute-absent", path, line, kind=entry["name"], attribute=attribute["code"]
                )
            elif held["type"] != attribute["type"]:
                yield one.find(
                    "installed.attribute-differs",
                    path,
                    line,
                    kind=entry["name"],
                    attribute=attribute["code"],
                    said=attribute["type"],
                    held=held["type"],
                )
    for entry in wanted.get("offers", ()):
        if entry["name"] not in shop["offers"]:
            line = line_with(path, f'"{entry["name"]}"')
            yield one.find("installed.shop-row-absent", path, line, what="offer", name=entry["name"])


def offers(one: Examination) -> Iterator[Finding]:
    """Offers of the module that no basket gets."""
    wanted, path = shop_data(one)
    if wanted is None:
        return
    given = _basket(one).get("offers")
    for entry in wanted.get("offers", ()):
        there = (_shop(one).get("offers") or {}).get(entry["name"])
        if there is None:
            continue
        line = line_with(path, f'"{entry["name"]}"')
        if not there["available"]:
            reason = _asleep(there, entry)
            if reason:
                yield one.find("placed.offer-asleep", path, line, name=entry["name"], reason=reason)
        elif not there["everything"] and not there["classes"] and not there["covered"]:
            yield one.find("placed.offer-covers-nothing", path, line, name=entry["name"])
        elif given is not None and entry["name"] not in given and not _basket(one).get("unsold"):
            instead = ", ".join(given) or "no other offer was given either"
            yield one.find("placed.offer-not-given", path, line, name=entry["name"], instead=instead)


def _asleep(there: dict[str, Any], entry: dict[str, Any]) -> str:
    """Say why an offer is not available; empty when it is only out of the days that the module itself says."""
    if there["status"] == "Suspended":
        return "it is suspended"
    begins, ends = str(there["begins"] or "")[:10], str(there["ends"] or "")[:10]
    if (begins, ends) == (entry["first_day"], entry["last_day"]) and there["status"] == "Open":
        return ""
    return f"its status is {there['status']}, its days are {begins or 'any'} to {ends or 'any'}"


def methods(one: Examination) -> Iterator[Finding]:
    """Shipping methods of the module that the shop's repository does not offer, or cannot price."""
    basket = _basket(one)
    error = basket.get("error")
    mine = list(method_classes(one))
    if error is not None and mine:
        yield one.find("placed.basket-fails", mine[0].path, mine[0].line, error=said(error))
        return
    if "methods" not in basket:
        return
    offered = {(each["module"], each["class"]): each for each in basket["methods"]}
    codes = [each["code"] for each in basket["methods"]]
    for method in mine:
        each = offered.get((one.dotted(method.path), method.name))
        if each is None:
            if method.code:
                yield one.find(
                    "placed.method-not-offered",
                    method.path,
                    method.line,
                    name=method.name,
                    repository=basket["repository"],
                    offered=", ".join(codes) or "none",
                )
        elif "error" in each:
            yield one.find("placed.method-fails", method.path, method.line, name=method.name, error=said(each["error"]))
        elif each["price"] is None or each["below_zero"]:
            what = "no price" if each["price"] is None else f"the price {each['price']}"
            yield one.find("placed.method-price-wrong", method.path, method.line, name=method.name, what=what)
        elif each["currency"] != basket["currency"]:
            yield one.find(
                "placed.method-currency",
                method.path,
                method.line,
                name=method.name,
                said=each["currency"],
                wanted=basket["currency"],
            )
        if each is not None and method.code and codes.count(method.code) > 1 and method is mine[0]:
            others = [one_each["module"] for one_each in basket["methods"] if one_each["code"] == method.code]
            other = next((name for name in others if name != one.dotted(method.path)), "")
            if other:
                yield one.find(
                    "placed.method-code-taken",
                    method.path,
                    method.line,
                    name=method.name,
                    method_code=method.code,
                    other=other,
                )


def sold(one: Examination) -> Iterator[Finding]:
    """Products of the module's kinds that cannot be bought."""
    _, path = shop_data(one)
    unsold = _basket(one).get("unsold") or ()
    for product in unsold[:3]:
        yield one.find(
            "served.product-not-sold",
            path,
            line_with(path, f'"{product["title"]}"'),
            title=product["title"],
            reason=product["reason"],
        )


def standing(one: Examination) -> Iterator[str]:
    """Tell the module's shipping methods that a basket is offered, and its offers that a basket is given."""
    basket = _basket(one)
    mine = {(one.dotted(method.path), method.name) for method in method_classes(one)}
    for each in basket.get("methods", ()):
        if (each["module"], each["class"]) in mine and "error" not in each:
            yield f'shipping method "{each["name"]}"'
    wanted, _ = shop_data(one)
    for entry in (wanted or {}).get("offers", ()):
        if entry["name"] in basket.get("offers", ()):
            yield f'offer "{entry["name"]}"'


RULES = (rows, offers, methods, sold)
