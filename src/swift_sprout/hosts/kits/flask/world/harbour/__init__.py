"""The site of the harbour office."""

from pathlib import Path

from flask import Flask


def create_app():
    app = Flask(__name__)
    app.config["DATABASE"] = str(Path(__file__).parent.parent / "brindle_quay.sqlite3")

    from harbour_office import blueprint as harbour_office
    from ferries import blueprint as ferries

    app.register_blueprint(harbour_office)
    app.register_blueprint(ferries, url_prefix="/ferries")
    return app
