from .shared import *  # noqa: F403

ALLOWED_HOSTS = ["*"]
