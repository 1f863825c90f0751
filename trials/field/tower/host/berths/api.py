from flask import jsonify

from . import bp
from .store import BERTHS


@bp.get("/all.json")
def as_json():
    return jsonify(sorted(BERTHS.values()))
