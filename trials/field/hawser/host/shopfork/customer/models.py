from oscar.apps.customer.models import *  # noqa: F403
