from oscar.apps.order.models import *  # noqa: F403
