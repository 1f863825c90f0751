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
            {"file": "pilotage/views/pages.py", "old": "from .forms", "new": "from ..forms"},
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
            {
                "file": "pilotage/views.py",
                "old": "import LoginRequiredMixin",
                "new": "import LoginRequiredMixin, UserPassesTestMixin",
            },
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
    "a record pointed at by its name in small letters, and one that code makes": (
        [
            {
                "file": "pilotage/models.py",
                "old": "models.ForeignKey(Pilot,",
                "new": 'models.ForeignKey("pilotage.pilot",',
            },
            {
                "file": "pilotage/parts.py",
                "text": 'def maker(name):\n    return type(name, (), {"__module__": __name__})\n\n\nglobals()["Lantern"] = maker("Lantern")\n',
            },
            {
                "file": "pilotage/views.py",
                "old": "from .models import Pilot",
                "new": "from .models import Pilot\nfrom .parts import Lantern  # noqa: F401",
            },
        ],
        True,
    ),
    "a converter of one's own, and one name for two addresses": (
        [
            {
                "file": "pilotage/urls.py",
                "old": "from django.urls import path",
                "new": "from django.urls import path, register_converter\nfrom django.urls.converters import IntConverter",
            },
            {
                "file": "pilotage/urls.py",
                "old": "app_name =",
                "new": 'register_converter(IntConverter, "number")\n\napp_name =',
            },
            {"file": "pilotage/urls.py", "old": "<int:pk>", "new": "<number:pk>"},
            {
                "file": "pilotage/urls.py",
                "old": '    path("plan/"',
                "new": '    path("all/", views.pilots, name="pilots"),\n    path("plan/"',
            },
        ],
        True,
    ),
    "settings that are asked for with a default, tested for, or set by the module itself": (
        [
            {
                "file": "pilotage/views.py",
                "old": "def pilots(request):",
                "new": "LIMIT = getattr(settings, 'PILOTAGE_LIMIT', 3)\nif hasattr(settings, 'PILOTAGE_DEPTH'):\n    DEPTH = settings.PILOTAGE_DEPTH\n\n\ndef lights():\n    try:\n        return settings.PILOTAGE_LIGHTS\n    except AttributeError:\n        return settings.PILOTAGE_OWN\n\n\ndef pilots(request):",
            },
            {
                "file": "pilotage/views.py",
                "old": "from django.contrib.auth.decorators",
                "new": "from django.conf import settings\nfrom django.contrib.auth.decorators",
            },
            {
                "file": "pilotage/apps.py",
                "old": "        from . import listeners",
                "new": "        from django.conf import settings\n\n        settings.PILOTAGE_OWN = 4\n        from . import listeners",
            },
        ],
        True,
    ),
    "layouts of one's own name, templates put together, and a folder of templates that is not there yet": (
        [
            {
                "file": "templates/admin/base_site.html",
                "text": '{% extends "admin/base_site.html" %}{% block branding %}Harbour desk{% endblock %}',
            },
            {
                "file": "pilotage/templates/admin/pilotage/pilot/change_list.html",
                "text": '{% extends "admin/change_list.html" %}{% block object-tools %}On watch first{% endblock %}',
            },
            {
                "file": "pilotage/templates/pilotage/pilots.html",
                "old": "{% endfor %}",
                "new": '{% endfor %}{% include "pilotage/"|add:"watch_block.html" %}',
            },
            {
                "file": "brindle_quay/settings.py",
                "old": '"DIRS": [BASE_DIR / "templates"]',
                "new": '"DIRS": [BASE_DIR / "themes", BASE_DIR / "templates"]',
            },
        ],
        True,
    ),
    "records whose saving, address and page want values that nobody could make up": (
        [
            {
                "file": "pilotage/models.py",
                "old": "    def __str__(self):\n        return self.name\n",
                "new": '    boss = None\n\n    def __str__(self):\n        return self.name\n\n    def get_absolute_url(self):\n        return reverse("pilotage:one", args=[self.boss])\n',
            },
            {
                "file": "pilotage/models.py",
                "old": "    def __str__(self):\n        return f",
                "new": '    def save(self, *given, **named):\n        if self.pilot.name == "sample":\n            raise ValueError("who is on watch?")\n        super().save(*given, **named)\n\n    def __str__(self):\n        return f',
            },
            {
                "file": "pilotage/models.py",
                "old": "from django.db import models\n",
                "new": "from django.db import models\nfrom django.urls import reverse\n",
            },
            {
                "file": "pilotage/views.py",
                "old": "def pilots(request):",
                "new": 'def one(request, pk):\n    pilot = get_object_or_404(Pilot, pk=pk)\n    return render(request, "pilotage/plan.html", {"number": int(pilot.name.partition("-")[2])})\n\n\ndef pilots(request):',
            },
            {
                "file": "pilotage/views.py",
                "old": "from django.shortcuts import ",
                "new": "from django.shortcuts import get_object_or_404, ",
            },
            {
                "file": "pilotage/urls.py",
                "old": '    path("plan/"',
                "new": '    path("<int:pk>/", views.one, name="one"),\n    path("plan/"',
            },
        ],
        True,
    ),
    "controllers whose answer somebody else makes": (
        [
            {
                "file": "pilotage/views.py",
                "old": "def pilots(request):",
                "new": 'def drawn(view):\n    def inner(request):\n        view(request)\n        return render(request, "pilotage/plan.html")\n\n    return inner\n\n\n@drawn\ndef tide(request):\n    request.tide = 3\n\n\nclass Closed(TemplateView):\n    template_name = "pilotage/plan.html"\n\n    def get_context_data(self, **given):\n        """As it is."""\n        return super().get_context_data(**given)\n\n\ndef pilots(request):',
            },
            {
                "file": "pilotage/urls.py",
                "old": '    path("plan/"',
                "new": '    path("tide/", views.tide),\n    path("closed/", views.Closed.as_view()),\n    path("plan/"',
            },
        ],
        True,
    ),
    "middleware that is a function brought in by its package, and an addition to it": (
        [
            {
                "file": "harbour_office/parts.py",
                "text": "def lantern(get_response):\n    return get_response\n",
            },
            {
                "file": "harbour_office/lights/__init__.py",
                "text": "from ..parts import lantern  # noqa: F401\n",
            },
            {
                "file": "brindle_quay/settings.py",
                "old": "DEFAULT_AUTO_FIELD",
                "new": 'MIDDLEWARE += ["harbour_office.lights.lantern", "harbour_office.parts.lantern"]\nDEFAULT_AUTO_FIELD',
            },
        ],
        True,
    ),
    "a tag library that has its name from the settings": (
        [
            {
                "file": "harbour_office/lights.py",
                "text": "from django import template\n\nregister = template.Library()\n\n\n@register.simple_tag\ndef lit():\n    return 3\n",
            },
            {
                "file": "brindle_quay/settings.py",
                "old": '        "OPTIONS": {',
                "new": '        "OPTIONS": {\n            "libraries": {"quay_lights": "harbour_office.lights"},',
            },
            {
                "file": "pilotage/templates/pilotage/pilots.html",
                "old": "{% load static %}",
                "new": "{% load static quay_lights %}",
            },
        ],
        True,
    ),
    "a list of modules that a loop makes": (
        [
            {"file": "brindle_quay/settings.py", "old": '    "pilotage",\n', "new": ""},
            {
                "file": "brindle_quay/settings.py",
                "old": "MIDDLEWARE = [",
                "new": 'for name in ("pilotage",):\n    INSTALLED_APPS.append(name)\n\nMIDDLEWARE = [',
            },
        ],
        True,
    ),
    "every page is sent on to the host's proper name": (
        [
            {
                "file": "harbour_office/proper.py",
                "text": 'from django.http import HttpResponsePermanentRedirect\n\n\ndef proper(get_response):\n    def answer(request):\n        if request.get_host() != "www.quay.example":\n            return HttpResponsePermanentRedirect("https://www.quay.example" + request.path)\n        return get_response(request)\n\n    return answer\n',
            },
            {
                "file": "brindle_quay/settings.py",
                "old": "MIDDLEWARE = [",
                "new": 'MIDDLEWARE = [\n    "harbour_office.proper.proper",',
            },
        ],
        True,
    ),
    "names near those of a base class, which own code reads": (
        [
            {
                "file": "pilotage/views.py",
                "old": '    template_name = "pilotage/pilot.html"\n',
                "new": '    template_name = "pilotage/pilot.html"\n    extra_contexts = [{"title": "Pilot"}]\n\n    def get_context_data(self, **given):\n        return super().get_context_data(**given, **self.extra_contexts[0])\n',
            },
            {
                "file": "brindle_quay/settings.py",
                "old": "LOGIN_URL = ",
                "new": "SESSION_COOKIE_AGES = {1: 600}\nSESSION_COOKIE_AGE = SESSION_COOKIE_AGES[1]\nLOGIN_URL = ",
            },
        ],
        True,
    ),
    "what a template asks about and is not given": (
        [
            {
                "file": "pilotage/templates/pilotage/pilots.html",
                "old": "{% for pilot in pilots %}",
                "new": "{% if pilost %}{{ pilost }}{% endif %}{% for pilot in pilots %}",
            }
        ],
        True,
    ),
    "a template that only another version includes, and one that nothing draws": (
        [
            {
                "file": "pilotage/templates/pilotage/pilots.html",
                "old": "{% for pilot in pilots %}",
                "new": '{% if older %}{% include "pilotage/older.html" %}{% endif %}{% for pilot in pilots %}',
            },
            {"file": "pilotage/templates/pilotage/older.html", "text": "<p>Pilots, as before</p>\n"},
            {
                "file": "pilotage/templates/admin_tools/menu.html",
                "text": '{% extends "admin_tools/base.html" %}\n',
            },
        ],
        True,
    ),
    "an object that tells what it has in a way of its own": (
        [
            {
                "file": "pilotage/views.py",
                "old": "def pilots(request):\n",
                "new": "class Tide(dict):\n    def __dir__(self):\n        return [[1], [2]]\n\n    def __iter__(self):\n        return iter([[]])\n\n\n"
                "class Gauge:\n    def __dir__(self):\n        return [[1], [2]]\n\n\n"
                "def pilots(request):\n",
            },
            {
                "file": "pilotage/views.py",
                "old": '"title": "Pilots"}',
                "new": '"title": "Pilots", "tide": Tide(), "gauge": Gauge()}',
            },
            {
                "file": "pilotage/templates/pilotage/pilots.html",
                "old": "{% for pilot in pilots %}",
                "new": "{{ tide.height }}{{ gauge.readings }}{% for pilot in pilots %}",
            },
        ],
        True,
    ),
    "a tag in a block that a page of its own leaves as it is": (
        [
            {
                "file": "templates/base.html",
                "old": "{% block content %}{% endblock %}",
                "new": "{% load pilotage_blocks %}{% block content %}{% pilots_on_watch %}{% endblock %}",
            },
            {
                "file": "brindle_quay/urls.py",
                "old": "urlpatterns = [",
                "new": 'from django.views.generic import TemplateView\n\nurlpatterns = [\n    path("watch/", TemplateView.as_view(template_name="base.html")),',
            },
        ],
        True,
    ),
}


class OnTheHost(healthy.Healthy):
    kit = "django"
    variants = VARIANTS
