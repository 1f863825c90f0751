from functools import wraps

from flask import g, render_template, session
from sqlalchemy import select
from sqlalchemy.orm import selectinload

from ..errors import NotKeeper
from ..extensions import db
from ..models import Crew
from . import crews


def keepers_only(view):
    @wraps(view)
    def guarded(*args, **kwargs):
        if g.keeper is None:
            raise NotKeeper
        return view(*args, **kwargs)

    return guarded


@crews.route("/")
def roster():
    found = db.session.scalars(select(Crew).options(selectinload(Crew.locks)).order_by(Crew.name)).all()
    return render_template("crews/roster.html", crews=found)


@crews.route("/<int:crew_id>", endpoint="page")
def crew_page(crew_id):
    return render_template("crews/crew.html", crew=db.get_or_404(Crew, crew_id))


@crews.route("/shifts")
@keepers_only
def shifts():
    return render_template("crews/shifts.html", keeper=session["keeper"])


@crews.cli.command("list")
def list_crews():
    for crew in db.session.scalars(select(Crew)):
        print(crew.name)
