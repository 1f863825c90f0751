"""Pilotage: who brings ships in."""

from flask import Blueprint

blueprint = Blueprint("pilotage", __name__, template_folder="templates")

from . import views  # noqa: E402, F401
