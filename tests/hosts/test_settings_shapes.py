"""Settings in the shapes that projects write them in: what can be told of template engines, and what cannot."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from swift_sprout.hosts.kits.django.reading.addresses import Addresses
from swift_sprout.hosts.kits.django.reading.engines import TemplateEngine, template_engines
from swift_sprout.hosts.kits.django.reading.project import Project
from swift_sprout.hosts.kits.django.reading.settings import Settings

HEAD = "from pathlib import Path\nBASE_DIR = Path(__file__).resolve().parent\n"
ENGINE = '"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True'


class OfProject(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.root = Path(folder.name).resolve()
        (self.root / "manage.py").write_text('import os\nos.environ["DJANGO_SETTINGS_MODULE"] = "settings"\n')
        for name in ("skins", "berths/templates", "tides/templates"):
            (self.root / name).mkdir(parents=True)


class Engines(OfProject):
    def engine(self, text: str) -> TemplateEngine:
        (self.root / "settings.py").write_text(HEAD + text)
        (found,) = template_engines(Settings(Project(self.root), "settings"))
        return found

    def test_folders_in_every_spelling(self) -> None:
        for said in (
            f'TEMPLATES = [{{{ENGINE}, "DIRS": [BASE_DIR / "skins"]}}]',
            f'DIRS = [BASE_DIR / "skins"]\nTEMPLATES = [{{{ENGINE}, "DIRS": DIRS}}]',
            f'TEMPLATES = [{{{ENGINE}, "DIRS": [BASE_DIR / name for name in ("skins",)]}}]',
            f'TEMPLATES = [{{{ENGINE}, "DIRS": list(BASE_DIR / name for name in ["skins"])}}]',
            f'def folders():\n    """Where."""\n    return [BASE_DIR / "skins"]\nTEMPLATES = [{{{ENGINE}, "DIRS": folders()}}]',
            f'TEMPLATES = [{{{ENGINE}, "DIRS": sorted(BASE_DIR.glob("sk*"))}}]',
            f'TEMPLATES = [{{{ENGINE}, "DIRS": []}}]\nTEMPLATES[0]["DIRS"].append(BASE_DIR / "skins")',
            f'TEMPLATES = [{{{ENGINE}, "DIRS": []}}]\nTEMPLATES[0]["DIRS"] += [BASE_DIR / "skins"]',
            f'TEMPLATES = [{{{ENGINE}}}]\nTEMPLATES[0]["DIRS"] = [BASE_DIR / "skins"]',
            f'ENGINE = {{{ENGINE}}}\nTEMPLATES = [{{**ENGINE, "DIRS": [BASE_DIR / "skins"]}}]',
        ):
            with self.subTest(said):
                engine = self.engine(said)
                self.assertEqual([str(one) for one in engine.folders], [str(self.root / "skins")])
                self.assertTrue(engine.sure)
                self.assertTrue(engine.app_dirs)

    def test_what_cannot_be_told_is_not_sure(self) -> None:
        for said in (
            f'TEMPLATES = [{{{ENGINE}, "DIRS": folders_of(BASE_DIR)}}]',
            f'TEMPLATES = [{{{ENGINE}, "DIRS": [folder_of("skins")]}}]',
            'TEMPLATES = [engine("skins")]',
            f'TEMPLATES = [{{{ENGINE}, "DIRS": []}}]\nif DEBUG:\n    TEMPLATES[0]["DIRS"].append(BASE_DIR / "skins")',
            f'TEMPLATES = [{{{ENGINE}, "DIRS": []}}]\nfor name in NAMES:\n    TEMPLATES[0]["DIRS"].append(name)',
            'from elsewhere import ENGINE\nTEMPLATES = [{**ENGINE, "DIRS": []}]',
        ):
            with self.subTest(said):
                engine = self.engine(said)
                self.assertFalse(engine.sure)
                self.assertIsNot(engine.app_dirs, False)

    def test_further_options(self) -> None:
        options = '{"context_processors": ["a.b"], "libraries": {"quay": "a.c"}, "builtins": ["a.d"]}'
        engine = self.engine(f'TEMPLATES = [{{{ENGINE}, "OPTIONS": {options}}}]')
        self.assertEqual((engine.context_processors, engine.libraries, engine.builtins), (("a.b",), {"quay"}, ("a.d",)))
        engine = self.engine(f'TEMPLATES = [{{{ENGINE}, "OPTIONS": {{"context_processors": processors()}}}}]')
        self.assertIsNone(engine.context_processors)


class WorkedOutAddresses(OfProject):
    def read(self, text: str) -> tuple[list[str], bool]:
        for name in ("berths", "tides"):
            (self.root / name / "__init__.py").touch()
            (self.root / name / "urls.py").write_text("urlpatterns = []\n")
        (self.root / "urls.py").write_text("from django.urls import include, path\n" + text)
        addresses = Addresses(Project(self.root))
        conf = addresses.file("urls")
        assert conf is not None
        return [route.includes for route in conf.routes], addresses.unread_below("urls") is None

    def test_what_is_included_in_every_spelling(self) -> None:
        for said in (
            'urlpatterns = [path("b/", include("berths.urls"))]',
            'BERTHS = path("b/", include("berths.urls"))\nurlpatterns = [BERTHS]',
            'urlpatterns = [path("b/", guarded(include("berths.urls")))]',
            'urlpatterns = [path("b/", decorated_include(login_required, "berths.urls"))]',
            'more = [path("b/", include("berths.urls"))]\nurlpatterns = [*more]',
            'urlpatterns = [path("b/", include("berths.urls"))]\nurlpatterns += static(settings.MEDIA_URL)',
            'urlpatterns = [path("b/", include("berths.urls"))] + staticfiles_urlpatterns()',
        ):
            with self.subTest(said):
                self.assertEqual(self.read(said), (["berths.urls"], True))

    def test_what_cannot_be_told_is_said(self) -> None:
        for said in (
            "urlpatterns = [*addresses_of(NAMES)]",
            "urlpatterns = [address_of(name) for name in NAMES]",
            "urlpatterns = addresses()",
            'urlpatterns = []\nfor name in NAMES:\n    urlpatterns.append(path(name, include(f"{name}.urls")))',
            "urlpatterns = []\nregister(urlpatterns)",
            'urlpatterns = [path("b/", include(f"{name}.urls"))]',
            "urlpatterns = [BERTHS]",
        ):
            with self.subTest(said):
                self.assertFalse(self.read(said)[1])


if __name__ == "__main__":
    unittest.main()
