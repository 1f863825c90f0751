from flask import redirect, render_template, request, session, url_for

from quay.watch import bp


@bp.route("/")
def front():
    return redirect(url_for("watch.log"))


@bp.route("/log", methods=["GET", "POST"])
def log():
    if request.method == "POST":
        session.setdefault("entries", []).append(request.form["entry"])
        return redirect(url_for("watch.log"))
    return render_template("watch/log.html", entries=session.get("entries", []))
