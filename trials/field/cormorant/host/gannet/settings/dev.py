from .base import *  # noqa: F403

DEBUG = True
SECRET_KEY = "for-one-desk"
ALLOWED_HOSTS = ["*"]
EMAIL_BACKEND = "django.core.mail.backends.console.EmailBackend"
