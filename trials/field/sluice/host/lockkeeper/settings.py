import os


class Plain:
    SECRET_KEY = os.environ.get("LOCKKEEPER_KEY", "only-for-work")
    VERSION = "2.4"
    PAGE_SIZE = 20
    WTF_CSRF_TIME_LIMIT = None


class Testing(Plain):
    TESTING = True
    WTF_CSRF_ENABLED = False
    SQLALCHEMY_DATABASE_URI = "sqlite://"


SETTINGS = {"plain": Plain, "testing": Testing}
