"""Parts read from modules that people wrote in their own ways, and what the rules say of files of other forms."""

from __future__ import annotations

from swift_sprout.actions.checking import check
from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.core.brief import Brief
from swift_sprout.hosts.kits.django.dependencies import needed_by_code
from swift_sprout.hosts.kits.django.host import DjangoHost
from swift_sprout.hosts.kits.django.placing import Wanted, places_in, put_in, take_out

from ..support import Case, SiteCase

LIBRARY = """
from django.conf import settings
from django.contrib.auth import get_user_model
from django.db import models
from django.utils.translation import gettext as _


class Timed(models.Model):
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        abstract = True


class Pilot(Timed):
    \"\"\"Who brings ships in.

    More is said elsewhere.
    \"\"\"

    licence = models.CharField(primary_key=True, max_length=9)
    name = models.CharField("Full name", max_length=60, help_text='Say "all" of it')
    rank = models.CharField(max_length=2, choices=[("a", "Able"), ("m", "Master, retired")], default="a")
    knots = models.PositiveSmallIntegerField(default=4)
    share = models.DecimalField(max_digits=5, decimal_places=2, null=True, blank=True)
    raw = models.BinaryField()
    mentor = models.ForeignKey("self", models.CASCADE, null=True)
    boss = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    deputy = models.OneToOneField(get_user_model(), on_delete=models.CASCADE)
    seen = models.ManyToManyField("ferries.Sailing", related_name="pilots")
    since = models.DateField(default="2001-01-01")
    odd = models.IntegerField(default=lambda: 3)

    class Meta:
        ordering = ("-name", "missing")
        verbose_name_plural = "Pilots' list"
        permissions = (("steer", "May steer"), ("hail_ships", "Hail ships"))

    def __str__(self):
        return "%s" % self.rank


class Shadow(models.Model):
    name = models.TextField()

    class Meta:
        managed = False
"""
VIEWS = """
from django.contrib.admin.views.decorators import staff_member_required
from django.contrib.auth.decorators import login_required, permission_required
from django.contrib.auth.mixins import UserPassesTestMixin
from django.shortcuts import render
from django.views import generic

from .models import Pilot


@login_required
def start(request):
    return render(request, "pilots/start.html")


@permission_required("pilots.hail_ships")
def hail(request, ship):
    return render(request, "pilots/hail.html")


@staff_member_required
def office(request):
    return render(request, "pilots/office.html")


class Changed(UserPassesTestMixin, generic.UpdateView):
    model = Pilot
    fields = ["name"]

    def test_func(self):
        return self.request.user.is_staff
"""
URLS = """
from django.urls import path, re_path

from . import views

app_name = "pilots"
urlpatterns = [
    path("", views.start, name="start"),
    path("hail/<str:ship>/", views.hail, name="hail"),
    path("office/", views.office, name="office"),
    path("<slug:licence>/change/", views.Changed.as_view(), name="change"),
    re_path(r"^old/(\\\\d+)/$", views.start),
]
"""


class Reading(SiteCase):
    def setUp(self) -> None:
        super().setUp()
        self.put("pilots/__init__.py", "")
        self.put("pilots/apps.py", "from django.apps import AppConfig\n\n\nclass P(AppConfig):\n    name = 'pilots'\n")
        self.put("pilots/models.py", LIBRARY)
        self.put("pilots/views.py", VIEWS)
        self.put("pilots/urls.py", URLS)
        self.put(
            "pilots/management/commands/call_pilots.py", '"""Calls all pilots.\n\nMore."""\nclass Command:\n    pass\n'
        )
        self.change(
            "brindle_quay/urls.py", "urlpatterns = [", 'urlpatterns = [\n    path("pilots/", include("pilots.urls")),'
        )

    def host(self) -> DjangoHost:
        host = open_host(HostChoice(str(self.site))).host
        assert isinstance(host, DjangoHost)
        return host

    def brief(self) -> Brief:
        return self.host().read_brief("pilots").brief

    def test_records_and_permissions(self):
        read = self.host().read_brief("pilots")
        (pilot,) = read.brief.records
        fields = {field.name: field for field in pilot.fields}
        self.assertEqual(set(fields), {"name", "rank", "knots", "share", "boss", "deputy", "seen", "since", "odd"})
        self.assertEqual((fields["name"].label, fields["name"].help), ("Full name", 'Say "all" of it'))
        self.assertEqual([choice.label for choice in fields["rank"].choices], ["Able", "Master, retired"])
        self.assertEqual((fields["boss"].target, fields["deputy"].unique), ("user", True))
        self.assertEqual((fields["seen"].target, fields["seen"].reverse), ("ferries.Sailing", "pilots"))
        self.assertEqual((fields["since"].default, fields["odd"].default), ("2001-01-01", None))
        self.assertEqual((pilot.order_by, pilot.shown_as), (("-name",), "rank"))
        self.assertEqual((pilot.summary, pilot.plural.title), ("Who brings ships in.", "Pilots' list"))
        self.assertEqual([one.name.title for one in read.brief.permissions], ["Steer", "Hail ships"])
        said = " ".join(what for _, what in read.left_out)
        for name in ("licence", "raw", "mentor"):
            self.assertIn(f"Pilot.{name}", said)
        self.assertIn("Pilot.mentor: a brief has no record that points to itself", said)

    def test_what_a_model_says_of_its_table_is_named_as_left_out(self):
        self.change(
            "pilots/models.py", "    class Meta:\n", '    class Meta:\n        unique_together = [("name", "rank")]\n'
        )
        read = self.host().read_brief("pilots")
        self.assertIn("Pilot.Meta.unique_together", " ".join(what for _, what in read.left_out))

    def test_choices_that_are_classes_and_bases_of_other_files(self):
        self.put("pilots/models/__init__.py", "from .base import Timed\nfrom .watch import Watch\n")
        (self.site / "pilots/models.py").unlink()
        self.put(
            "pilots/models/base.py",
            "from django.db import models\n\n\nclass Timed(models.Model):\n    class Meta:\n        abstract = True\n",
        )
        self.put(
            "pilots/models/watch.py",
            "from django.db import models\n\nfrom .base import Timed\n\n\n"
            'class Side(models.TextChoices):\n    PORT = "p", "Port side"\n    STARBOARD = "s"\n\n\n'
            "class Watch(Timed):\n    class Kind(models.TextChoices):\n"
            '        FIRST = "first", _("First watch")\n\n'
            "    side = models.CharField(max_length=1, choices=Side)\n"
            "    kind = models.CharField(max_length=9, choices=Kind.choices, default=Kind.FIRST)\n",
        )
        read = self.host().read_brief("pilots")
        watch = read.brief.record("Watch")
        assert watch is not None
        found = {field.name: [(one.value, one.label) for one in field.choices] for field in watch.fields}
        self.assertEqual(found, {"side": [("p", "Port side"), ("s", "Starboard")], "kind": [("first", "First watch")]})
        self.assertEqual([field.default for field in watch.fields], [None, "first"])

    def test_pages_guards_and_commands(self):
        brief = self.brief()
        pages = {page.path: page for page in brief.pages}
        self.assertEqual(pages["/pilots"].access, "signed in")
        self.assertEqual(pages["/pilots/hail/{ship}"].access, "may Hail ships")
        self.assertEqual(pages["/pilots/office"].access, "staff")
        self.assertNotIn("/pilots/old", " ".join(pages))
        self.assertEqual(
            [(one.name.snake, one.summary) for one in brief.commands], [("call_pilots", "Calls all pilots.")]
        )

    def test_what_the_code_rests_on(self):
        host = self.host()
        self.put("pilots/templates/pilots/start.html", '{% extends "harbour_office/front_page.html" %}')
        found = needed_by_code(host.view, host.module("pilots"))
        self.assertEqual(
            {name: path.name for name, (path, _) in found.items()},
            {"ferries": "models.py", "harbour_office": "start.html"},
        )

    def test_files_of_other_forms_raise_no_alarm(self):
        """Files that people named as ours are, and wrote in another way."""
        for path, text in (
            ("groups.py", "GROUPS = {'a': ['b'], 'c': None}\n"),
            ("menu.py", "MENU = [{'title': 'x', 'page': reverse}, 'y', {**other}]\nother = 3\n"),
            (
                "services.py",
                "class A:\n    def __init__(self, b, *, c=1):\n        pass\n\n\ndef a(**more):\n    return A(**more), A(1)\n",
            ),
            (
                "endpoints.py",
                "class Endpoint:\n    pass\n\n\nclass Mine(Endpoint):\n    needs = make()\n\n    def get(self):\n        pass\n",
            ),
            ("openapi.json", '{"paths": ["/a"]}'),
            ("sample_data.json", '[1, {"rows": 3}, {"record": "X"}, null]'),
            ("preferences.py", ""),
            ("sprout.made", "not ours\n"),
            ("locale/de/LC_MESSAGES/django.po", 'msgid ""\nmsgstr ""\n'),
        ):
            self.put(f"ferries/{path}", text)
        (self.site / "ferries/locale/de/LC_MESSAGES/django.mo").write_bytes(b"")
        (self.site / "ferries/locale/de/LC_MESSAGES/django.mo").unlink()
        result = check(open_host(HostChoice(str(self.site))), ["ferries"], static=True)
        codes = [one.code for one in result.findings]
        told = {"placed.catalogue-not-compiled", "enabled.name-undefined"}  # reverse and make are defined nowhere
        self.assertLessEqual(set(codes), told, codes)

    def test_the_same_text_twice_in_the_menu_and_a_menu_that_is_code(self):
        self.put("ferries/menu.py", "from django.urls import reverse_lazy\n\nMENU = build(reverse_lazy('timetable'))\n")
        self.assertEqual(self.host().read_brief("ferries").brief.menu, ())


class Templates(Case):
    wanted = Wanted("berth_register_blocks", "free_berths", ("/", "/quay"))

    def test_a_block_goes_last_into_the_content(self):
        for text, after in (
            ("{% block content %}\nA\n{% endblock %}\n", "{% block content %}\nA\nX\n{% endblock %}\n"),
            (
                "{% block title %}T{% endblock %}{% block main %}A{% endblock %}",
                "{% block title %}T{% endblock %}{% block main %}AX{% endblock %}",
            ),
            (
                "{% block a %}{% block content %}1{% endblock content %}2{% endblock %}",
                "{% block a %}{% block content %}1X{% endblock content %}2{% endblock %}",
            ),
            ("<body>\n<main>\nA\n</main>\n</body>", "<body>\n<main>\nA\nX\n</main>\n</body>"),
            ("plain", "plainX"),
        ):
            with self.subTest(text):
                put = put_in(text, next(places_in(text)), self.wanted, "\n")
                self.assertEqual(put, after.replace("X", self.wanted.line))
                self.assertEqual(take_out(put, self.wanted), text)

    def test_only_what_was_put_in_is_taken_out(self):
        by_hand = "{% load berth_register_blocks %}\n<div>{% free_berths %}</div>\n"
        self.assertEqual(take_out("no block here", self.wanted), "no block here")
        self.assertEqual(take_out(by_hand, self.wanted, with_load=True), by_hand)
        self.assertEqual(self.wanted.line, '{% load berth_register_blocks %}{% free_berths on="/ /quay/" %}')
