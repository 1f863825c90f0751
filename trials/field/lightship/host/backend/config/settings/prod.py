from .base import *  # noqa: F403

ALLOWED_HOSTS = ["lightship.example"]
SECURE_HSTS_SECONDS = 3600
SESSION_COOKIE_SECURE = True
CSRF_COOKIE_SECURE = True
