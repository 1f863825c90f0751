from flask import abort, redirect, render_template, request, url_for

from . import bp
from .store import BERTHS, found


@bp.route("/")
def list_all():
    return render_template("berths/list.html", berths=BERTHS)


@bp.route("/<int:number>")
def one(number):
    name = found(number)
    if name is None:
        abort(404)
    return render_template("berths/one.html", name=name)


@bp.route("/ask", methods=["GET", "POST"])
def ask():
    if request.method == "POST":
        return redirect(url_for("berths.list_all"))
    return render_template("berths/ask.html")
