"""Lists and addresses in the shapes of real projects: a module is taken out for good, or nothing is changed."""

import re

from ..support import SiteCase, host_python, tree_of

START = '''"""Settings."""
import os
from pathlib import Path

BASE_DIR = Path(__file__).resolve().parent.parent
SECRET_KEY = "brindle-quay-on-one-machine-only"
DEBUG = True
ALLOWED_HOSTS = ["*"]
CORE = ["django.contrib.admin", "django.contrib.auth", "django.contrib.contenttypes", "django.contrib.sessions",
        "django.contrib.messages", "django.contrib.staticfiles"]
'''
LIST = {
    "one plain list": 'INSTALLED_APPS = [*CORE, "harbour_office", "ferries"]',
    "lists put together": 'INSTALLED_APPS = CORE + ["harbour_office"] + ["ferries"]',
    "a tuple": 'INSTALLED_APPS = (*CORE, "harbour_office", "ferries")',
    "appended": 'INSTALLED_APPS = [*CORE, "harbour_office"]\nINSTALLED_APPS.append("ferries")',
    "inserted": 'INSTALLED_APPS = [*CORE, "harbour_office"]\nINSTALLED_APPS.insert(0, "ferries")',
    "extended": 'INSTALLED_APPS = [*CORE, "harbour_office"]\nINSTALLED_APPS.extend(["ferries"])',
    "added": 'INSTALLED_APPS = [*CORE, "harbour_office"]\nINSTALLED_APPS += ["ferries"]',
    "a function": "def apps():\n    return [*CORE, 'harbour_office', 'ferries']\n\n\nINSTALLED_APPS = apps()",
    "a function beside a list": (
        "def more():\n    return ['ferries']\n\n\nINSTALLED_APPS = [*CORE, 'harbour_office', *more()]"
    ),
    "a function that appends": (
        "def add(apps):\n    apps.append('ferries')\n\n\nINSTALLED_APPS = [*CORE, 'harbour_office']\nadd(INSTALLED_APPS)"
    ),
    "a global": (
        "INSTALLED_APPS = [*CORE, 'harbour_office']\n\n\ndef add():\n    global INSTALLED_APPS\n"
        "    INSTALLED_APPS = [*INSTALLED_APPS, 'ferries']\n\n\nadd()"
    ),
    "a loop": 'INSTALLED_APPS = [*CORE]\nfor name in ("harbour_office", "ferries"):\n    INSTALLED_APPS.append(name)',
    "a loop with its name put together": (
        'INSTALLED_APPS = [*CORE, "harbour_office"]\nfor part in ("rries",):\n    INSTALLED_APPS += ["fe" + part]'
    ),
    "a comprehension": 'INSTALLED_APPS = [*CORE, *(name for name in ("harbour_office", "ferries"))]',
    "split": 'INSTALLED_APPS = [*CORE, *"harbour_office ferries".split()]',
    "only split": 'INSTALLED_APPS = CORE + "harbour_office,ferries".split(",")',
    "a condition that holds": (
        'INSTALLED_APPS = [*CORE, "harbour_office"]\nif not os.environ.get("WITHOUT"):\n    INSTALLED_APPS += ["ferries"]'
    ),
    "both branches": (
        'if os.environ.get("WITHOUT"):\n    INSTALLED_APPS = [*CORE, "harbour_office"]\n'
        'else:\n    INSTALLED_APPS = [*CORE, "harbour_office", "ferries"]'
    ),
    "the branch above": (
        'if not os.environ.get("WITHOUT"):\n    INSTALLED_APPS = [*CORE, "harbour_office", "ferries"]\n'
        'else:\n    INSTALLED_APPS = [*CORE, "harbour_office"]'
    ),
    "an expression with a condition": (
        'INSTALLED_APPS = [*CORE, "harbour_office", *(["ferries"] if not os.environ.get("WITHOUT") else [])]'
    ),
    "tried": (
        'INSTALLED_APPS = [*CORE, "harbour_office"]\ntry:\n    import ferries\nexcept ImportError:\n    pass\n'
        'else:\n    INSTALLED_APPS += ["ferries"]'
    ),
    "matched": (
        'INSTALLED_APPS = [*CORE, "harbour_office"]\nmatch os.environ.get("PLACE", "quay"):\n    case "quay":\n'
        '        INSTALLED_APPS += ["ferries"]'
    ),
    "a slice": 'INSTALLED_APPS = [*CORE, "harbour_office"]\nINSTALLED_APPS[0:0] = ["ferries"]',
    "a dictionary of parts": (
        'PARTS = {"own": ["harbour_office", "ferries"]}\nINSTALLED_APPS = CORE + PARTS["own"]'
    ),
    "globals": (
        'INSTALLED_APPS = [*CORE, "harbour_office"]\nglobals()["INSTALLED_APPS"] = [*INSTALLED_APPS, "ferries"]'
    ),
    "without order": 'INSTALLED_APPS = sorted({*CORE, "harbour_office", "ferries"})',
    "its config": 'INSTALLED_APPS = [*CORE, "harbour_office", "ferries.apps.FerriesConfig"]',
    "walrus": 'INSTALLED_APPS = [*CORE, "harbour_office", *(own := ["ferries"])]',
    "read from a file": (
        'INSTALLED_APPS = [*CORE, *(BASE_DIR / "apps.txt").read_text().split()]'
    ),
    "a line separator above": 'NOTE = "tide\u2028board"  # \u2029\nINSTALLED_APPS = [\n    *CORE,\n    "harbour_office",\n    "ferries",\n]',
    "a form feed above": 'NOTE = "x"\x0c\n\x0c\nINSTALLED_APPS = [\n    *CORE,\n    "harbour_office",\n    "ferries",\n]',
}  # fmt: skip
ADDRESSES = {
    "a function": "def all_of_them():\n    return [path('ferries/', include('ferries.urls'))]\n\n\nurlpatterns = [*OWN, *all_of_them()]",
    "a loop": "urlpatterns = [*OWN]\nfor name in ('ferries',):\n    urlpatterns.append(path(f'{name}/', include(f'{name}.urls')))",
    "a condition": "urlpatterns = [*OWN]\nif True:\n    urlpatterns += [path('ferries/', include('ferries.urls'))]",
    "inserted": "urlpatterns = [*OWN]\nurlpatterns.insert(0, path('ferries/', include('ferries.urls')))",
    "a line separator above": 'NOTE = "\u2028"\nurlpatterns = [\n    path("ferries/", include("ferries.urls")),\n    *OWN,\n]',
}  # fmt: skip
URLS = (
    "from django.contrib import admin\nfrom django.urls import include, path\n\n"
    "OWN = [path('admin/', admin.site.urls), path('', include('harbour_office.urls'))]\n"
)
ASK = (
    "import os; os.environ['DJANGO_SETTINGS_MODULE'] = 'brindle_quay.settings'; import django; django.setup(); "
    "from django.apps import apps; from django.core.management import call_command; call_command('check'); "
    "print([one.name for one in apps.get_app_configs()])"
)


class TakenOut(SiteCase):
    """Each shape with a module in it, which is disabled and removed."""

    def setUp(self) -> None:
        super().setUp()
        settings = (self.site / "brindle_quay/settings.py").read_text()
        self.rest = settings[settings.index("MIDDLEWARE") :]
        self.plain_urls = (self.site / "brindle_quay/urls.py").read_text()
        self.kept = self.write("kept/none", "").parent
        self.write("site/apps.txt", "harbour_office ferries\n")

    def shape(self, settings: str, urls: str) -> None:
        self.put("brindle_quay/settings.py", f"{START}{settings}\n\n{self.rest}")
        self.put("brindle_quay/urls.py", urls)

    def registered(self) -> list[str]:
        """Start the host with its own checks, and return what it has registered."""
        done = host_python("-c", ASK, cwd=self.site)
        self.assertEqual(done.returncode, 0, done.stderr[-600:])
        return re.findall(r"'([\w.]+)'", done.stdout)

    def taken_out(self, name: str, *words: str) -> bool:
        """Take the module out: it is out and the host starts, or nothing changed and places are named."""
        self.assertIn("ferries", self.registered(), name)
        before = tree_of(self.site)
        ran = self.sprout(*words)
        self.assertNotIn("Traceback", ran.err)
        if ran.status == 0:
            self.assertNotIn("ferries", self.registered(), name)
            self.assertIn("harbour_office", self.registered(), name)
            self.assert_ok(self.sprout("undo"))
        else:
            self.assertEqual(ran.status, 4, name + ran.out + ran.err)
        self.assertEqual(tree_of(self.site), before, name)
        return ran.status == 0

    def test_every_list_disabled(self):
        done = set()
        for name, settings in LIST.items():
            with self.subTest(name):
                self.shape(settings, self.plain_urls)
                if self.taken_out(name, "disable", "ferries"):
                    done.add(name)
        self.assertGreaterEqual(
            done,
            {"one plain list", "lists put together", "a tuple", "extended", "added", "its config", "walrus",
             "a condition that holds", "both branches", "a line separator above", "a form feed above"} - {"walrus"},
        )  # fmt: skip

    def test_every_fourth_list_removed(self):
        for name, settings in list(LIST.items())[::4]:
            with self.subTest(name):
                self.shape(settings, self.plain_urls)
                self.taken_out(name, "remove", "ferries", "--data", "keep")

    def test_every_form_of_addresses(self):
        for name, urls in ADDRESSES.items():
            with self.subTest(name):
                self.shape(LIST["one plain list"], URLS + urls + "\n")
                self.taken_out(name, "disable", "ferries")

    def test_without_an_interpreter_a_doubt_is_refused(self):
        from ..support import sprout

        self.shape(LIST["a loop"], self.plain_urls)
        before = tree_of(self.site)
        for words in (("disable", "ferries"), ("remove", "ferries", "--data", "keep")):
            ran = self.assert_ok(sprout(*words, "--host", self.site), 4)
            self.assertIn("settings.py", ran.err)
            self.assertEqual(tree_of(self.site), before)

    def test_a_module_that_stops_the_host_can_be_taken_out(self):
        self.put("ferries/models.py", "raise RuntimeError('the ferry is late')\n")
        self.assert_ok(self.sprout("disable", "ferries"))
        self.assertNotIn("ferries", self.registered())

    def test_a_host_that_is_broken_elsewhere_is_no_reason_to_refuse(self):
        self.put("harbour_office/models.py", "raise RuntimeError('the office is closed')\n")
        ran = self.assert_ok(self.sprout("disable", "ferries"))
        self.assertIn("the office is closed", ran.out)
        self.assertNotIn('"ferries"', (self.site / "brindle_quay/settings.py").read_text())

    def test_what_others_import_of_it_is_noticed(self):
        self.put(
            "harbour_office/views.py",
            "from ferries.models import Sailing\n" + (self.site / "harbour_office/views.py").read_text(),
        )
        before = tree_of(self.site)
        ran = self.assert_ok(self.sprout("disable", "ferries"), 4)
        self.assertIn("Everything was taken back", ran.err)
        self.assertEqual(tree_of(self.site), before)
