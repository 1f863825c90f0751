"""What the Django kit makes of each part, without a host: files, migrations, descriptions, catalogues."""

from __future__ import annotations

import ast
import json
import unittest
from typing import Any

import jsonschema

from swift_sprout.actions.making import part_from_line
from swift_sprout.core.brief import Brief, brief_from_toml, contradictions
from swift_sprout.core.errors import WrongUse
from swift_sprout.core.fields import TYPES
from swift_sprout.core.names import name_family
from swift_sprout.core.parts.kinds import KINDS
from swift_sprout.hosts.kits.django.composing import migrations
from swift_sprout.hosts.kits.django.composing.contents import visible_texts
from swift_sprout.hosts.kits.django.composing.module import generate
from swift_sprout.hosts.kits.django.composing.shared import Site
from swift_sprout.hosts.kits.django.facts import django
from swift_sprout.hosts.kits.django.kit import KIT
from swift_sprout.hosts.python.layouts import SiteLayout
from swift_sprout.hosts.shared.generating import templates_of

from ..support import BRIEFS

#  what Django itself can keep; the others are of hosts that build on it
PLAIN = [kind for kind in TYPES if kind not in ("image", "document", "content")]
REGISTER = brief_from_toml((BRIEFS / "berth_register.toml").read_text("utf-8"), "x")
SITE = Site("berth_register", SiteLayout("base.html", "content"))


def brief_of(*lines: tuple[str, str]) -> Brief:
    """A brief of parts that are said on lines."""
    brief = Brief(name_family("Berth register"))
    for kind, line in lines:
        brief = brief.with_part(kind, part_from_line(kind, line))
    return brief


BERTH = ("record", "Berth: number text(12), length_m decimal(5,1)")


def files(*lines: tuple[str, str], site: Site = SITE) -> dict[str, str]:
    """The text files that a brief makes."""
    made = generate(KIT.data, brief_of(*lines), site)
    return {path: content.decode() for path, content in made.items() if not path.endswith(".mo")}


def names(text: str) -> set[str]:
    """The classes and functions of a Python file."""
    return {node.name for node in ast.parse(text).body if isinstance(node, ast.ClassDef | ast.FunctionDef)}


class Files(unittest.TestCase):
    def test_every_file_is_told_and_parses(self):
        made = generate(KIT.data, REGISTER, SITE)
        for path, content in made.items():
            with self.subTest(path):
                if path.endswith(".py"):
                    ast.parse(content)
                elif path.endswith(".json"):
                    json.loads(content)
        self.assertEqual(made, generate(KIT.data, REGISTER, SITE))

    def test_what_is_taken_from_the_last_files_is_what_would_be_made(self):
        """Each part of the register is left out in turn; the rest is then made beside the whole, and the whole beside it."""
        whole = generate(KIT.data, REGISTER, SITE)
        for kind in KINDS:
            dropped: dict[str, Any] = {KINDS[kind][0]: ()}
            less = REGISTER._replace(**dropped)
            if contradictions(less):
                continue
            with self.subTest(kind):
                plain = generate(KIT.data, less, SITE)
                self.assertEqual(generate(KIT.data, less, SITE, (REGISTER, whole)), plain)
                self.assertEqual(generate(KIT.data, REGISTER, SITE, (less, plain)), whole)

    def test_a_kit_carries_every_kind_and_has_a_word_for_each_file(self):
        self.assertEqual(set(KIT.data.parts) | set(KIT.data.facts.instead), set(KINDS))
        for entry in KIT.data.facts.file:
            self.assertTrue(entry.why, entry)
            self.assertTrue((KIT.data.folder / "templates" / entry.template).is_file(), entry)

    def test_pages_in_every_view(self):
        made = files(
            BERTH,
            ("page", "/berths: Berths, shows Berth"),
            ("page", "/list: List, shows Berth, view list, access signed in"),
            ("page", "/one/{berth: integer}: One, shows Berth, view one, access staff"),
            ("page", "/form: Form, shows Berth, view form"),
            ("page", "/form/{berth: integer}: Change, shows Berth, view form"),
            ("page", "/plain/{day}/{mark: uuid}: Plain, methods get post, also /simple/{day}/{mark: uuid}"),
        )
        self.assertEqual(
            names(made["views.py"]),
            {
                "BerthsList",
                "BerthsDetail",
                "ListList",
                "OneBerthDetail",
                "FormForm",
                "FormBerthForm",
                "PlainDayMarkPage",
            },
        )
        for piece in (
            'pk_url_kwarg = "berth"',
            "class FormForm(PermissionRequiredMixin, CreateView)",
            "class FormBerthForm(PermissionRequiredMixin, UpdateView)",
            'permission_required = "berth_register.change_berth"',
            'http_method_names = ["get", "post", "head", "options"]',
            'success_url = reverse_lazy("berth_register:berths")',
            "class ListList(LoginRequiredMixin, ListView)",
        ):
            self.assertIn(piece, made["views.py"])
        urls = made["urls.py"]
        self.assertIn('path("one/<int:berth>/"', urls)
        self.assertIn('path("simple/<str:day>/<uuid:mark>/"', urls)
        self.assertLess(urls.index("form/<int:berth>/"), urls.index("plain/<str:day>"))

    def test_a_site_without_layout_and_a_mount(self):
        made = files(
            BERTH, ("page", "/harbour/berths: Berths, shows Berth"), site=Site("x.berth_register", mount="/harbour/")
        )
        self.assertIn('path("berths/"', made["urls.py"])
        self.assertIn("<!doctype html>", made["templates/berth_register/layout.html"])
        self.assertIn('name = "x.berth_register"', made["apps.py"])
        plain = files(BERTH, ("page", "/berths: Berths, shows Berth"), site=SITE._replace(named=False))
        self.assertNotIn("app_name", plain["urls.py"])
        self.assertIn('{% url "berths-detail" item.pk %}', plain["templates/berth_register/berths_list.html"])

    def test_commands_with_every_sort_of_parameter(self):
        made = files(
            BERTH,
            (
                "command",
                'Tell all: Says "it" all, lists Berth, positional "day: date, default today", positional "loud: yes/no, optional",'
                ' named "depth: decimal(4,1), optional", named "tide: choice(high, low)", named "quiet: yes/no",'
                ' named "limit: integer, default 3"',
            ),
        )
        text = made["management/commands/tell_all.py"]
        for piece in (
            'parser.add_argument("day", type=datetime.date.fromisoformat, nargs="?", default=datetime.date.today()',
            '"--depth", type=Decimal',
            '"--tide", choices=["high", "low"], required=True',
            '"--quiet", action=argparse.BooleanOptionalAction',
            'records[: options["limit"]]',
        ):
            self.assertIn(piece, text)
        self.assertEqual(ast.get_docstring(ast.parse(text)), 'Says "it" all')

    def test_services_are_handed_what_they_use(self):
        made = files(
            BERTH,
            ("service", "Finder: Finds, uses Berth, uses clock, uses log, uses mail, uses settings"),
            ("service", "Booker, uses Finder"),
        )
        text = made["services.py"]
        self.assertIn("def __init__(self, berths, clock, log, send_mail, settings):", text)
        self.assertIn("Finder(berths=models.Berth.objects, clock=timezone.now, log=logging.getLogger(__name__)", text)
        self.assertIn("return Booker(finder=finder())", text)

    def test_every_event_has_a_signal(self):
        from swift_sprout.core.parts.programs import EVENTS

        self.assertEqual(set(django(KIT.data).events), set(EVENTS) - {"order placed"})  # that is heard in shops
        for event in django(KIT.data).events:
            of = ", of Berth" if event.startswith("record") else ""
            text = files(BERTH, ("listener", f"Hear it, on {event}{of}"))["listeners.py"]
            with self.subTest(event):
                self.assertIn("def hear_it(", text)
                self.assertIn("**kwargs):", text)

    def test_texts_of_every_kind_go_through_translation(self):
        texts = visible_texts(generate(KIT.data, REGISTER, SITE).items())
        for text in (
            "Berth register",
            "Bookings",
            "Length in metres",
            "Granted",
            "Book a berth",
            "Berths at a glance",
            "Save",
        ):
            self.assertIn(text, texts)

    def test_odd_texts_stay_texts_in_every_file(self):
        odd = '{{ x }} {% y %} "quoted" \\ <b> «z» 潮'
        brief = REGISTER._replace(
            summary=odd,
            blocks=(REGISTER.blocks[0]._replace(text=odd),),
            pages=tuple(page._replace(title=odd, text=odd) for page in REGISTER.pages),
            menu=tuple(entry._replace(title=odd) for entry in REGISTER.menu[1:2] if not entry.parent),
            services=(REGISTER.services[0]._replace(summary=odd),),
            commands=(REGISTER.commands[0]._replace(summary=odd),),
        )
        made = generate(KIT.data, brief, SITE)
        views = ast.parse(made["views.py"])
        self.assertIn(odd, [node.value for node in ast.walk(views) if isinstance(node, ast.Constant)])
        self.assertEqual(ast.get_docstring(ast.parse(made["management/commands/list_berths.py"])), odd)
        self.assertNotIn(b"<b>", made["templates/berth_register/blocks/berths_at_a_glance.html"])


class Description(unittest.TestCase):
    def test_the_description_of_endpoints(self):
        made = files(
            (
                "record",
                "Berth: " + ", ".join(f"f{number} {kind}" for number, kind in enumerate(PLAIN) if kind != "choice"),
            ),
            (
                "record",
                "Booking: berth -> Berth, crew ->> user, state choice(asked, granted), nights integer, optional",
            ),
            ("endpoint", "/api/bookings: Bookings, shows Booking, access signed in, methods get post put delete"),
            ("endpoint", "/api/berths: Berths, shows Berth"),
        )
        document = json.loads(made["openapi.json"])
        self.assertEqual(document["openapi"], "3.1.0")
        self.assertEqual(set(document["paths"]["/api/bookings/{id}/"]), {"parameters", "get", "put", "delete"})
        self.assertEqual(set(document["paths"]["/api/bookings/"]["get"]["responses"]), {"200", "401", "403"})
        booking = document["components"]["schemas"]["Booking"]
        jsonschema.Draft202012Validator.check_schema(booking)
        good = {"id": 1, "berth": 3, "crew": [1, 2], "state": "asked", "nights": None}
        jsonschema.validate(good, booking)
        for wrong in ({**good, "state": "lost"}, {**good, "berth": "x"}, {key: good[key] for key in ("id", "berth")}):
            with self.assertRaises(jsonschema.ValidationError):
                jsonschema.validate(wrong, booking)
        endpoints = made["endpoints.py"]
        self.assertIn('"POST": ("berth_register.add_booking",)', endpoints)
        self.assertIn('"GET": ()', endpoints)

    def test_who_may_read_is_asked_on_every_method(self):
        made = files(BERTH, ("endpoint", "/api: Berths, shows Berth, access may read Berth, methods get delete"))
        self.assertIn('"GET": ("berth_register.view_berth",)', made["endpoints.py"])
        self.assertIn('"DELETE": ("berth_register.view_berth", "berth_register.delete_berth")', made["endpoints.py"])


class Migrations(unittest.TestCase):
    def between(
        self,
        before: Brief,
        after: Brief,
        there: tuple[str, ...] = ("0001_initial",),
        models: bytes = b"",
        now: bytes = b"",
    ) -> str:
        made = migrations.following(templates_of(KIT.data), KIT.data, before, after, there, now, models)
        return f"{made.name}\n{made.text}" if made else ""

    def test_records_that_point_at_each_other(self):
        brief = brief_of(
            ("record", "Berth: name text(3), last -> Booking (last_of), optional"),
            ("record", "Booking: berth -> Berth (bookings)"),
        )
        first = migrations.initial(templates_of(KIT.data), KIT.data, brief)
        assert first is not None
        self.assertLess(first.text.index('name="Berth"'), first.text.index("AddField"))
        self.assertEqual(first.text.count("CreateModel"), 2)
        ast.parse(first.text)

    def test_labels_in_models_that_stand_are_those_of_the_migration(self):
        brief = brief_of(("record", "Tide: station text(80)"))
        then = b'class Tide(models.Model):\n    station = models.CharField(_("station"), max_length=80)\n'
        now = then.replace(b'station")', b'Station")')
        self.assertEqual(self.between(brief, brief, models=now, now=now), "")
        self.assertIn('verbose_name="station"', self.between(brief, brief, models=then, now=now))
        self.assertRegex(self.between(brief, brief, models=now, now=then), r"verbose_name=.Station.")
        self.assertEqual(self.between(brief, brief, models=b"<<<<<<< ours\n", now=b"class"), "")

    def test_every_sort_of_change(self):
        before = brief_of(BERTH, ("record", "Old: a text(3)"))
        after = brief_of(
            ("record", "Berth: number text(20), quay text(5), lit yes/no, opened date, optional"),
            ("record", "Booking: berth -> Berth, clerk -> user, optional"),
            ("permission", "Close it, on Berth"),
        )
        text = self.between(before, after)
        for piece in (
            'CreateModel(\n            name="Booking"',
            'RemoveField(\n            model_name="berth",\n            name="length_m"',
            'AlterField(\n            model_name="berth",\n            name="number"',
            "preserve_default=False",
            'AlterModelOptions(\n            name="berth"',
            '"permissions": [("close_it", "Close it")]',
            'DeleteModel(\n            name="Old"',
            '("berth_register", "0001_initial")',
            "migrations.swappable_dependency(settings.AUTH_USER_MODEL)",
        ):
            self.assertIn(piece, text)
        self.assertTrue(text.startswith("0002_booking_and_more\n"))
        ast.parse(text.partition("\n")[2])
        self.assertEqual(self.between(after, after), "")

    def test_every_plain_type_can_be_added_to_a_table_with_rows(self):
        for kind in PLAIN:
            spelled = "choice(a, b)" if kind == "choice" else kind
            after = brief_of(("record", f"Berth: number text(12), length_m decimal(5,1), more {spelled}"))
            with self.subTest(kind):
                if kind == "uuid":
                    with self.assertRaises(WrongUse):
                        self.between(brief_of(BERTH), after)
                else:
                    text = self.between(brief_of(BERTH), after)
                    ast.parse(text.partition("\n")[2])
                    self.assertIn('name="more"', text)

    def test_a_field_that_a_person_spelled_is_taken_as_it_stands(self):
        models = (
            b"class Berth(models.Model):\n"
            b'    number = models.CharField(_("No."), max_length=20, db_index=True)\n'
            b"    odd = models.CharField(max_length=LONGEST)\n"
        )
        after = brief_of(("record", "Berth: number text(20), length_m decimal(5,1)"))
        text = self.between(brief_of(BERTH), after, models=models)
        self.assertIn("models.CharField(verbose_name='No.', max_length=20, db_index=True)", text)
        unsure = self.between(brief_of(BERTH), after, models=models.replace(b"max_length=20", b"max_length=LONGEST"))
        self.assertIn("max_length=20", unsure)
        self.assertNotIn("LONGEST", unsure)

    def test_numbers_follow_the_last_and_the_first_makes_the_folder(self):
        after = brief_of(("record", "Berth: number text(20), length_m decimal(5,1)"))
        self.assertTrue(
            self.between(brief_of(BERTH), after, ("0001_initial", "0007_by_hand")).startswith("0008_alter_berth_number")
        )
        self.assertTrue(self.between(brief_of(), brief_of(BERTH), ()).startswith("0001_initial"))
