from flask import Blueprint, jsonify, request
from sqlalchemy import select

from ..extensions import csrf, db
from ..models import Lock, Passage

bp = Blueprint("locks", __name__)
csrf.exempt(bp)


def as_json(lock):
    return {"name": lock.name, "slug": lock.slug, "length": lock.length, "passages": len(lock.passages)}


@bp.get("/")
def all_locks():
    return jsonify([as_json(lock) for lock in db.session.scalars(select(Lock))])


@bp.get("/<slug>")
def one_lock(slug):
    return as_json(db.one_or_404(select(Lock).where(Lock.slug == slug)))


@bp.post("/<slug>/passages")
def add_passage(slug):
    lock = db.one_or_404(select(Lock).where(Lock.slug == slug))
    passage = Passage(lock=lock, vessel=request.get_json()["vessel"])
    db.session.add(passage)
    db.session.commit()
    return {"id": passage.id}, 201
