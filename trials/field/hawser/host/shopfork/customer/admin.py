from oscar.apps.customer.admin import *  # noqa: F403
