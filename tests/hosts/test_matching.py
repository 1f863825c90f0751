"""Which addresses a pattern answers, from the files alone, and where new ones go."""

import unittest
from pathlib import Path

from swift_sprout.hosts.kits.django.reading.addresses import Addresses, Route
from swift_sprout.hosts.kits.django.reading.addressing import ahead_of_what_swallows
from swift_sprout.hosts.kits.django.reading.matching import answers, sample_address
from swift_sprout.hosts.kits.django.reading.project import Project


def route(pattern: str | None, regular: bool = False, includes: str = "") -> Route:
    return Route(pattern, Path("urls.py"), 1, regular, includes)


class Matching(unittest.TestCase):
    def test_what_a_pattern_answers(self):
        addresses = Addresses(Project(Path("/nowhere")))
        for pattern, regular, address, wanted in (
            ("", False, "", True),
            ("", False, "crew/", False),
            ("crew/", False, "crew/", True),
            ("crew/", False, "crew/7/", False),
            ("<slug:page>/", False, "crew/", True),
            ("<slug:page>/", False, "crew/7/", False),
            ("<int:page>/", False, "crew/", False),
            ("<path:rest>", False, "crew/7/", True),
            ("<tide:rest>/", False, "crew/", True),
            ("^(?!api/).*$", True, "crew/", True),
            ("^(?!api/).*$", True, "api/crew/", False),
            (r"^(?P<year>[0-9]{4})/$", True, "crew/", False),
            (".*", True, "crew/", True),
            ("(", True, "crew/", False),
            (None, False, "crew/", False),
        ):
            with self.subTest(pattern=pattern, address=address):
                self.assertEqual(answers(addresses, route(pattern, regular), address), wanted)

    def test_what_is_included_from_elsewhere_answers_nothing_that_can_be_told(self):
        self.assertFalse(answers(Addresses(Project(Path("/nowhere"))), route("", False, "cms.urls"), "crew/"))

    def test_a_sample_of_each_converter(self):
        self.assertEqual(sample_address(route("berths/<int:pk>/<slug:name>/")), "berths/7/sample/")
        self.assertIsNone(sample_address(route("^berths/$", True)))


BEFORE = """from django.urls import path, re_path

urlpatterns = [
    path("", views.front),
    path("<slug:page>/", views.page),  # by people
    re_path(r"^old/(.*)$", views.old),
]
"""


class Order(unittest.TestCase):
    def moved(self, *lines: str) -> list[str]:
        after = BEFORE.replace("]\n", "".join(f"    {line},\n" for line in lines) + "]\n")
        text = ahead_of_what_swallows(BEFORE.encode(), after.encode()).decode()
        return [line.strip().rstrip(",") for line in text.splitlines()[3:-1]]

    def test_a_new_address_goes_ahead_of_one_that_answers_for_it(self):
        found = self.moved('path("crew/", views.crew)', 'path("crew/<int:pk>/", views.hand)')
        self.assertEqual(found[1], 'path("crew/", views.crew)')
        self.assertIn("# by people", found[2])
        self.assertEqual(found[-1], 'path("crew/<int:pk>/", views.hand)')

    def test_what_is_there_stays_as_it_is(self):
        self.assertEqual(ahead_of_what_swallows(BEFORE.encode(), BEFORE.encode()), BEFORE.encode())
        self.assertEqual(ahead_of_what_swallows(b"x = 1\n", b"x = [\n"), b"x = [\n")


if __name__ == "__main__":
    unittest.main()
