from .base import *  # noqa: F403
from .base import INSTALLED_APPS

DEBUG = True
INSTALLED_APPS = [*INSTALLED_APPS, "apps.inspector"]
