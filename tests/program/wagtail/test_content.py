"""Editors' work as text: taken out of one site and put into another, where it is the same."""

import json
import shutil
import unittest
from pathlib import Path

from ...support import DemoCase, brief_of, built_demo, tree_of

EDITED = """
import io, json, os, sys
sys.path.insert(0, os.getcwd())
os.environ["DJANGO_SETTINGS_MODULE"] = "brindle_quay.settings"
import django
django.setup()
from django.core.files.base import ContentFile
from PIL import Image as Picture
from tide_pages.models import Preferences, Station, TideIndex, TidePage
from wagtail.documents.models import Document
from wagtail.images.models import Image
from wagtail.models import Site

drawn = io.BytesIO()
Picture.new("RGB", (40, 20), "teal").save(drawn, "PNG")
for filler in range(3):  # so that numbers differ from those of another site
    Image(title="x", file=ContentFile(drawn.getvalue() + bytes([filler]), "x.png")).save()
image = Image(title="The mole at dawn", file=ContentFile(drawn.getvalue(), "mole.png"))
image.save()
chart = Document(title="Chart", file=ContentFile(b"depths", "chart.txt"))
chart.save()
Station.objects.create(name="Old mole", depth_m="4.5", chart=chart)
north = Station.objects.create(name="North quay")
Preferences.objects.create(site=Site.objects.get(), warn_from_m="5.25")
page = TidePage.objects.get()
page.station, page.picture, page.height_m = north, image, "3.1"
page.story = json.dumps([
    {"type": "heading", "value": "Spring"},
    {"type": "paragraph", "value": f'<p>See <a linktype="page" id="{page.get_parent().pk}">levels</a></p>'},
    {"type": "image", "value": {"image": image.pk, "decorative": False, "alt_text": "Mole"}},
])
page.save_revision().publish()
page.refresh_from_db()
page.title = "Spring tide to come"
page.save_revision()
index = TideIndex.objects.get()
neap = index.add_child(instance=TidePage(title="Neap tide", height_m="1.2"))
neap.refresh_from_db()
TidePage.objects.get(pk=neap.pk).move(TideIndex.objects.get(), pos="first-child")
"""


class ContentCase(DemoCase):
    kit = "wagtail"
    brief = "tide_pages"

    @property
    def content(self) -> Path:
        return self.site / "tide_pages/content"

    def edit(self) -> None:
        import subprocess

        done = subprocess.run([self.python, "-c", EDITED], cwd=self.site, capture_output=True, text=True, timeout=120)
        self.assertEqual(done.returncode, 0, done.stderr)


class Content(ContentCase):
    def test_what_is_put_elsewhere_is_the_same_there(self):
        self.edit()
        taken = self.assert_ok(self.sprout("content", "take", "tide_pages", "--format", "json")).json
        self.assertEqual(
            taken["items"], {"Preferences": 1, "Station": 2, "TideIndex": 1, "TidePage": 2, "WarningPage": 1}
        )
        self.assertIn("nothing was changed", self.assert_ok(self.sprout("content", "take", "tide_pages")).out)
        first = tree_of(self.content)
        self.assertEqual(len([name for name in first if name.startswith("files/")]), 2)
        pages = {item["title"]: item for item in json.loads(first["TidePage.json"])["items"]}
        self.assertEqual([pages[title]["position"] for title in ("Neap tide", "Spring tide")], [1, 2])
        self.assertEqual(pages["Spring tide"]["draft"]["title"], "Spring tide to come")
        self.assertNotRegex(first["TidePage.json"].decode(), r'id=\\"\d')
        kept = self.folder / "kept"
        shutil.copytree(self.content, kept)

        shutil.rmtree(self.site)
        shutil.copytree(built_demo(self.kit), self.site)  # another site, with a database of its own
        self.assert_ok(self.sprout("new", "--brief", brief_of("wagtail", "tide_pages"), "-q"))
        self.assert_ok(self.sprout("enable", "tide_pages", "-q"))
        shutil.copytree(kept, self.content)
        before = tree_of(self.site)
        told = self.assert_ok(self.sprout("content", "put", "tide_pages", "--preview", "--format", "json")).json
        self.assertEqual(told["items"]["TidePage"], {"made": 1, "changed": 1, "same": 0})
        self.assertEqual(tree_of(self.site), before, "a preview writes nothing")
        self.assert_ok(self.sprout("content", "put", "tide_pages"))
        again = self.assert_ok(self.sprout("content", "put", "tide_pages", "--format", "json")).json
        self.assertEqual(
            {what for counts in again["items"].values() for what, count in counts.items() if count}, {"same"}
        )
        self.assert_ok(self.sprout("content", "take", "tide_pages"))
        self.assertEqual(tree_of(self.content), first)
        self.assert_ok(self.sprout("check"))
        urls = self.rows("select url_path from wagtailcore_page where live = 1 and depth > 3 order by path")
        self.assertEqual(urls, [("/home/water-levels/neap-tide/",), ("/home/water-levels/spring-tide/",)])

    def test_what_points_at_nothing_is_told_and_comes_later(self):
        self.edit()
        self.assert_ok(self.sprout("content", "take", "tide_pages", "-q"))
        stations = self.content / "Station.json"
        aside = stations.rename(self.folder / "Station.json")
        self.rows("delete from tide_pages_station")
        self.rows("update tide_pages_tidepage set station_id = null")
        ran = self.assert_ok(self.sprout("content", "put", "tide_pages"), 1)
        self.assertIn("there is no Station North quay", " ".join(ran.out.split()))
        shutil.copy(aside, stations)
        self.assert_ok(self.sprout("content", "put", "tide_pages"))
        self.assertEqual(self.rows("select count(*) from tide_pages_tidepage where station_id is not null"), [(1,)])

    def test_content_that_cannot_be_read_is_told_with_its_place(self):
        self.edit()
        self.assert_ok(self.sprout("content", "take", "tide_pages", "-q"))
        path = self.content / "Station.json"
        good = path.read_text()
        for text, said in (
            (good.replace('"items": [', '"items": '), "Station.json:"),
            (good.replace("swift-sprout/content/1", "other/1"), "this is no content"),
            (good.replace('"key": "Old mole"', '"key": "North quay"'), "is there twice"),
        ):
            with self.subTest(said):
                path.write_text(text)
                before = self.rows("select * from tide_pages_station")
                self.assertIn(said, self.assert_ok(self.sprout("content", "put", "tide_pages"), 2).err)
                self.assertEqual(self.rows("select * from tide_pages_station"), before)
        path.write_text('{"mine": true}')
        self.assertIn("is no content", self.assert_ok(self.sprout("content", "take", "tide_pages"), 4).err)
        self.assertEqual(path.read_text(), '{"mine": true}')
        path.write_text(good.replace('"files/', '"files/../../'))
        self.assertIn("is not there", self.assert_ok(self.sprout("content", "put", "tide_pages"), 2).err)

    def test_a_page_is_asked_about_by_its_address(self):
        self.assert_ok(self.sprout("why", "tide_pages", "/water-levels/"))
        draft = self.assert_ok(self.sprout("why", "tide_pages", "/storm-warning"), 1)
        self.assertIn("it is a draft", draft.out)
        self.assertIn("publish it", draft.out)
        self.assertIn("nothing named", self.assert_ok(self.sprout("why", "tide_pages", "/nowhere"), 2).err)

    def test_hand_written_types_of_pages_are_adopted(self):
        path = self.site / "tide_pages/sprout.toml"
        before = path.read_text()
        path.unlink()
        self.assert_ok(self.sprout("adopt", "tide_pages"))
        adopted = path.read_text()
        pages = before[before.index("[[page_type]]") : before.index("[[block]]")]
        self.assertEqual(adopted[adopted.index("[[page_type]]") : adopted.index("[[block]]")].strip(), pages.strip())
        self.assert_ok(self.sprout("check"))


class OtherHosts(unittest.TestCase):
    def test_hosts_without_content_say_so(self):
        from swift_sprout.core.errors import Refused
        from swift_sprout.hosts.contract.kit import HostOptions
        from swift_sprout.hosts.registry import kit_named

        host = kit_named("flask").open(Path(), HostOptions())
        for ask in (lambda: host.take_content("x"), lambda: host.put_content("x", Path(), True)):
            with self.assertRaises(Refused) as caught:
                ask()
            self.assertIn("Flask", caught.exception.sentence)
