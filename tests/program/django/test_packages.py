"""What a host has from packages: migrations that others replace, loaders of templates, settings."""

import sqlite3
from contextlib import closing
from typing import Any

from ...support import Ran, SiteCase, host_python

SETTINGS = "brindle_quay/settings.py"
LOADERS = """            "loaders": [
                (
                    "django.template.loaders.cached.Loader",
                    ["django.template.loaders.filesystem.Loader", "django.template.loaders.app_directories.Loader"],
                )
            ],
            "context_processors": ["""
HIDING = """

class Hiding(type):
    def __getattribute__(cls, name):
        if name == "__mro__":
            raise RuntimeError("no bases here")
        return super().__getattribute__(name)


class Landing(metaclass=Hiding):
    pass
"""
#  one page takes one row of a table, which is empty in truth; another one has a form about a row
BUOYS = {
    "__init__.py": "",
    "migrations/__init__.py": "",
    "models.py": "from django.db import models\n\n\nclass Buoy(models.Model):\n    name = models.CharField(max_length=20)\n",
    "urls.py": """from django.urls import path

from . import views

urlpatterns = [path("", views.newest), path("<int:pk>/", views.Rename.as_view())]
""",
    "views.py": """from django.http import HttpResponse
from django.views.generic import UpdateView

from .models import Buoy


def newest(request):
    buoy = Buoy.objects.last()
    return HttpResponse(f"<p>{buoy.name if buoy else 'none yet'}</p>")


class Rename(UpdateView):
    model = Buoy
    fields = ["name"]
    template_name = "buoys/rename.html"

    def form_valid(self, form):
        form.save()
        return HttpResponse(f"<p>{form.instance.name}</p>")
""",
    "templates/buoys/rename.html": "<form method=post>{% csrf_token %}{{ form }}<button>Rename</button></form>\n",
}


class FromPackages(SiteCase):
    def checked(self, *words: str) -> Ran:
        return self.sprout("check", "--format", "json", *words)

    def told(self, *words: str) -> list[tuple[str, str, str]]:
        """Return code, severity and file of what a check says first hand, of the host and its modules."""
        setup: dict[str, Any] = self.checked(*words).json["setups"][0]
        found = [*setup["findings"], *(one for module in setup["modules"] for one in module["findings"])]
        return [(one["code"], one["severity"], one["file"]) for one in found if not one.get("follows_from")]

    def test_migrations_that_are_nowhere_are_told_at_the_setting(self) -> None:
        self.change(SETTINGS, "DATABASES =", 'MIGRATION_MODULES = {"sessions": "brindle_quay.gone"}\nDATABASES =')
        self.assertEqual(self.told()[0], ("served.not-told", "error", SETTINGS))

    def test_a_step_that_only_adds_to_what_is_told_is_a_note_where_it_fails(self) -> None:
        text = (self.site / "ferries/models.py").read_text("utf-8")
        self.put("ferries/models.py", text + HIDING)
        self.assertEqual(self.told(), [("served.less-told", "note", "ferries/models.py")])

    def test_a_migration_that_replaces_another_leaves_the_database_where_it_is(self) -> None:
        path = "ferries/migrations/0001_initial.py"
        text = (self.site / path).read_text("utf-8")
        head, _, body = text.partition("    initial = True\n")
        self.put(path, f'{head}    replaces = [("ferries", "0001_first")]\n    initial = True\n{body}')
        with closing(sqlite3.connect(self.site / "brindle_quay.sqlite3")) as database, database:
            database.execute(
                "insert into django_migrations (app, name, applied) values ('ferries', '0001_first', '2026-01-01')"
            )
        self.assertEqual(self.told(), [])

    def test_a_broken_template_that_nobody_names_is_a_note(self) -> None:
        self.put("templates/quay/wreck.html", '{% extends "admin/base_site.html" %}{% harbour_flag %}\n')
        self.assertIn(("served.template-unread-idle", "note", "templates/quay/wreck.html"), self.told())

    def test_loaders_that_the_settings_name_look_where_the_hosts_own_would(self) -> None:
        self.change(SETTINGS, '        "APP_DIRS": True,\n', "")
        self.change(SETTINGS, '            "context_processors": [', LOADERS)
        self.assertEqual(self.told(), [])
        self.put("ferries/templates/ferries/wreck.html", "{% if ferries %}\n")
        self.assertIn(("served.template-unread-idle", "note", "ferries/templates/ferries/wreck.html"), self.told())

    def test_a_block_of_the_sites_own_template_that_its_layout_lacks(self) -> None:
        self.put("templates/quay.html", '{% extends "base.html" %}\n{% block contnt %}Quay{% endblock %}\n')
        self.assertEqual(self.told("--static"), [("served.block-unknown", "error", "templates/quay.html")])
        self.put(
            "templates/quay.html", '{% extends "base.html" %}\n{% block for_the_layout_to_come %}Quay{% endblock %}\n'
        )
        self.assertEqual(self.told("--static"), [])

    def test_a_function_that_a_setting_names_must_be_there(self) -> None:
        self.put("brindle_quay/money.py", "def to_cents(amount):\n    return amount\n")
        for name, wanted in (("to_cents", []), ("to_cent", [("enabled.setting-names-nothing", "error", SETTINGS)])):
            with self.subTest(name):
                text = (self.site / SETTINGS).read_text("utf-8").partition("QUAY_")[0]
                self.put(SETTINGS, f'{text}QUAY_ROUNDING_FUNCTION = "brindle_quay.money.{name}"\n')
                self.assertEqual(self.told("--static"), wanted)

    def test_forms_are_submitted_though_other_pages_are_asked_again_without_made_up_records(self) -> None:
        for path, text in BUOYS.items():
            self.put(f"buoys/{path}", text)
        self.change(SETTINGS, '    "ferries",', '    "buoys",\n    "ferries",')
        line = '    path("ferries/", include("ferries.urls")),\n'
        self.change("brindle_quay/urls.py", line, f'    path("buoys/", include("buoys.urls")),\n{line}')
        for words in (("makemigrations", "buoys"), ("migrate", "buoys")):
            self.assertEqual(host_python("manage.py", *words, cwd=self.site).returncode, 0)
        self.assertEqual(self.told("buoys"), [])
        self.change("buoys/views.py", "form.instance.name", "form.instance.title")
        self.assertEqual(self.told("buoys"), [("served.form-breaks", "error", "buoys/views.py")])
