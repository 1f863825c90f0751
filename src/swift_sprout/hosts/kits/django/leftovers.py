"""What a Django host keeps of a module whose tables are gone: content types, permissions, groups, uploaded files."""

from __future__ import annotations

import json
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ....core.hostfacts import StepRun
from ....core.plurals import number_of
from ...shared.savedrows import REMEDY
from .dropping import run_steps
from .reading.modules import ModuleFiles
from .registration import brief_of
from .settling import Step, carried_out
from .view import HostView

#  asked of the host itself by its own shell, in one line of JSON behind whatever it prints
_FIND = """
import json, os
from django.apps import apps
from django.conf import settings
found = {{}}
if apps.is_installed("django.contrib.contenttypes"):
    from django.contrib.contenttypes.models import ContentType
    found["types"] = ContentType.objects.filter(app_label={label!r})
if apps.is_installed("django.contrib.auth"):
    from django.contrib.auth.models import Group, Permission
    found["permissions"] = Permission.objects.filter(content_type__app_label={label!r})
    found["groups"] = Group.objects.filter(name__in={groups!r}).order_by("name")
folder = os.path.join(str(settings.MEDIA_ROOT), {label!r}) if settings.MEDIA_ROOT else ""
"""
_TELL = """
left = {{sort: rows.count() for sort, rows in found.items()}}
left["groups"] = [one.name for one in found.get("groups", ())]
left["files"] = sum(len(files) for _, _, files in os.walk(folder)) if folder else 0
left["folder"] = folder
print(json.dumps(left))
"""
_TAKE = """
from django.core import serializers
from django.db import transaction
rows = [row for sort in ("types", "permissions", "groups") for row in found.get(sort, ())]
with open({file!r}, "w", encoding="utf-8") as kept:
    kept.write(serializers.serialize("json", rows, indent=1))
with transaction.atomic():
    for sort in ("groups", "permissions", "types"):
        if sort in found:
            found[sort].delete()
"""


def leftovers(view: HostView, module: ModuleFiles, limit_seconds: float) -> list[str]:
    """Tell what the host keeps of a module whose tables are gone; nothing where it does not tell."""
    return list(_told(_left(view, module, limit_seconds)))


def drop_leftovers(view: HostView, module: ModuleFiles, keep_in: Path, limit_seconds: float) -> list[StepRun]:
    """Take away what the host keeps of a module whose tables are gone; raises HostFailed.

    keep_in -- the file that its rows are written to before; uploaded files are moved to a folder of that name
    """
    left = _left(view, module, limit_seconds)
    told = [sentence.partition(" stay")[0] for sentence in _told(left)]
    if not told:
        return []
    code = _code(view, module, _TAKE.replace("{file!r}", repr(str(keep_in))))
    title = f"take away {', '.join(told)}, kept in {keep_in.name}"
    runs = run_steps(view, [Step(title, ["shell", "-v", "0", "-c", code], REMEDY)], limit_seconds)
    if left.get("files"):
        shutil.move(str(left["folder"]), keep_in.with_suffix(".files"))
    return runs


def _code(view: HostView, module: ModuleFiles, then: str) -> str:
    brief = brief_of(module)
    groups = [one.name.title for one in brief.groups] if brief is not None else []
    return (_FIND + then).format(label=module.label, groups=groups)


def _left(view: HostView, module: ModuleFiles, limit_seconds: float) -> dict[str, Any]:
    step = Step("what is left", ["shell", "-v", "0", "-c", _code(view, module, _TELL)], REMEDY)
    for _, ended in carried_out(view, [step], limit_seconds):
        lines = [line for line in ended.output.splitlines() if line.startswith("{")]
        if ended.status == 0 and lines:
            found: dict[str, Any] = json.loads(lines[-1])
            return found
    return {}


def _told(left: dict[str, Any]) -> Iterator[str]:
    if left.get("types"):
        permissions = f" and {left['permissions']} permissions" if left.get("permissions") else ""
        mend = "python manage.py remove_stale_contenttypes --include-stale-apps"
        types = number_of(left["types"], "content type")
        yield f"{types}{permissions} stay: {mend}"
    for name in left.get("groups") or ():
        yield f"the group {name} stays, with its members"
    if left.get("files"):
        many = "s stay" if left["files"] > 1 else " stays"
        yield f"{left['files']} uploaded file{many} in {left['folder']}"
