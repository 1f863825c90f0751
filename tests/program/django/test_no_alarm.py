"""Ways to write a healthy module that look unusual: none of them may bring a finding. Each was once, or might be, a false alarm."""

from ... import healthy

VARIANTS: healthy.Variants = {
    "listed by its config class": (
        [{"file": "brindle_quay/settings.py", "old": '"pilotage"', "new": '"pilotage.apps.PilotageConfig"'}],
        True,
    ),
    "no apps.py at all": ([{"remove": "ferries/apps.py"}], True),
    "an abstract record without migrations of its own": (
        [
            {"file": "moorings/__init__.py", "text": ""},
            {
                "file": "moorings/models.py",
                "text": "from django.db import models\n\n\nclass Named(models.Model):\n    name = models.CharField(max_length=9)\n\n    class Meta:\n        abstract = True\n",
            },
            {"file": "brindle_quay/settings.py", "old": '    "pilotage",', "new": '    "pilotage",\n    "moorings",'},
        ],
        True,
    ),
    "an import that may fail": (
        [
            {
                "file": "pilotage/views.py",
                "old": "from .models",
                "new": "try:\n    import tide_tables\nexcept ImportError:\n    tide_tables = None\n\nfrom .models",
            }
        ],
        True,
    ),
    "an import inside a function": (
        [
            {
                "file": "pilotage/views.py",
                "old": "def pilots(request):\n",
                "new": 'def pilots(request):\n    if request.GET.get("x"):\n        import tide_tables\n\n        tide_tables.read()\n',
            }
        ],
        True,
    ),
    "a file with a rare import that nothing loads": (
        [{"file": "pilotage/charts.py", "text": "import chart_paper\n"}],
        True,
    ),
    "a text in the translation wrapper": (
        [
            {
                "file": "pilotage/apps.py",
                "old": "from django.apps import AppConfig\n",
                "new": "from django.apps import AppConfig\nfrom django.utils.translation import gettext_lazy as _\n",
            },
            {"file": "pilotage/apps.py", "old": '"Pilots"', "new": '_("Pilots")'},
        ],
        True,
    ),
    "listeners loaded through a second file": (
        [
            {"file": "pilotage/loading.py", "text": "from . import listeners  # noqa: F401\n"},
            {
                "file": "pilotage/apps.py",
                "old": "from . import listeners  # noqa: F401",
                "new": "from . import loading  # noqa: F401",
            },
        ],
        True,
    ),
    "a models package that imports all": (
        [
            {"move": "pilotage/models.py", "to": "pilotage/models/people.py"},
            {"file": "pilotage/models/__init__.py", "text": "from .people import *\n"},
        ],
        True,
    ),
    "a views package": (
        [
            {"move": "pilotage/views.py", "to": "pilotage/views/pages.py"},
            {"file": "pilotage/views/pages.py", "old": "from .models", "new": "from ..models"},
            {"file": "pilotage/views/__init__.py", "text": "from .pages import *\n"},
        ],
        True,
    ),
    "a template of the site in place of the module's": (
        [
            {
                "file": "templates/pilotage/pilots.html",
                "text": '{% extends "base.html" %}{% block content %}<h1>Pilots, our way</h1>{% endblock %}\n',
            }
        ],
        False,
    ),
    "a block that is filled in a layout of the module": (
        [
            {
                "file": "pilotage/templates/pilotage/frame.html",
                "text": '{% extends "base.html" %}\n{% block content %}<h1>Frame of pilots</h1>{% block inner %}{% endblock %}{% endblock %}\n',
            },
            {
                "file": "pilotage/templates/pilotage/plan.html",
                "old": '{% extends "base.html" %}\n{% block content %}',
                "new": '{% extends "pilotage/frame.html" %}\n{% block inner %}',
            },
        ],
        True,
    ),
    "a layout chosen as the page runs": (
        [
            {
                "file": "pilotage/templates/pilotage/plan.html",
                "old": '{% extends "base.html" %}',
                "new": '{% extends layout|default:"base.html" %}',
            }
        ],
        True,
    ),
    "names of addresses in another module": (
        [
            {
                "file": "pilotage/templates/pilotage/pilot.html",
                "old": "{% block content %}\n",
                "new": '{% block content %}\n<a href="{% url "ferries:timetable" %}">Ferries</a>\n',
            }
        ],
        True,
    ),
    "a controller for other methods only": (
        [
            {
                "file": "pilotage/views.py",
                "old": "class PilotPage",
                "new": 'from django.views.decorators.http import require_POST\n\n\n@require_POST\ndef report(request):\n    return render(request, "pilotage/plan.html")\n\n\nclass PilotPage',
            },
            {
                "file": "pilotage/urls.py",
                "old": '    path("rules/"',
                "new": '    path("report/", views.report, name="report"),\n    path("rules/"',
            },
        ],
        True,
    ),
    "a redirection to another page": (
        [
            {
                "file": "pilotage/urls.py",
                "old": "urlpatterns = [",
                "new": 'from django.views.generic import RedirectView\n\nurlpatterns = [\n    path("old/", RedirectView.as_view(url="/pilots/")),',
            }
        ],
        True,
    ),
    "an answer without a template": (
        [
            {
                "file": "pilotage/views.py",
                "old": '    return render(request, "pilotage/pilots.html", {"pilots": Pilot.objects.all(), "title": "Pilots"})',
                "new": '    from django.http import JsonResponse\n\n    return JsonResponse({"pilots": []})',
            }
        ],
        True,
    ),
    "a command of the host in a way of our own": (
        [
            {
                "file": "pilotage/management/commands/migrate.py",
                "text": "from django.core.management.commands.migrate import Command  # noqa: F401\n",
            }
        ],
        True,
    ),
    "a permission of the host": (
        [{"file": "pilotage/views.py", "old": "pilotage.plan_watches", "new": "auth.view_user"}],
        True,
    ),
    "a guard with a test of its own": (
        [
            {"file": "pilotage/views.py", "old": "import LoginRequiredMixin", "new": "import UserPassesTestMixin"},
            {
                "file": "pilotage/views.py",
                "old": "class Rules(LoginRequiredMixin, TemplateView):\n",
                "new": "class Rules(UserPassesTestMixin, TemplateView):\n    def test_func(self):\n        return True\n\n",
            },
        ],
        True,
    ),
    "no administration in the host": (
        [
            {"file": "brindle_quay/settings.py", "old": '    "django.contrib.admin",\n', "new": ""},
            {"file": "brindle_quay/urls.py", "old": '    path("admin/", admin.site.urls),\n', "new": ""},
            {"file": "brindle_quay/urls.py", "old": "from django.contrib import admin\n", "new": ""},
        ],
        True,
    ),
    "modules of one kind in a folder of their own": (
        [
            {"file": "office/desk/__init__.py", "text": ""},
            {
                "file": "office/desk/apps.py",
                "text": 'from django.apps import AppConfig\n\n\nclass DeskConfig(AppConfig):\n    name = "office.desk"\n\n    def ready(self):\n        pass\n',
            },
            {
                "file": "brindle_quay/settings.py",
                "old": '    "pilotage",',
                "new": '    "pilotage",\n    "office.desk",',
            },
        ],
        True,
    ),
    "a static file of a package": (
        [
            {
                "file": "pilotage/templates/pilotage/pilots.html",
                "old": "<h1>",
                "new": '<link rel="stylesheet" href="{% static "admin/css/base.css" %}"><h1>',
            }
        ],
        True,
    ),
    "a config class that stands in another package": (
        [
            {
                "file": "brindle_quay/configs.py",
                "text": 'from django.apps import AppConfig\n\n\nclass QuayPilotage(AppConfig):\n    name = "pilotage"\n\n    def ready(self):\n        from pilotage import listeners  # noqa: F401\n',
            },
            {
                "file": "brindle_quay/settings.py",
                "old": '    "pilotage",',
                "new": '    "brindle_quay.configs.QuayPilotage",',
            },
        ],
        True,
    ),
    "an administration of one's own": (
        [
            {
                "file": "brindle_quay/apps.py",
                "text": 'from django.contrib.admin.apps import AdminConfig\n\n\nclass QuayAdmin(AdminConfig):\n    default_site = "brindle_quay.desk.Desk"\n',
            },
            {
                "file": "brindle_quay/desk.py",
                "text": 'from django.contrib import admin\n\n\nclass Desk(admin.AdminSite):\n    site_header = "Harbour desk"\n',
            },
            {
                "file": "brindle_quay/settings.py",
                "old": '    "django.contrib.admin",',
                "new": '    "brindle_quay.apps.QuayAdmin",',
            },
        ],
        True,
    ),
    "a folder of modules that the entry script works out": (
        [
            {"move": "pilotage", "to": "parts/pilotage"},
            {
                "file": "manage.py",
                "old": "from django.core",
                "new": 'HERE = os.path.dirname(os.path.abspath(__file__))\nPARTS = os.path.join(HERE, "parts")\nsys.path[:0] = [PARTS]\n\nfrom django.core',
            },
        ],
        True,
    ),
    "records that a router keeps in another database": (
        [
            {
                "file": "brindle_quay/routers.py",
                "text": 'class Pilots:\n    def db_for_read(self, model, **hints):\n        return "pilots" if model._meta.app_label == "pilotage" else None\n\n    db_for_write = db_for_read\n',
            },
            {
                "file": "brindle_quay/settings.py",
                "old": "DEFAULT_AUTO_FIELD",
                "new": 'DATABASES["pilots"] = {**DATABASES["default"]}\nDATABASE_ROUTERS = ["brindle_quay.routers.Pilots"]\nDEFAULT_AUTO_FIELD',
            },
        ],
        True,
    ),
    "answers without a text": (
        [
            {
                "file": "pilotage/views.py",
                "old": "class PilotPage(DetailView):",
                "new": 'def mooring_count(request):\n    return HttpResponse("", content_type="text/plain")\n\n\nclass PilotPage(DetailView):',
            },
            {
                "file": "pilotage/views.py",
                "old": "from django.shortcuts import render",
                "new": "from django.http import HttpResponse\nfrom django.shortcuts import render",
            },
            {
                "file": "pilotage/urls.py",
                "old": '    path("plan/"',
                "new": '    path("count.txt", views.mooring_count, name="count"),\n    path("plan/"',
            },
        ],
        True,
    ),
}


class OnTheHost(healthy.Healthy):
    kit = "django"
    variants = VARIANTS
