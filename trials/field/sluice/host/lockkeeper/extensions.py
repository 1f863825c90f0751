import datetime as dt

from flask_sqlalchemy import SQLAlchemy
from flask_wtf import CSRFProtect
from sqlalchemy.orm import DeclarativeBase


class Base(DeclarativeBase):
    pass


db = SQLAlchemy(model_class=Base)
csrf = CSRFProtect()


class Clock:
    """Hands the time to templates."""

    def __init__(self, app=None):
        if app is not None:
            self.init_app(app)

    def init_app(self, app):
        app.extensions["clock"] = self
        app.jinja_env.globals["now"] = self.now

    def now(self):
        return dt.datetime.now(dt.timezone.utc)
