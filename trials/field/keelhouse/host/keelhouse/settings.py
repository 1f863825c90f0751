import os

from oscar.defaults import *  # noqa: F403
from oscar.defaults import OSCAR_DASHBOARD_NAVIGATION

TOP = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))


def here(*names):
    return os.path.join(TOP, *names)


SECRET_KEY = "for-work-on-one-machine"
DEBUG = True
ALLOWED_HOSTS = ["*"]

SHOP = "address analytics basket catalogue catalogue.reviews checkout communication customer offer order partner payment"
SHOP = f"{SHOP} search voucher wishlists dashboard".split()
DESKS = "catalogue communications offers orders pages partners ranges reports reviews shipping users vouchers".split()


def config(dotted, prefix="", suffix=""):
    words = [word.capitalize() for word in dotted.split(".")]
    return f"oscar.apps.{prefix}{dotted}.apps.{''.join(words)}{suffix}Config"


INSTALLED_APPS = [
    "django.contrib.admin",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.sites",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django.contrib.flatpages",
    "oscar.config.Shop",
    "shipping.apps.ShippingConfig",
    "ropework",
]
INSTALLED_APPS += [config(one) for one in SHOP]
INSTALLED_APPS += [config(one, "dashboard.", "Dashboard") for one in DESKS]
INSTALLED_APPS += ["widget_tweaks", "haystack", "treebeard", "sorl.thumbnail", "django_tables2"]

MIGRATION_MODULES = {"shipping": "oscar.apps.shipping.migrations"}

SITE_ID = 1
MIDDLEWARE = (
    "django.middleware.security.SecurityMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.contrib.flatpages.middleware.FlatpageFallbackMiddleware",
    "oscar.apps.basket.middleware.BasketMiddleware",
)
AUTHENTICATION_BACKENDS = (
    "oscar.apps.customer.auth_backends.EmailBackend",
    "django.contrib.auth.backends.ModelBackend",
)
ROOT_URLCONF = "keelhouse.urls"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [os.path.join(TOP, "templates")],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "oscar.apps.search.context_processors.search_form",
                "oscar.apps.checkout.context_processors.checkout",
                "oscar.apps.communication.notifications.context_processors.notifications",
                "oscar.core.context_processors.metadata",
            ],
        },
    },
]
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": here("keelhouse.sqlite3"),
        "ATOMIC_REQUESTS": True,
    }
}
HAYSTACK_CONNECTIONS = {"default": {"ENGINE": "haystack.backends.simple_backend.SimpleEngine"}}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
LANGUAGE_CODE = "en-gb"
TIME_ZONE = "UTC"
USE_TZ = True
STATIC_URL = "/static/"
MEDIA_URL = "/media/"
MEDIA_ROOT = here("media")
LOGIN_REDIRECT_URL = "/"
OSCAR_SHOP_NAME = "The keel house"
OSCAR_DEFAULT_CURRENCY = "EUR"

LONGEST_COIL = 220
OSCAR_DASHBOARD_NAVIGATION.append(
    {
        "label": "Ropework",
        "icon": "fas fa-anchor",
        "children": [{"label": "Coils", "url_name": "ropework:desk", "access_fn": lambda user, *_: user.is_staff}],
    }
)
