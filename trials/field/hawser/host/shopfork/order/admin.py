from oscar.apps.order.admin import *  # noqa: F403
