from .base import *  # noqa: F403

DEBUG = True
SECRET_KEY = "for-work-on-one-machine"
ALLOWED_HOSTS = ["*"]
