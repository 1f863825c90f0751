from flask import Blueprint, abort, current_app, flash, redirect, render_template, request, url_for
from flask.views import MethodView, View
from sqlalchemy import select

from ..extensions import db
from ..models import Lock, Passage
from .forms import PassageForm

locks = Blueprint("locks", __name__, template_folder="templates")


class LockList(View):
    template = "locks/index.html"

    def dispatch_request(self):
        query = select(Lock).order_by(Lock.name)
        if request.args.get("q"):
            query = query.where(Lock.name.icontains(request.args["q"]))
        page = request.args.get("page", 1, type=int)
        found = db.paginate(query, page=page, per_page=current_app.config["PAGE_SIZE"])
        return render_template(self.template, page=found, locks=found.items)


class LockPage(MethodView):
    init_every_request = False

    def get(self, slug):
        lock = db.one_or_404(select(Lock).filter_by(slug=slug))
        return render_template("locks/lock.html", lock=lock, form=PassageForm())

    def post(self, slug):
        lock = db.one_or_404(select(Lock).filter_by(slug=slug))
        form = PassageForm()
        if form.validate_on_submit():
            passage = Passage(lock=lock, vessel=form.vessel.data)
            if form.at.data:
                passage.at = form.at.data
            db.session.add(passage)
            db.session.commit()
            flash(f"{passage.vessel} has passed.")
            return redirect(url_for(".lock", slug=lock.slug))
        return render_template("locks/lock.html", lock=lock, form=form), 422


locks.add_url_rule("/", view_func=LockList.as_view("index"))
locks.add_url_rule("/locks/<slug>", view_func=LockPage.as_view("lock"))


@locks.get("/locks/<slug>/passages/<int:number>")
def passage(slug, number):
    found = db.session.get(Passage, number)
    if found is None or found.lock.slug != slug:
        abort(404)
    return render_template("locks/passage.html", passage=found)


@locks.app_template_global()
def lock_count():
    return db.session.query(Lock).count()
