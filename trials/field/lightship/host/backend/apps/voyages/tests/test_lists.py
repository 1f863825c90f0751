from django.test import TestCase
from django.urls import reverse


class VoyageListTests(TestCase):
    def test_nothing_leaves(self):
        answer = self.client.get(reverse("voyages:list"))
        self.assertContains(answer, "No voyage today")
