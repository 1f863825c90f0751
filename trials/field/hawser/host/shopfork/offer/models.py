from oscar.apps.offer.models import *  # noqa: F403

from .conditions import FullCoil  # noqa: E402, F401
