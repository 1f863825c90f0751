from flask import render_template

from . import blueprint


@blueprint.get("/pilots")
def pilots():
    return render_template("pilotage/pilots.html", title="Pilots", pilots=["Ada Quill"])


@blueprint.get("/pilots/<name>")
def pilot(name):
    return render_template("pilotage/pilots.html", title=name, pilots=[name])
