from flask import Blueprint

crews = Blueprint("crews", __name__, template_folder="templates", static_folder="static")

from . import views  # noqa: E402, F401
