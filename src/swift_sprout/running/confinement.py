"""Running the program once more where the host's code can do little harm: in namespaces of its own.

Users, mounts, processes, IPC and network are apart (``unshare`` of util-linux, or ``bwrap``, makes them). There
``confined`` sets the rest up and starts the program: see what it does.
"""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path

from ..core.errors import HostFailed
from . import process

SIGN = "SWIFT_SPROUT_CONFINED"
_MAKERS = (
    ("unshare", "--user --map-root-user --mount --net --ipc --uts --pid --fork --kill-child --mount-proc"),
    (
        "bwrap",
        "--dev-bind / / --unshare-user --uid 0 --gid 0 --unshare-net --unshare-ipc --unshare-uts --unshare-pid "
        "--proc /proc --cap-add ALL --die-with-parent --",
    ),
)


def is_confined() -> bool:
    """True in a program that was started by ``run_confined``."""
    return os.environ.get(SIGN) == "1"


def run_confined(words: Sequence[str], root: Path, needed: Sequence[str]) -> int:
    """Run the program with other words in namespaces of its own, and return its exit status.

    root   -- the host's folder, which lies under an overlay there: what is written into it is gone afterwards
    needed -- further paths that must be seen there, such as the host's interpreter

    Raises HostFailed where this system makes no such namespaces.
    """
    maker = _maker()
    question = {"root": str(root), "needed": [*needed, sys.prefix, sys.base_prefix, str(Path(__file__).parents[2])]}
    command = [*maker, sys.executable, "-m", "swift_sprout.running.confined", json.dumps(question), *words]
    started = process.start(command, Path.cwd(), {SIGN: "1"}, stdin=subprocess.DEVNULL, stdout=None, stderr=None)
    try:
        status = started.wait()
    finally:
        process.end(started)
    if status == SET_UP_FAILED:
        raise HostFailed("no-confinement", "The confinement could not be set up here.", _REMEDY)
    return status if status >= 0 else 128 - status


SET_UP_FAILED = 125
_REMEDY = "Check without --confined, where the host's code may be trusted; or on a system that allows user namespaces."


def _maker() -> list[str]:
    """Return the command that makes the namespaces: of those that are here, the first that works."""
    tried = []
    for name, words in _MAKERS:
        program = shutil.which(name)
        if program is None:
            tried.append(f"{name} is not here")
            continue
        made = [program, *words.split()]
        ended = process.run([*made, sys.executable, "-c", "pass"], Path("/"), 20)
        if ended.status == 0:
            return made
        tried.append(f"{name}: {(ended.output.strip().splitlines() or ['it failed'])[-1][:200]}")
    raise HostFailed("no-confinement", f"Nothing here makes namespaces: {'; '.join(tried)}.", _REMEDY)
