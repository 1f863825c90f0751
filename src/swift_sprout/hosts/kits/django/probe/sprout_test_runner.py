"""The test runner that the project's settings name, which records each test besides."""

import unittest

from django.apps import apps
from django.conf import settings
from django.test.utils import get_runner
from sprout_tests import recording, say, tell_found


class Recorded(get_runner(settings)):
    """The project's own runner."""

    def build_suite(self, test_labels=None, **kwargs):
        say({"installed": [one.name for one in apps.get_app_configs()]})
        try:
            suite = super().build_suite(test_labels, **kwargs)
        except Exception:  # one that cannot be looked into stops the runner: the others are run without it
            suite = super().build_suite(list(filter(self._can_be_built, test_labels or [])), **kwargs)
        tell_found(suite)
        return suite

    def _can_be_built(self, label):
        try:
            super().build_suite([label])
        except Exception as error:
            say({"refused": label, "says": f"{type(error).__name__}: {error}"})
            return False
        return True

    def get_resultclass(self):
        return recording(super().get_resultclass() or unittest.TextTestResult)
