from flask import Blueprint, abort, current_app, render_template

bp = Blueprint("visitors", __name__, template_folder="templates")

NAMES = {"lena": "Lena", "tom": "Tom"}


@bp.route("/")
def everybody():
    return render_template("visitors/all.html", names=NAMES, most=current_app.config["MOST_VISITORS"])


@bp.route("/<name>")
def one(name):
    if name not in NAMES:
        abort(404)
    return render_template("visitors/one.html", name=NAMES[name])
