from oscar.apps.partner.models import *  # noqa: F403
