"""Forms that pages show are sent on the copies: a site by hand, with views of both kinds and forms of several."""

import sqlite3
import subprocess

from trials.recipes import HOSTS

from ...support import Case, Ran, sprout

RUNTIME = HOSTS / "django-5.2/bin/python"

SITE = {
    "manage.py": """import os
import sys

from django.core.management import execute_from_command_line

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "quay.settings")
execute_from_command_line(sys.argv)
""",
    "quay/__init__.py": "",
    "quay/settings.py": """from pathlib import Path

SECRET_KEY = "only-here"
DEBUG = True
INSTALLED_APPS = ["django.contrib.contenttypes", "django.contrib.auth", "django.contrib.sessions", "lost"]
MIDDLEWARE = [
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
]
ROOT_URLCONF = "quay.urls"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]
DATABASES = {"default": {"ENGINE": "django.db.backends.sqlite3", "NAME": Path(__file__).parent.parent / "quay.db"}}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
MEDIA_ROOT = Path(__file__).parent.parent / "media"
""",
    "quay/urls.py": """from django.urls import include, path

urlpatterns = [path("lost/", include("lost.urls"))]
""",
    "lost/__init__.py": "",
    "lost/models.py": """from django.db import models


class Find(models.Model):
    what = models.CharField(max_length=40)
    on = models.DateField()
    picture = models.FileField(blank=True)

    def __str__(self):
        return self.what
""",
    "lost/migrations/__init__.py": "",
    "lost/migrations/0001_first.py": """from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True
    dependencies = []
    operations = [
        migrations.CreateModel(
            name="Find",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("what", models.CharField(max_length=40)),
                ("on", models.DateField()),
                ("picture", models.FileField(blank=True, upload_to="")),
            ],
        ),
    ]
""",
    "lost/forms.py": """from django import forms

from .models import Find


class FindForm(forms.ModelForm):
    on = forms.DateField(widget=forms.SelectDateWidget)

    class Meta:
        model = Find
        fields = ["what", "on", "picture"]

    def clean(self):
        data = super().clean()
        if data["on"].year < 1900:
            raise forms.ValidationError("too long ago")
        return data
""",
    "lost/views.py": """from django.core.files.base import ContentFile
from django.core.mail import send_mail
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.csrf import csrf_exempt
from django.views.generic import CreateView

from .forms import FindForm
from .models import Find


class NewFind(CreateView):
    form_class = FindForm
    template_name = "lost/new.html"

    def form_valid(self, form):
        form.instance.picture.save("find.txt", ContentFile(b"a find"), save=False)
        send_mail("A find", form.cleaned_data["what"], "quay@example.org", ["office@example.org"])
        return super().form_valid(form)

    def get_success_url(self):
        return reverse("lost:find", args=[self.object.pk])


def find(request, pk):
    found = get_object_or_404(Find, pk=pk)
    if request.method == "POST":
        found.what = request.POST["what"].strip() + request.session["who"]
        found.save()
        return redirect("lost:find", pk=pk)
    return render(request, "lost/find.html", {"find": found})


@csrf_exempt
def bell(request):
    return HttpResponse("rung")
""",
    "lost/urls.py": """from django.urls import path

from . import views

app_name = "lost"
urlpatterns = [
    path("new/", views.NewFind.as_view(), name="new"),
    path("<int:pk>/", views.find, name="find"),
    path("bell/", views.bell, name="bell"),
]
""",
    "lost/templates/lost/new.html": """<!doctype html>
<form method="post" enctype="multipart/form-data">{% csrf_token %}{{ form }}<button>Keep</button></form>
<form method="post" action="{% url 'lost:bell' %}"><button>Ring</button></form>
<form method="post" action="https://pay.example.org/"><button>Pay</button></form>
<form method="post" data-send="script"><button>Tell</button></form>
""",
    "lost/templates/lost/find.html": """<!doctype html>
<h1>{{ find.what }}</h1>
<form method="post">
{% csrf_token %}
<input name="what" maxlength="40"><button>Rename</button>
</form>
""",
}


class Forms(Case):
    def setUp(self) -> None:
        super().setUp()
        self.root = self.folder / "site"
        for path, text in SITE.items():
            self.write(f"site/{path}", text)
        migrated = subprocess.run([RUNTIME, "manage.py", "migrate", "-v0"], cwd=self.root, capture_output=True)
        self.assertEqual(migrated.returncode, 0, migrated.stderr)

    def check(self) -> Ran:
        return sprout("check", "--runtime", RUNTIME, "--format", "json", cwd=self.root)

    def change(self, path: str, old: str, new: str) -> None:
        self.assertIn(old, SITE[path])
        self.write(f"site/{path}", SITE[path].replace(old, new))

    def test_a_healthy_site_is_not_accused_and_nothing_stays(self):
        ran = self.assert_ok(self.check())
        self.assertEqual(ran.json["summary"]["findings"], 0, ran.out)
        with sqlite3.connect(self.root / "quay.db") as connection:
            self.assertEqual(connection.execute("select count(*) from lost_find").fetchone(), (0,))
        self.assertFalse((self.root / "media").exists())

    def test_what_breaks_when_a_form_is_sent_is_named_at_its_line(self):
        for path, old, new, code, place in (
            ("lost/forms.py", 'data["on"].year', 'data["when"].year', "served.form-breaks", "lost/forms.py"),
            ("lost/views.py", 'cleaned_data["what"]', 'cleaned_data["thing"]', "served.form-breaks", "lost/views.py"),
            ("lost/views.py", 'reverse("lost:find", args', 'reverse("lost:find", arg', "served.form-breaks", "lost/views.py"),
            ("lost/views.py", 'POST["what"]', 'POST["name"]', "served.form-breaks", "lost/views.py"),
            ("lost/views.py", "found.save()", "found.keep()", "", ""),  # behind what only a visitor's session knows
            ("lost/templates/lost/find.html", "{% csrf_token %}\n", "", "served.form-without-token", "lost/templates/lost/find.html"),
            ("lost/templates/lost/new.html", "{% url 'lost:bell' %}", "/lost/bel/", "routed.form-refused", "lost/templates/lost/new.html"),
        ):  # fmt: skip
            with self.subTest(f"{path}: {new}"):
                self.change(path, old, new)
                ran = self.check()
                setup = ran.json["setups"][0]
                every = [*setup["findings"], *(one for module in setup["modules"] for one in module["findings"])]
                first = [(one["code"], one["file"]) for one in every if not one["follows_from"]]
                self.assertEqual(first, [(code, place)] if code else [], ran.out)
                self.write(f"site/{path}", SITE[path])

    def test_a_refusal_of_the_view_is_not_a_missing_token(self):
        view = '@csrf_exempt\ndef bell(request):\n    return HttpResponse("rung", status=403 if request.method == "POST" else 200)\n'
        self.change("lost/views.py", '@csrf_exempt\ndef bell(request):\n    return HttpResponse("rung")\n', view)
        self.assertEqual(self.assert_ok(self.check()).json["summary"]["findings"], 0)

    def test_files_that_belong_to_records_are_left_as_they_are(self):
        """Code that changes a picture whenever its record is saved meets no file of the host."""
        saving = (
            "    def save(self, *args, **kwargs):\n        super().save(*args, **kwargs)\n        if self.picture:\n"
            "            self.picture.storage.delete(self.picture.name)\n\n    def __str__(self):\n        return self.what\n"
        )
        self.change("lost/models.py", "    def __str__(self):\n        return self.what\n", saving)
        self.write("site/media/find.txt", "a find")
        with sqlite3.connect(self.root / "quay.db") as connection:
            connection.execute("insert into lost_find (what, \"on\", picture) values ('Oar', '2026-11-02', 'find.txt')")
        edit = "class NewFind(UpdateView):\n    model = Find\n"
        views = (
            SITE["lost/views.py"]
            .replace("import CreateView", "import UpdateView")
            .replace("class NewFind(CreateView):\n", edit)
        )
        keeps = '        form.instance.picture.save("find.txt", ContentFile(b"a find"), save=False)\n'
        self.write("site/lost/views.py", views.replace(keeps, ""))
        self.change("lost/urls.py", '"new/"', '"new/<int:pk>/"')
        self.check()
        self.assertEqual((self.root / "media/find.txt").read_text(), "a find")
