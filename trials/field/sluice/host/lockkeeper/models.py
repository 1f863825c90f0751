import datetime as dt

from sqlalchemy import CheckConstraint, ForeignKey, String, select
from sqlalchemy.orm import Mapped, mapped_column, relationship, validates

from .extensions import db


class Lock(db.Model):
    __tablename__ = "lock"
    __table_args__ = (CheckConstraint("length > 0", name="lock_length"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60), unique=True)
    slug: Mapped[str] = mapped_column(String(60), index=True)
    length: Mapped[float]
    passages: Mapped[list["Passage"]] = relationship(back_populates="lock", order_by="Passage.at.desc()")
    crew_id: Mapped[int | None] = mapped_column(ForeignKey("crew.id"))
    crew: Mapped["Crew | None"] = relationship(back_populates="locks")

    @validates("slug")
    def lower(self, key, value):
        return value.lower()

    @property
    def is_staffed(self):
        return self.crew is not None


class Passage(db.Model):
    __tablename__ = "passage"

    id: Mapped[int] = mapped_column(primary_key=True)
    lock_id: Mapped[int] = mapped_column(ForeignKey("lock.id", ondelete="CASCADE"))
    lock: Mapped[Lock] = relationship(back_populates="passages")
    vessel: Mapped[str] = mapped_column(String(60))
    at: Mapped[dt.datetime] = mapped_column(default=lambda: dt.datetime.now(dt.timezone.utc))


class Crew(db.Model):
    __tablename__ = "crew"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60))
    locks: Mapped[list[Lock]] = relationship(back_populates="crew")


def seed():
    if db.session.scalar(select(Lock)) is None:
        crew = Crew(name="Early shift")
        lock = Lock(name="Quay lock", slug="quay-lock", length=120.5, crew=crew)
        lock.passages.append(Passage(vessel="Grey Heron"))
        db.session.add_all([crew, lock, Lock(name="Mill lock", slug="mill-lock", length=45)])
        db.session.commit()
