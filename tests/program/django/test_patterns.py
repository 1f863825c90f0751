"""Addresses written as regular expressions: pages behind them are opened, and what is guessed is judged with care."""

from typing import ClassVar

from ...support import SiteCase

URLS = """from django.urls import re_path
from django.utils.translation import gettext_lazy as _

from . import views

app_name = "lockage"
urlpatterns = [
    re_path(r"^$", views.locks, name="locks"),
    re_path(r"^(?P<pk>\\d+)/$", views.lock, name="lock"),
    re_path(r"^(?P<slug>[-\\w]+)/sign/$", views.sign, name="sign"),
    re_path(r"^deeper-than/(\\d+)/(?:(up|down)/)?$", views.deeper, name="deeper"),
    re_path(r"^(?P<year>\\d{4})/(?P<month>0[1-9]|1[0-2])/$", views.month, name="month"),
    re_path(r"^list\\.(?P<kind>csv|txt)$", views.listed, name="listed"),
    re_path(_(r"^keeper/(?P<name>\\w+)/$"), views.keeper, name="keeper"),
    re_path(r"^(?!old/)gate-(?P<number>[0-9a-f]{4})/$", views.gate, name="gate"),
]
"""
VIEWS = """import datetime

from django.http import Http404, HttpResponse, HttpResponseForbidden
from django.shortcuts import get_object_or_404, render

from .models import Lock

KEEPERS = {"drake": "A. Drake"}


def locks(request):
    return render(request, "lockage/locks.html", {"locks": Lock.objects.all()})


def lock(request, pk):
    return HttpResponse(f"<p>{get_object_or_404(Lock, pk=pk).name}</p>")


def sign(request, slug):
    return HttpResponse(f"<p>{get_object_or_404(Lock, slug=slug).name}</p>")


def deeper(request, depth, order="up"):
    found = Lock.objects.filter(depth__gt=int(depth)).order_by("depth")
    return render(request, "lockage/locks.html", {"locks": found})


def month(request, year, month):
    return HttpResponse(f"<p>{datetime.date(int(year), int(month), 1)}</p>")


def listed(request, kind):
    return HttpResponse("\\n".join(Lock.objects.values_list("name", flat=True)), content_type="text/plain")


def keeper(request, name):
    if name not in KEEPERS:
        raise Http404(name)
    return HttpResponse(f"<p>{KEEPERS[name]}</p>")


def gate(request, number):
    return HttpResponse(f"<p>Gate {int(number, 16)}</p>")
"""
MODELS = """from django.db import models


class Lock(models.Model):
    name = models.CharField(max_length=30)
    slug = models.SlugField(unique=True)
    depth = models.IntegerField(default=3)
"""
TEMPLATE = "{% for lock in locks %}<a href=\"{% url 'lockage:lock' lock.pk %}\">{{ lock.name }}</a>{% endfor %}\n"
MODULE = "lockage"


class Patterns(SiteCase):
    files: ClassVar = {
        "__init__.py": "",
        "migrations/__init__.py": "",
        "models.py": MODELS,
        "urls.py": URLS,
        "views.py": VIEWS,
        "templates/lockage/locks.html": TEMPLATE,
    }

    def setUp(self) -> None:
        super().setUp()
        for name, text in self.files.items():
            self.put(f"{MODULE}/{name}", text)
        self.change("brindle_quay/settings.py", '    "ferries",', f'    "{MODULE}",\n    "ferries",')
        line = '    path("ferries/", include("ferries.urls")),\n'
        self.change("brindle_quay/urls.py", line, f'    path("locks/", include("{MODULE}.urls")),\n{line}')
        for words in (("makemigrations", MODULE), ("migrate", MODULE)):
            self.run_host("manage.py", *words, "--verbosity", "0")

    def run_host(self, *words: str) -> None:
        from ...support import host_python

        ran = host_python(*words, cwd=self.site)
        self.assertEqual(ran.returncode, 0, ran.stdout + ran.stderr)

    def test_each_page_that_can_be_made_up_is_opened(self) -> None:
        ran = self.assert_ok(self.sprout("check", MODULE, "--format", "json"))
        self.assertEqual(self.codes(ran, MODULE), [])
        (module,) = ran.json["setups"][0]["modules"]
        opened = set(module["addresses"])
        wanted = {"/locks/", "/locks/1/", "/locks/deeper-than/1/", "/locks/2026/01/", "/locks/gate-0000/"}
        self.assertLessEqual(wanted, opened)

    def test_a_fault_behind_one_is_named_with_its_line(self) -> None:
        for old, new, line in (
            ("depth__gt=", "deep__gt=", 25),
            ('order_by("depth")', 'order_by("deep")', 25),
            ("slug=slug", "slog=slug", 21),
            ('values_list("name"', 'values_list("nam"', 34),
            ('(f"<p>Gate', '(contents=f"<p>Gate', 44),
            ("def month(request, year, month)", "def month(request, year)", 29),
        ):
            with self.subTest(new):
                self.put(f"{MODULE}/views.py", VIEWS.replace(old, new))
                ran = self.sprout("check", MODULE, "--format", "json")
                self.assertEqual(self.codes(ran, MODULE)[:1], ["served.error"])
                (module,) = ran.json["setups"][0]["modules"]
                found = module["findings"][0]
                self.assertEqual(found["file"], f"{MODULE}/views.py")
                self.assertLessEqual(abs(found["line"] - line), 1, found)

    def test_answers_that_are_right_for_what_was_guessed_are_no_finding(self) -> None:
        strict = "    if name not in KEEPERS:\n        raise Http404(name)\n"
        for old, new in (
            (strict, ""),
            (strict, "    if name not in KEEPERS:\n        return HttpResponseForbidden('not you')\n"),
            (strict, "    if name not in KEEPERS:\n        return HttpResponse(status=410)\n"),
            (strict, "    if name not in KEEPERS:\n        return HttpResponse(status=503)\n"),
            (strict, "    if name not in KEEPERS:\n        return HttpResponse('')\n"),
            (strict, "    if len(name) < 3:\n        raise ValueError('no name is as short')\n    KEEPERS.setdefault(name, name)\n"),
        ):  # fmt: skip
            with self.subTest(new):
                self.put(f"{MODULE}/views.py", VIEWS.replace(old, new))
                ran = self.sprout("check", MODULE, "--format", "json")
                self.assertEqual(self.codes(ran, MODULE), [])
