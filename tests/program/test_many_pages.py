"""Sites with many pages are served by two processes: what either of them is asked is told as if there were one."""

from ..support import SiteCase

COUNT = 18
PLAIN = 'from django.http import HttpResponse\n\n\ndef page(request):\n    return HttpResponse("Berth {number} is free today")\n'
GUARDED = (
    "from django.contrib.auth.decorators import login_required\nfrom django.http import HttpResponse\n\n\n"
    '@login_required\ndef page(request):\n    return HttpResponse("Berth {number} for members")\n'
)
BROKEN = 'def page(request):\n    raise ValueError("no berth {number} at low tide")\n'
DRAWN = 'from django.shortcuts import render\n\n\ndef page(request):\n    return render(request, "berth_{number}/page.html")\n'


#  of each sort two that stand one behind the other, so that both servers have one
VIEWS = {4: GUARDED, 5: GUARDED, 8: BROKEN, 9: BROKEN, 12: DRAWN, 13: DRAWN}
NAMES = [f"berth_{number:02}" for number in range(COUNT)]


class ManyPages(SiteCase):
    def setUp(self) -> None:
        super().setUp()
        for number, name in enumerate(NAMES):
            self.put(f"{name}/__init__.py", "")
            self.put(f"{name}/views.py", VIEWS.get(number, PLAIN).replace("{number}", f"{number:02}"))
            urls = (
                f'from django.urls import path\n\nfrom . import views\n\nurlpatterns = [path("{name}", views.page)]\n'
            )
            self.put(f"{name}/urls.py", urls)
            if VIEWS.get(number) is DRAWN:
                self.put(f"{name}/templates/{name}/page.html", "<p>Deep water at this berth</p>\n")
        listed = "".join(f'    "{name}",\n' for name in NAMES)
        self.change("brindle_quay/settings.py", '    "ferries",', f'{listed}    "ferries",')
        line = '    path("ferries/", include("ferries.urls")),\n'
        included = "".join(f'    path("", include("{name}.urls")),\n' for name in NAMES)
        self.change("brindle_quay/urls.py", line, included + line)

    def test_every_page_is_asked_and_each_cause_is_told_at_its_place(self):
        ran = self.sprout("check", "--format", "json")
        for number, name in enumerate(NAMES):
            with self.subTest(name):
                view = VIEWS.get(number, PLAIN)
                if view is BROKEN:
                    self.assertEqual(self.codes(ran, name)[0], "served.error")
                    self.assertIn(f'"file": "{name}/views.py"', ran.out)
                    continue
                self.assertEqual(self.codes(ran, name), [])
                self.assertIn(f"GET /{name} answered 200", self.evidence(ran, name, "served"))
                who = "people signed in" if view is GUARDED else "visitors"
                self.assertIn(who, self.evidence(ran, name, "permitted"))
                if view is DRAWN:  # what the host's log of a request tells
                    self.assertIn("Deep water at this berth", self.evidence(ran, name, "served"))
