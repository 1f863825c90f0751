from pathlib import Path

TOP = Path(__file__).resolve().parents[3]
SECRET_KEY = "only-for-trying-out-0123456789-abcdefghij"
DEBUG = False

HOST_PARTS = (
    "django.contrib.admin",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
)
OWN_PARTS = (
    "people.apps.PeopleConfig",
    "slips",
    "notices.apps.Notices",
    "gauges",
)
INSTALLED_APPS = [*HOST_PARTS, *OWN_PARTS]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "notices.middleware.Flags",
]

ROOT_URLCONF = "slipway.addresses"
WSGI_APPLICATION = "slipway.server.application"
AUTH_USER_MODEL = "people.Hand"
LOGIN_URL = "people:in"
LOGIN_REDIRECT_URL = "/"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [TOP / "src" / "slipway" / "pages"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "notices.context.flying",
            ]
        },
    }
]

DATABASES = {"default": {"ENGINE": "django.db.backends.sqlite3", "NAME": str(TOP / "slipway.db")}}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
STATIC_URL = "/static/"
USE_TZ = True
TIME_ZONE = "Europe/London"
LONGEST_VESSEL = 30
