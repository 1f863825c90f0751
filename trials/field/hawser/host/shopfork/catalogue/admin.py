from oscar.apps.catalogue.admin import *  # noqa: F403
