"""``pack`` and ``prove``: a module as an archive, and an archive installed and enabled in a copy of the host."""

from __future__ import annotations

import re
import shutil
import time
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from ..core.archives import checked, left_out
from ..core.errors import Refused, SproutError, WrongUse
from ..core.hostfacts import StepRun
from ..core.results import CheckResult
from ..disk.archives import entries_of, packed, write_new
from ..disk.copying import copy_tree
from ..running.activity import doing
from ..running.scratch import scratch_folder
from .checking import hide_secrets
from .hosting import OpenHost

if TYPE_CHECKING:
    from ..hosts.contract.host import Host


class Packed(NamedTuple):
    """An archive that was made: where, its size in bytes, its files, those left out, whether it was there already."""

    module: str
    path: Path
    size: int
    files: list[str]
    left_out: list[str]
    was_there: bool


class Proved(NamedTuple):
    """What became of an archive in a copy of the host: the steps, and the check of the module behind them."""

    module: str
    steps: list[StepRun]
    result: CheckResult


def pack(opened: OpenHost, name: str, to: str | None) -> Packed:
    """Pack a module into an archive beside the working folder; raises Refused when one of another content is there."""
    module = opened.host.find(name)
    patterns = _patterns(opened)
    folder = opened.host.root / opened.host.folder(module)
    files: dict[str, bytes] = {}
    without: list[str] = []
    for path in sorted(folder.rglob("*")):
        if path.is_symlink() and not path.resolve().is_relative_to(folder.resolve()):
            raise Refused("outside", f"{path} is a link that leads out of the module.", "Put the file itself there.")
        if not path.is_file():
            continue
        below = path.relative_to(folder).as_posix()
        if left_out(below, patterns):
            without.append(below)
        else:
            files[below] = path.read_bytes()
    version = next(one.version for one in opened.host.modules() if one.name == module)
    told = re.sub(r"[^\w.+-]", "_", version) or "0"  # whatever somebody wrote into it
    target = Path(to) if to else Path(f"{folder.name}-{told}.zip")
    content = packed(folder.name, files)
    written = write_new(target, content)
    checked(entries_of(target), str(target))
    return Packed(module, target, len(content), sorted(files), without, not written)


def _patterns(opened: OpenHost) -> tuple[str, ...]:
    pack = opened.kit.data.facts.pack
    if pack is None:
        raise WrongUse(
            "not-packed",
            f"{opened.kit.data.title} hosts take no archives of modules.",
            "Ship the module with its project, or as a package of its language.",
        )
    return pack.leave_out


def prove(opened: OpenHost, archive: Path) -> Proved:
    """Install an archive in a copy of the host, over the host's own installer, and check the module there.

    A module of that name is taken out of the copy first, with its data: what is proved is that it works from nothing.
    The host itself is only read. Raises WrongUse for an archive that is not safe or is none of a module.
    """
    began = time.monotonic()
    _patterns(opened)
    folder = checked(entries_of(archive), str(archive))
    with scratch_folder(on_disk=True) as place:
        doing("copying the host")
        out = frozenset(opened.kit.data.facts.sandbox.leave_out)
        copy_tree(opened.host.root, place, out)
        copy = opened.host.sandboxed(place)
        _take_out(copy, folder, place)
        doing("installing the archive in the copy")
        module, steps = copy.install(archive.resolve())
        doing("enabling it")
        try:
            steps += copy.set_enabled(module, True)
        except SproutError as error:
            steps.append(StepRun(f"enable {module}", False, error.sentence))
        doing("asking the copy")
        setup = copy.check([module], live=True)
        setup.setup = "sandbox"
    hide_secrets(setup)
    data = opened.kit.data
    result = CheckResult(data.id, data.title, str(opened.host.root), [setup], time.monotonic() - began)
    return Proved(module, steps, result)


def _take_out(copy: Host, folder: str, place: Path) -> None:
    """Take a module out of a copy, with its data."""
    there = next((one for one in copy.modules() if one.folder.rpartition("/")[2] == folder), None)
    if there is None:
        return
    copy.set_enabled(there.name, False)
    copy.drop_data(there.name)
    shutil.rmtree(place / there.folder)
