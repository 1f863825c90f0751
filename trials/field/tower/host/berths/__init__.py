from flask import Blueprint

bp = Blueprint("berths", __name__, template_folder="templates", static_folder="static")

from . import api, views  # noqa: E402, F401
