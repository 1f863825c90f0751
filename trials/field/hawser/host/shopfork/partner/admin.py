from oscar.apps.partner.admin import *  # noqa: F403
