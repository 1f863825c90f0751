import os

from flask import Flask, g, render_template, request, session

from . import errors, filters
from .extensions import Clock, db, csrf
from .settings import SETTINGS


def create_app(name=None):
    app = Flask(__name__, instance_relative_config=True)
    app.config.from_object(SETTINGS[name or os.environ.get("LOCKKEEPER_SETTINGS", "plain")])
    os.makedirs(app.instance_path, exist_ok=True)
    app.config.setdefault(
        "SQLALCHEMY_DATABASE_URI", "sqlite:///" + os.path.join(app.instance_path, "locks.sqlite")
    )
    db.init_app(app)
    csrf.init_app(app)
    Clock(app)
    filters.register(app)
    errors.register(app)
    register_blueprints(app)
    register_hooks(app)
    with app.app_context():
        from . import models

        db.create_all()
        models.seed()
    return app


def register_blueprints(app):
    from .api import bp as api
    from .crews import crews
    from .locks.views import locks

    app.register_blueprint(locks)
    app.register_blueprint(crews, url_prefix="/crews")
    app.register_blueprint(api, url_prefix="/api")


def register_hooks(app):
    @app.before_request
    def who():
        g.keeper = session.get("keeper")

    @app.context_processor
    def navigation():
        return {"navigation": [("locks.index", "Locks"), ("crews.roster", "Crews")], "keeper": g.get("keeper")}

    @app.after_request
    def headers(response):
        response.headers.setdefault("X-Frame-Options", "DENY")
        return response

    @app.get("/health")
    def health():
        return {"ok": True, "path": request.path}

    @app.cli.command("count-locks")
    def count_locks():
        from .models import Lock

        print(db.session.query(Lock).count())

    @app.get("/about")
    def about():
        return render_template("about.html", version=app.config["VERSION"])
