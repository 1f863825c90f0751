from flask import Blueprint, current_app, render_template

signals_bp = Blueprint("signals", __name__, template_folder="templates")
FLYING = ["Pilot wanted", "Dredger at work"]


@signals_bp.route("/")
def flying():
    return render_template("signals/flying.html", flying=FLYING[: current_app.config["SIGNALS_LISTED"]])


@signals_bp.cli.command("lower")
def lower():
    """Take all signals down."""
    FLYING.clear()
