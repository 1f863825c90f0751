"""A site whose people are a record of its own, of which no two may be alike: those who ask its pages are made there."""

from ..support import SiteCase, host_python

MODELS = """
from django.contrib.auth.models import AbstractBaseUser, BaseUserManager
from django.db import models


class Member(AbstractBaseUser):
    name = models.CharField(max_length=40, unique=True)
    email = models.EmailField(unique=True)
    boat = models.CharField(max_length=8, unique=True)
    is_active = models.BooleanField(default=True)
    is_staff = models.BooleanField(default=False)
    is_superuser = models.BooleanField(default=False)

    USERNAME_FIELD = "name"
    objects = BaseUserManager()

    def has_perm(self, permission, obj=None):
        return self.is_superuser

    def has_module_perms(self, label):
        return self.is_superuser
"""
MIGRATION = """
from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True
    dependencies = []
    operations = [
        migrations.CreateModel(
            "Member",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("password", models.CharField(max_length=128, verbose_name="password")),
                ("last_login", models.DateTimeField(blank=True, null=True, verbose_name="last login")),
                ("name", models.CharField(max_length=40, unique=True)),
                ("email", models.EmailField(max_length=254, unique=True)),
                ("boat", models.CharField(max_length=8, unique=True)),
                ("is_active", models.BooleanField(default=True)),
                ("is_staff", models.BooleanField(default=False)),
                ("is_superuser", models.BooleanField(default=False)),
            ],
            options={"abstract": False},
        )
    ]
"""
VIEWS = """
from django.contrib.auth.decorators import user_passes_test
from django.http import HttpResponse


@user_passes_test(lambda person: person.is_superuser)
def chart(request):
    return HttpResponse("The chart of the harbour, for the harbour master alone")
"""
URLS = """
from django.urls import path

from . import views

urlpatterns = [path("members/chart", views.chart, name="chart")]
"""


class OwnPeople(SiteCase):
    def test_a_page_for_some_of_them_is_asked_until_one_may(self):
        self.put("members/__init__.py", "")
        self.put("members/models.py", MODELS)
        self.put("members/migrations/__init__.py", "")
        self.put("members/migrations/0001_initial.py", MIGRATION)
        self.put("members/views.py", VIEWS)
        self.put("members/urls.py", URLS)
        self.change("brindle_quay/settings.py", '    "ferries",', '    "members",\n    "ferries",')
        with (self.site / "brindle_quay/settings.py").open("a") as handle:
            handle.write('\nAUTH_USER_MODEL = "members.Member"\n')
        line = '    path("ferries/", include("ferries.urls")),\n'
        self.change("brindle_quay/urls.py", line, '    path("", include("members.urls")),\n' + line)
        (self.site / "brindle_quay.sqlite3").unlink()
        done = host_python("manage.py", "migrate", "--no-input", "-v", "0", cwd=self.site)
        self.assertEqual(done.returncode, 0, done)
        ran = self.sprout("check", "members", "--format", "json")
        self.assertEqual(self.codes(ran, "members"), [], ran.out)
        self.assertIn("superusers", self.evidence(ran, "members", "permitted"))
        self.assertIn("GET /members/chart answered 200", self.evidence(ran, "members", "served"))
