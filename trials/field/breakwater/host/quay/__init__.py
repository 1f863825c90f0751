import logging

from flask import Flask, render_template

from config import Config


def create_app(config=Config):
    app = Flask(__name__)
    app.config.from_object(config)
    register_blueprints(app)
    register_errors(app)
    if app.testing:
        return app
    set_up_logging(app)
    return app


def register_blueprints(app):
    from quay.visitors import bp as visitors_bp
    from quay.watch import bp as watch_bp

    app.register_blueprint(visitors_bp, url_prefix="/visitors")
    app.register_blueprint(watch_bp)

    from quay import tides

    app.register_blueprint(tides.bp)


def register_errors(app):
    @app.errorhandler(404)
    def absent(error):
        return render_template("absent.html"), 404


def set_up_logging(app):
    app.logger.setLevel(logging.INFO)
