"""A record of each kind that modules have, made in the copy of the database where there is none, and shown as text.

Lists and pages are drawn with it then, as on a host that is in use. What it is made of is made up: an error that comes
of the values, and not of the code, is told apart by whoever reads the answers.
"""

import contextlib
import datetime
import decimal
import os
import uuid

from sprout_inside import at_most, nobody_outside, told

#  of trees, whose libraries keep fields that fit together
TREES = ({"path", "depth", "numchild"}, {"lft", "rght"}, {"lft", "rgt"})
LONGEST = 5  # seconds that the code of a record may take
MADE = []  # the records, in the order in which they were made


@contextlib.contextmanager
def files_elsewhere(folder):
    """Let the host's storages keep files in a folder of ours while the block runs, wherever theirs are."""
    from django.contrib.staticfiles.storage import StaticFilesStorage
    from django.core.files.storage import FileSystemStorage

    location = FileSystemStorage.location
    os.makedirs(folder, exist_ok=True)

    def elsewhere(storage):
        return location.__get__(storage) if isinstance(storage, StaticFilesStorage) else folder

    #  it holds whatever a storage has found out before, and one of static files without a folder sets it to nothing
    FileSystemStorage.location = property(elsewhere, lambda *_: None)
    try:
        yield
    finally:
        FileSystemStorage.location = location


def try_rows(modules, root, scratch):
    """Make the records of the modules' own models; returns how many were made, and what fails.

    scratch -- a folder for the files that they would keep
    What fails is told with module, model, what was done, and the error.
    """
    from django.apps import apps
    from django.db import transaction

    found = []
    with nobody_outside(), files_elsewhere(scratch), transaction.atomic():  # kept at once: the disk is waited for once
        for config in apps.get_app_configs():
            for model in config.get_models() if config.name in modules else ():
                if is_plain(model, config.name):
                    with at_most(LONGEST):
                        failures = list(failures_of(model))
                    for doing, error in failures:
                        entry = {"module": config.name, "model": model.__name__, "doing": doing}
                        found.append({**entry, "error": told(error, root)})
    return {"made": len(MADE), "failed": found}


def is_plain(model, module):
    """True for a model of the module's own code of which a row can stand alone."""
    from django.conf import settings

    meta = model._meta
    names = {field.name for field in meta.concrete_fields}
    own = model.__module__ == module or model.__module__.startswith(f"{module}.")
    return (
        own
        and meta.managed
        and not (meta.proxy or meta.swapped or meta.parents or meta.auto_created)
        and meta.label != settings.AUTH_USER_MODEL
        and not any(tree <= names for tree in TREES)
    )


def failures_of(model):
    """Yield what fails with a record of a model, one that is there or one made for this: what was done, the error."""
    from django.db import DatabaseError, transaction

    try:
        record = model._base_manager.first()
        if record is None:
            record = model()
            fill(record)
    except Exception:
        return  # its table is not there, which is told by itself, or nothing is known of a value
    try:
        if record._state.adding:  # one that is there is never saved: its code may change the files that belong to it
            with transaction.atomic():
                record.save()
            MADE.append(record)
    except DatabaseError:
        return  # a rule of the table that the values do not keep
    except Exception as error:
        yield "saving", error
        return
    for doing, show in (("text", str), ("address", lambda one: getattr(one, "get_absolute_url", str)())):
        try:
            show(record)
        except Exception as error:
            yield doing, error


def forget_rows():
    """Take the records away again, without asking the code of their modules."""
    while MADE:
        record = MADE.pop()
        with contextlib.suppress(Exception):  # something that a page made points to it
            rows = type(record)._base_manager.filter(pk=record.pk)
            rows._raw_delete(rows.db)


def fill(record, depth=0):
    """Give every field that must have a value and has none a value that fits its type."""
    from django.db import models

    for field in record._meta.concrete_fields:
        if field.primary_key or field.has_default() or field.null or getattr(field, "auto_now", False):
            continue
        if getattr(field, "auto_now_add", False):
            continue
        if field.is_relation:
            if getattr(record, field.attname) is None and depth < 4:
                related = field.related_model._default_manager.first()
                if related is None:
                    related = field.related_model()
                    fill(related, depth + 1)
                    related.save()
                    MADE.append(related)
                setattr(record, field.name, related)
            continue
        if getattr(record, field.attname) not in (None, ""):
            continue
        own = uuid.uuid4().hex if field.unique else ""
        if field.choices:
            value = field.flatchoices[0][0]
        elif isinstance(field, models.EmailField):
            value = f"probe{own[:8]}@example.org"
        elif isinstance(field, models.URLField):
            value = "https://example.org/"
        elif isinstance(field, models.UUIDField):
            value = uuid.uuid4()
        elif isinstance(field, (models.CharField, models.TextField, models.FileField)):
            value = (own or "sample")[: field.max_length or 32]
        elif isinstance(field, models.BooleanField):
            value = False
        elif isinstance(field, models.DecimalField):
            value = decimal.Decimal(0)
        elif isinstance(field, (models.IntegerField, models.FloatField)):
            value = 1
        elif isinstance(field, models.DateTimeField):
            value = datetime.datetime(2026, 11, 23, 6, 30, tzinfo=datetime.UTC)
            from django.conf import settings

            value = value if settings.USE_TZ else value.replace(tzinfo=None)
        elif isinstance(field, models.DateField):
            value = datetime.date(2026, 11, 23)
        elif isinstance(field, models.TimeField):
            value = datetime.time(6, 30)
        elif isinstance(field, models.DurationField):
            value = datetime.timedelta(hours=1)
        elif isinstance(field, models.JSONField):
            value = {}
        else:
            continue
        setattr(record, field.attname, value)
