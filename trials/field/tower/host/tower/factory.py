import os

from flask import Flask

from tower.extensions import clock
from tower.parts import register_all


def create_app(config=None):
    app = Flask(__name__, instance_relative_config=True)
    app.config.from_mapping(SECRET_KEY=os.environ.get("TOWER_KEY", "only-for-trying-out"), SIGNALS_LISTED=20)
    if config is not None:
        app.config.from_mapping(config)
    clock.init_app(app)
    register_all(app)
    return app
