"""Reading a Django project's files: settings, addresses, modules, templates and code, without running any of it."""

import ast
from pathlib import Path

from swift_sprout.hosts.kits.django.kit import KIT
from swift_sprout.hosts.kits.django.reading.code import (
    imports_of,
    meta_constant,
    meta_text,
    permissions_declared,
    permissions_named,
    relative_to,
    template_names,
)
from swift_sprout.hosts.kits.django.reading.settings import UNKNOWN
from swift_sprout.hosts.kits.django.reading.tags import read_tags
from swift_sprout.hosts.kits.django.view import HostView

from ..support import Case

MANAGE = 'import os\nos.environ.setdefault("DJANGO_SETTINGS_MODULE", "quay.settings")\n'


class Project(Case):
    def setUp(self) -> None:
        super().setUp()
        self.write("manage.py", MANAGE)
        self.write("quay/__init__.py", "")

    def settings(self, text: str, path: str = "quay/settings.py") -> None:
        self.write(path, text)

    @property
    def view(self) -> HostView:
        return HostView(self.folder, KIT.data)

    def listed(self) -> list[str]:
        return [entry.value for entry in self.view.listed]


class Entry(Project):
    def test_the_settings_module_is_found_as_the_entry_script_does(self):
        self.assertEqual(self.view.project.settings_module, "quay.settings")
        self.write("manage.py", 'import os\nos.environ["DJANGO_SETTINGS_MODULE"] = "quay.fixed"\n')
        self.assertEqual(self.view.project.settings_module, "quay.fixed")
        self.write("manage.py", "import os\nname = 'quay'\nos.environ.setdefault('DJANGO_SETTINGS_MODULE', name)\n")
        self.assertIsNone(self.view.project.settings_module)

    def test_the_environment_wins_over_a_default_and_not_over_an_assignment(self):
        from unittest import mock

        with mock.patch.dict("os.environ", {"DJANGO_SETTINGS_MODULE": "quay.night"}):
            self.assertEqual(self.view.project.settings_module, "quay.night")
            self.write("manage.py", 'import os\nos.environ["DJANGO_SETTINGS_MODULE"] = "quay.fixed"\n')
            self.assertEqual(self.view.project.settings_module, "quay.fixed")

    def test_folders_added_to_the_path(self):
        (self.folder / "modules").mkdir()
        self.write(
            "manage.py",
            MANAGE + "import sys, pathlib\n"
            "sys.path.insert(0, str(pathlib.Path(__file__).resolve().parent / 'modules'))\n",
        )
        self.write("modules/tides/__init__.py", "")
        self.write("modules/tides/models.py", "")
        self.settings("INSTALLED_APPS = ['tides']\n")
        self.assertEqual(self.view.project.import_roots, [self.folder, self.folder / "modules"])
        self.assertEqual([module.name for module in self.view.modules], ["tides"])


class Settings(Project):
    def test_forms_of_the_list(self):
        for text, wanted in {
            "INSTALLED_APPS = ['a', 'b']\n": ["a", "b"],
            "INSTALLED_APPS = ('a',)\n": ["a"],
            "INSTALLED_APPS: list[str] = ['a']\n": ["a"],
            "A = ['a']\nB = ['b']\nINSTALLED_APPS = A + B + ['c']\n": ["a", "b", "c"],
            "A = ['a']\nINSTALLED_APPS = [*A, 'b']\n": ["a", "b"],
            "INSTALLED_APPS = ['a']\nINSTALLED_APPS += ['b']\n": ["a", "b"],
            "INSTALLED_APPS = ['a']\nINSTALLED_APPS.append('b')\nINSTALLED_APPS.extend(['c'])\n": ["a", "b", "c"],
            "INSTALLED_APPS = ['a', 'b']\nINSTALLED_APPS.remove('a')\n": ["b"],
            "INSTALLED_APPS = list(('a', 'b'))\n": ["a", "b"],
            "DEBUG = True\nINSTALLED_APPS = ['a']\nif DEBUG:\n    INSTALLED_APPS += ['b']\n": ["a", "b"],
            "DEBUG = True\nINSTALLED_APPS = ['a']\nif not DEBUG:\n    INSTALLED_APPS += ['b']\n": ["a"],
            "try:\n    from .local import *\nexcept ImportError:\n    pass\nINSTALLED_APPS = ['a']\n": ["a"],
        }.items():
            with self.subTest(text):
                self.settings(text)
                self.assertEqual(self.listed(), wanted)

    def test_conditions_and_unknown_parts_are_told(self):
        self.settings("import os\nINSTALLED_APPS = ['a']\nif os.environ.get('X'):\n    INSTALLED_APPS += ['b']\n")
        self.assertEqual([entry.conditional for entry in self.view.listed], [False, True])
        self.settings("INSTALLED_APPS = ['a'] + made()\n")
        value = self.view.settings.get("INSTALLED_APPS") if self.view.settings else None
        assert value is not None
        self.assertFalse(value.sure)
        self.settings("INSTALLED_APPS = made()\n")
        self.assertEqual(self.listed(), [])
        value = self.view.settings.get("INSTALLED_APPS") if self.view.settings else None
        self.assertIs(value.plain if value else None, UNKNOWN)

    def test_split_settings_follow_stars_names_and_levels(self):
        (self.folder / "quay/settings").mkdir()
        self.write("manage.py", MANAGE.replace("quay.settings", "quay.settings.local"))
        self.settings("", "quay/settings/__init__.py")
        self.settings("INSTALLED_APPS = ['a']\nSECRET = 'x'\n", "quay/settings/base.py")
        self.settings(
            "from .base import *\nfrom quay.more import EXTRA as E\nINSTALLED_APPS += E\n", "quay/settings/local.py"
        )
        self.settings("EXTRA = ['b']\n", "quay/more.py")
        self.assertEqual(self.listed(), ["a", "b"])
        self.assertEqual(self.view.settings.plain("SECRET") if self.view.settings else "", "x")
        names = [path.name for path in self.view.settings.files] if self.view.settings else []
        self.assertEqual(names, ["local.py", "base.py", "more.py"])

    def test_settings_that_import_each_other_come_to_an_end(self):
        self.settings("from .other import *\nINSTALLED_APPS = ['a']\n")
        self.settings("from .settings import *\n", "quay/other.py")
        self.assertEqual(self.listed(), ["a"])

    def test_paths(self):
        head = "from pathlib import Path\nimport os\n"
        for text in (
            "X = Path(__file__).resolve().parent.parent / 'data' / 'quay.db'\n",
            "X = os.path.join(os.path.dirname(os.path.dirname(os.path.abspath(__file__))), 'data', 'quay.db')\n",
            "X = str(Path(__file__).parents[1].joinpath('data', 'quay.db'))\n",
            "B = Path(__file__).parent.parent\nX = B / 'data/quay.db'\n",
        ):
            with self.subTest(text):
                self.settings(head + text)
                value = self.view.settings.plain("X") if self.view.settings else ""
                self.assertEqual(Path(value), self.folder / "data/quay.db")

    def test_what_does_not_parse_names_the_line(self):
        self.settings("A = 1\nINSTALLED_APPS = [\n")
        assert self.view.settings is not None
        self.assertEqual(self.view.settings.broken[0][1], 2)


class Addresses(Project):
    def walk(self, root: str, **files: str) -> list[tuple[str, str, str]]:
        self.settings("ROOT_URLCONF = 'quay.urls'\nINSTALLED_APPS = ['tides']\n")
        self.write("quay/urls.py", root)
        self.write("tides/__init__.py", "")
        for name, text in files.items():
            self.write(f"tides/{name}.py", text)
        return [(one.path, one.view, one.name) for one in self.view.addresses.walk("quay.urls")]

    def test_includes_namespaces_and_controllers(self):
        found = self.walk(
            "from django.contrib import admin\nfrom django.urls import include, path\nfrom tides.views import front\n"
            "urlpatterns = [path('admin/', admin.site.urls), path('', front), path('tides/', include('tides.urls'))]\n"
            "urlpatterns += [path('more/', include(('tides.urls', 'again')))]\n",
            urls="from django.urls import path, re_path\nfrom . import views\nfrom .views import List\napp_name = 'tides'\n"
            "urlpatterns = [path('', List.as_view(), name='list'), re_path(r'^(?P<pk>\\d+)/$', views.one, name='one'),"
            " path('x/', views.guard(views.two))]\n",
            views="",
        )
        self.assertIn(("/", "tides.views.front", ""), found)
        self.assertIn(("/tides/", "tides.views.List", "tides:list"), found)
        self.assertIn(("/tides/(^(?P<pk>\\d+)/$)", "tides.views.one", "tides:one"), found)
        self.assertIn(("/more/", "tides.views.List", "tides:list"), found)
        self.assertIn(("/tides/x/", "tides.views.two", ""), found)

    def test_lists_in_parts_and_in_the_language_prefix(self):
        found = self.walk(
            "from django.conf.urls.i18n import i18n_patterns\nfrom django.urls import include, path\n"
            "from tides import views\ninner = [path('a/', views.a)]\n"
            "urlpatterns = [path('in/', include(inner))] + [path('b/', views.b)]\n"
            "urlpatterns += i18n_patterns(path('c/', views.c))\n",
            views="",
        )
        self.assertEqual([path for path, _, _ in found], ["/in/a/", "/b/", "/c/"])

    def test_an_include_in_a_circle_comes_to_an_end(self):
        self.walk("from django.urls import include, path\nurlpatterns = [path('x/', include('quay.urls'))]\n")

    def test_what_cannot_be_told_is_said(self):
        self.walk("urlpatterns = made()\n")
        conf = self.view.addresses.file("quay.urls")
        assert conf is not None
        self.assertFalse(conf.sure)


class Modules(Project):
    def names(self, *listed: str) -> list[str]:
        self.settings(f"ROOT_URLCONF = 'quay.urls'\nINSTALLED_APPS = {list(listed)!r}\n")
        return [module.name for module in self.view.modules]

    def test_what_counts_as_a_module(self):
        self.write("tides/__init__.py", "")
        self.write("tides/models.py", "")
        self.write("tides/tests/models.py", "")
        self.write("tides/helpers/__init__.py", "")
        self.write("tides/helpers/models.py", "")
        self.write(
            "office/desk/apps.py", "from django.apps import AppConfig\nclass D(AppConfig):\n    name = 'office.desk'\n"
        )
        self.write("plain/notes.py", "")
        self.write("env/pyvenv.cfg", "")
        self.write("env/lib/thing/models.py", "")
        self.write("node_modules/x/models.py", "")
        self.write("quay/urls.py", "")
        self.assertEqual(self.names("tides"), ["office.desk", "tides"])
        self.assertEqual(self.names("tides", "plain"), ["office.desk", "plain", "tides"])
        self.assertEqual(self.names("tides.helpers"), ["office.desk", "tides", "tides.helpers"])

    def test_descriptions(self):
        self.write("tides/__init__.py", "__version__ = '2.1'\n")
        self.write(
            "tides/apps.py",
            "from django.apps import AppConfig\nclass Base(AppConfig):\n    name = 'tides'\n"
            "class Tides(AppConfig):\n    name = 'tides'\n    label = 'water'\n    verbose_name = _('Tides')\n    default = True\n",
        )
        self.names("tides")
        module = self.view.modules[0]
        self.assertEqual((module.label, module.title, module.version), ("water", "Tides", "2.1"))
        self.assertEqual(module.config.name if module.config else "", "Tides")


class Code(Case):
    def test_imports_hard_and_soft(self):
        tree = ast.parse(
            "import a.b\nfrom . import c\ntry:\n    import d\nexcept ImportError:\n    d = None\n"
            "def f():\n    import e\nif TYPE_CHECKING:\n    import g\nclass H:\n    import i\n"
        )
        found = {one.module: one.soft for one in imports_of(tree)}
        self.assertEqual(found, {"a.b": False, ".": False, "d": True, "e": True, "g": True, "i": False})
        self.assertEqual(relative_to("..x", "a.b.c"), "a.b.x")
        self.assertEqual(relative_to("x.y", "a"), "x.y")

    def test_texts_in_telling_places(self):
        tree = ast.parse(
            "class P(View):\n    template_name = 't/a.html'\n    permission_required = ('t.view_tide', 't.add_tide')\n"
            "def f(request):\n    request.user.has_perm('t.change_tide')\n    return render(request, 't/b.html')\n"
            "@permission_required('t.delete_tide')\ndef g(r):\n    return TemplateResponse(r, template)\n"
            "urls = [path('', P.as_view(template_name='t/c.html'))]\n"
        )
        self.assertEqual({said.text for said in template_names(tree)}, {"t/a.html", "t/b.html", "t/c.html"})
        verbs = {said.text.split(".")[1].split("_")[0] for said in permissions_named(tree)}
        self.assertEqual(verbs, {"view", "add", "change", "delete"})

    def test_permissions_that_models_bring(self):
        tree = ast.parse(
            "class Tide(models.Model):\n    class Meta:\n        permissions = [('measure', 'Can measure')]\n"
            "class Log(models.Model):\n    class Meta:\n        default_permissions = ('view',)\n"
        )
        found = permissions_declared(tree, "t")
        self.assertEqual(
            found, {"t.measure", "t.add_tide", "t.change_tide", "t.delete_tide", "t.view_tide", "t.view_log"}
        )

    def test_meta(self):
        node = ast.parse("class A:\n    class Meta:\n        abstract: bool = True\n        db_table = 'x'\n").body[0]
        assert isinstance(node, ast.ClassDef)
        self.assertIs(meta_constant(node, "abstract"), True)
        self.assertEqual(meta_text(node, "db_table"), ("x", 4))
        self.assertIsNone(meta_text(node, "ordering"))

    def test_tags_without_comments(self):
        path = self.write(
            "t.html",
            '{% extends "base.html" %}\n{# {% load no %} #}\n{% comment %}{% block no %}{% endcomment %}\n'
            "{% verbatim %}{% url 'no' %}{% endverbatim %}\n{% block yes %}{% url 'a:b' 1 %}{% endblock %}\n",
        )
        tags = read_tags(path)
        self.assertEqual([tag.name for tag in tags], ["extends", "block", "url", "endblock"])
        self.assertEqual((tags[0].first_text, tags[2].first_text, tags[1].line), ("base.html", "a:b", 5))
