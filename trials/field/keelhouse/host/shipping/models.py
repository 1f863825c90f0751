from oscar.apps.shipping.models import *  # noqa: F403
