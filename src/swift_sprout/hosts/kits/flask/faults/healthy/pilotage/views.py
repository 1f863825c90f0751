from flask import abort, redirect, render_template, request, url_for

from . import blueprint


@blueprint.get("/pilots")
def pilots():
    return render_template("pilotage/pilots.html", title="Pilots", pilots=["Ada Quill"])


@blueprint.get("/pilots/<name>")
def pilot(name):
    return render_template("pilotage/pilots.html", title=name, pilots=[name])


@blueprint.post("/call-pilot")
def call_pilot():
    name = request.form["name"].strip()
    if not name:
        abort(400)
    return redirect(url_for(".pilot", name=name))


@blueprint.cli.command("watch")
def watch():
    """Print who is on watch."""
    print("Ada Quill")
