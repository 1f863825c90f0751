"""What a brief's commerce parts become in a shop: values for the templates, and the rows that the shop is given."""

from __future__ import annotations

import json

from ....core.brief import Brief
from ....core.parts.commerce import ProductKind, product_kind
from ....core.parts.screens import StaffScreen
from ...contract.kitdata import KitData
from ...shared.rendering import python_text
from ..django.composing.pages import class_stem
from ..django.composing.records import record_values
from ..django.composing.shared import Site, Values, lines, permission_of
from .facts import oscar


def shop_values(data: KitData, brief: Brief, site: Site) -> Values:
    """Return the values that templates of shop modules take beside those of Django's."""
    label = brief.name.snake
    screens = [_screen(data, brief, one, site) for one in brief.staff_screens]
    products = [row for one in brief.samples if product_kind(brief, one.record) for row in one.rows]
    rows = bool(brief.product_kinds or brief.price_rules)
    plain = bool(brief.pages or brief.endpoints)
    controllers = [name for name, there in (("endpoints", brief.endpoints), ("screens", screens)) if there]
    guards = [guard for one in screens for guard in one["guards"]]
    values: Values = {
        "config_base": "OscarDashboardConfig" if screens else "OscarConfig",
        "guards": guards,
        "screens": screens,
        "screens_there": bool(screens),
        "screen_routes": [route for one in screens for route in one["screen_routes"]],
        "screen_mixins": lines(_screen_imports(screens)),
        "headings": _headings(brief, screens),
        "shipping": _methods(brief),
        "methods_there": bool(brief.shipping_methods),
        "shop_rows": rows,
        "products_there": bool(products),
        "shop_there": rows or bool(screens or brief.shipping_methods),
        "shop_title": brief.name.title,
        "offers_test": brief.price_rules[0].name.title if brief.price_rules else "",
        "kinds_test": brief.product_kinds[0].name.title if brief.product_kinds else "",
        "has_addresses": plain or bool(screens),
        "wired": bool(brief.listeners or brief.groups or screens or brief.shipping_methods),
        "controllers": ", ".join([*controllers, *(["views"] if brief.pages else [])]),
        "shop_test_imports": lines(_test_imports(brief, label)),
    }
    if rows or products:
        values["console"] = True
    return values


def shop_files(data: KitData, brief: Brief, values: Values) -> dict[str, bytes]:
    """Return the rows that a module brings to the shop, as the file that its loader reads."""
    if not values["shop_rows"]:
        return {}
    told = {
        "kinds": [_kind(data, one) for one in brief.product_kinds],
        "offers": [
            {
                "name": one.name.title,
                "description": one.summary,
                "kind": next((kind.name.title for kind in (product_kind(brief, one.kind),) if kind), ""),
                "at_least": one.at_least,
                "percent": one.percent,
                "amount": one.amount,
                "first_day": one.first_day,
                "last_day": one.last_day,
            }
            for one in brief.price_rules
        ],
        "products": [
            _product(kind, dict(row))
            for sample in brief.samples
            if (kind := product_kind(brief, sample.record)) is not None
            for row in sample.rows
        ],
    }
    return {"shop_data.json": (json.dumps(told, indent=2, ensure_ascii=False) + "\n").encode("utf-8")}


def _kind(data: KitData, kind: ProductKind) -> Values:
    return {
        "name": kind.name.title,
        "shipped": kind.shipped,
        "stocked": kind.stocked,
        "attributes": [
            {
                "code": field.name,
                "name": field.label,
                "type": oscar(data).attributes[field.type],
                "required": not field.optional and field.type != "yes/no",
                "choices": [choice.label for choice in field.choices],
            }
            for field in kind.attributes
        ],
    }


def _product(kind: ProductKind, row: dict[str, str]) -> Values:
    attributes: Values = {}
    for field in kind.attributes:
        if field.name not in row:
            continue
        text = row[field.name]
        if field.type == "integer":
            attributes[field.name] = int(text)
        elif field.type == "number":
            attributes[field.name] = float(text)
        elif field.type == "yes/no":
            attributes[field.name] = text in ("yes", "true")
        else:
            labels = {choice.value: choice.label for choice in field.choices}
            attributes[field.name] = labels.get(text, text)
    category = kind.name.plural.title
    found: Values = {"kind": kind.name.title, "category": category, "title": row["title"], "price": row["price"]}
    if "description" in row:
        found["description"] = row["description"]
    if kind.stocked:
        found["stock"] = int(row["stock"])
    return found | {"attributes": attributes}


def _screen(data: KitData, brief: Brief, screen: StaffScreen, site: Site) -> Values:
    label = brief.name.snake
    record = brief.record(screen.shows)
    assert record is not None
    stem = "_".join(screen.words)
    name = stem.replace("_", "-")
    route = site.own(screen.path).strip("/") + "/"
    model = record.name.camel.lower()
    permission = permission_of(brief, screen.access)
    see = ["is_staff", *([f"{label}.{permission}"] if permission else [])]
    view = class_stem(stem)
    guards = [
        {"guard_name": name, "guard_rights": python_text(see)},
        {"guard_name": f"{name}-new", "guard_rights": python_text(["is_staff", f"{label}.add_{model}"])},
        {"guard_name": f"{name}-change", "guard_rights": python_text(["is_staff", f"{label}.change_{model}"])},
    ]
    return {
        **record_values(data, brief, record),
        "screen_stem": stem,
        "screen_title": screen.title,
        "screen_under": screen.under or brief.name.title,
        "screen_view": view,
        "screen_name": name,
        "screen_reverse": f"{label}:{name}",
        "screen_new": f"{label}:{name}-new",
        "screen_change": f"{label}:{name}-change",
        "screen_list_template": f"{label}/dashboard/{stem}_list.html",
        "screen_form_template": f"{label}/dashboard/{stem}_form.html",
        "screen_right": permission,
        "guards": guards,
        "screen_routes": [
            {"route": route, "route_view": f"{view}List", "route_name": name},
            {"route": f"{route}new/", "route_view": f"{view}New", "route_name": f"{name}-new"},
            {"route": f"{route}<int:pk>/", "route_view": f"{view}Change", "route_name": f"{name}-change"},
        ],
    }


def _screen_imports(screens: list[Values]) -> list[str]:
    return ["from django.views.generic import CreateView, ListView, UpdateView"] if screens else []


def _headings(brief: Brief, screens: list[Values]) -> list[Values]:
    """Return the headings of the dashboard's menu with their screens, in the order of the brief."""
    found: dict[str, list[Values]] = {}
    for one in screens:
        found.setdefault(one["screen_under"], []).append(one)
    return [{"heading_title": title, "heading_screens": held} for title, held in found.items()]


def _methods(brief: Brief) -> list[Values]:
    return [
        {
            "method": one.name.camel,
            "method_title": one.name.title,
            "method_summary": one.summary,
            "method_code": f"{brief.name.snake}-{one.name.snake}".replace("_", "-"),
            "method_price": python_text(one.price),
            "method_free_from": python_text(one.free_from) if one.free_from else "",
        }
        for one in brief.shipping_methods
    ]


def _test_imports(brief: Brief, label: str) -> list[str]:
    found = ["from decimal import Decimal", ""] if brief.shipping_methods else []
    if brief.staff_screens:
        found.append("from django.contrib.auth import get_user_model")
        found.append("from django.contrib.auth.models import Permission")
    if brief.product_kinds or brief.price_rules:
        found.append("from django.core.management import call_command")
    found.append("from django.test import TestCase")
    if brief.staff_screens:
        found.append("from django.urls import reverse")
    if brief.shipping_methods or brief.product_kinds or brief.price_rules:
        names = ["get_class"] if brief.shipping_methods or brief.price_rules else []
        names += ["get_model"]
        found.append(f"from oscar.core.loading import {', '.join(names)}")
    return found
