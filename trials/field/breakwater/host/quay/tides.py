from flask import Blueprint, jsonify, render_template

bp = Blueprint("tides", __name__, url_prefix="/tides")

TIDES = [("High", "04:12"), ("Low", "10:20")]


@bp.get("/")
def today():
    return render_template("tides/today.html", tides=TIDES)


@bp.get("/today.json")
def as_data():
    return jsonify([{"kind": kind, "at": at} for kind, at in TIDES])
