"""What the running shop sells and offers of a module: product classes, offers, shipping methods, for a real basket."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from ...django.asking import said
from .reading import line_with, method_classes, shop_data

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.examining.examination import Examination


def _shop(exam: Examination) -> dict[str, Any]:
    found: dict[str, Any] = (exam.live.answers.get("shop") or {}) if exam.live is not None else {}
    return found


def _basket(exam: Examination) -> dict[str, Any]:
    found: dict[str, Any] = (_shop(exam).get("baskets") or {}).get(exam.module.name) or {}
    return found


def rows(exam: Examination) -> Iterator[Finding]:
    """Product classes and offers that the module brings, and that the shop has not, or has otherwise."""
    wanted, path = shop_data(exam)
    shop = _shop(exam)
    if wanted is None or not {"kinds", "offers"} <= set(shop) or exam.registered_as is None:
        return
    for entry in wanted.get("kinds", ()):
        there = shop["kinds"].get(entry["name"])
        if there is None:
            line = line_with(path, f'"{entry["name"]}"')
            yield exam.find("installed.shop-row-absent", path, line, what="product class", name=entry["name"])
            continue
        for attribute in entry.get("attributes", ()):
            held = there["attributes"].get(attribute["code"])
            line = line_with(path, f'"{attribute["code"]}"')
            if held is None:
                yield exam.find(
                    "installed.attribute-absent", path, line, kind=entry["name"], attribute=attribute["code"]
                )
            elif held["type"] != attribute["type"]:
                yield exam.find(
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
            yield exam.find("installed.shop-row-absent", path, line, what="offer", name=entry["name"])


def offers(exam: Examination) -> Iterator[Finding]:
    """Offers of the module that no basket gets."""
    wanted, path = shop_data(exam)
    if wanted is None:
        return
    given = _basket(exam).get("offers")
    for entry in wanted.get("offers", ()):
        there = (_shop(exam).get("offers") or {}).get(entry["name"])
        if there is None:
            continue
        line = line_with(path, f'"{entry["name"]}"')
        if not there["available"]:
            reason = _asleep(there, entry)
            if reason:
                yield exam.find("placed.offer-asleep", path, line, name=entry["name"], reason=reason)
        elif not there["everything"] and not there["classes"] and not there["covered"]:
            yield exam.find("placed.offer-covers-nothing", path, line, name=entry["name"])
        elif given is not None and entry["name"] not in given and not _basket(exam).get("unsold"):
            instead = ", ".join(given) or "no other offer was given either"
            yield exam.find("placed.offer-not-given", path, line, name=entry["name"], instead=instead)


def _asleep(there: dict[str, Any], entry: dict[str, Any]) -> str:
    """Say why an offer is not available; empty when it is only out of the days that the module itself says."""
    if there["status"] == "Suspended":
        return "it is suspended"
    begins, ends = str(there["begins"] or "")[:10], str(there["ends"] or "")[:10]
    if (begins, ends) == (entry["first_day"], entry["last_day"]) and there["status"] == "Open":
        return ""
    return f"its status is {there['status']}, its days are {begins or 'any'} to {ends or 'any'}"


def methods(exam: Examination) -> Iterator[Finding]:
    """Shipping methods of the module that the shop's repository does not offer, or cannot price."""
    basket = _basket(exam)
    error = basket.get("error")
    mine = list(method_classes(exam))
    if error is not None and mine:
        yield exam.find("placed.basket-fails", mine[0].path, mine[0].line, error=said(error))
        return
    if "methods" not in basket:
        return
    offered = {(each["module"], each["class"]): each for each in basket["methods"]}
    codes = [each["code"] for each in basket["methods"]]
    for method in mine:
        each = offered.get((exam.dotted(method.path), method.name))
        if each is None:
            if method.code:
                yield exam.find(
                    "placed.method-not-offered",
                    method.path,
                    method.line,
                    name=method.name,
                    repository=basket["repository"],
                    offered=", ".join(codes) or "none",
                )
        elif "error" in each:
            yield exam.find(
                "placed.method-fails", method.path, method.line, name=method.name, error=said(each["error"])
            )
        elif each["price"] is None or each["below_zero"]:
            what = "no price" if each["price"] is None else f"the price {each['price']}"
            yield exam.find("placed.method-price-wrong", method.path, method.line, name=method.name, what=what)
        elif each["currency"] != basket["currency"]:
            yield exam.find(
                "placed.method-currency",
                method.path,
                method.line,
                name=method.name,
                said=each["currency"],
                wanted=basket["currency"],
            )
        if each is not None and method.code and codes.count(method.code) > 1 and method is mine[0]:
            others = [one_each["module"] for one_each in basket["methods"] if one_each["code"] == method.code]
            other = next((name for name in others if name != exam.dotted(method.path)), "")
            if other:
                yield exam.find(
                    "placed.method-code-taken",
                    method.path,
                    method.line,
                    name=method.name,
                    method_code=method.code,
                    other=other,
                )


def sold(exam: Examination) -> Iterator[Finding]:
    """Products of the module's kinds that cannot be bought."""
    _, path = shop_data(exam)
    unsold = _basket(exam).get("unsold") or ()
    for product in unsold[:3]:
        yield exam.find(
            "served.product-not-sold",
            path,
            line_with(path, f'"{product["title"]}"'),
            title=product["title"],
            reason=product["reason"],
        )


def standing(exam: Examination) -> Iterator[str]:
    """Tell the module's shipping methods that a basket is offered, and its offers that a basket is given."""
    basket = _basket(exam)
    mine = {(exam.dotted(method.path), method.name) for method in method_classes(exam)}
    for each in basket.get("methods", ()):
        if (each["module"], each["class"]) in mine and "error" not in each:
            yield f'shipping method "{each["name"]}"'
    wanted, _ = shop_data(exam)
    for entry in (wanted or {}).get("offers", ()):
        if entry["name"] in basket.get("offers", ()):
            yield f'offer "{entry["name"]}"'


RULES = (rows, offers, methods, sold)
