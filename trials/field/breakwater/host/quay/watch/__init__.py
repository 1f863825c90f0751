from flask import Blueprint

bp = Blueprint("watch", __name__)

from quay.watch import routes  # noqa: E402, F401
