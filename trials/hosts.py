"""Demo hosts, built once and copied wherever one is needed, and healthy ones with two more modules."""

from __future__ import annotations

import atexit
import fcntl
import os
import shutil
import tempfile
from collections.abc import Callable
from functools import cache
from pathlib import Path

from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.actions.making import Wanted, make
from swift_sprout.actions.switching import enable, settle
from swift_sprout.hosts.contract.kit import HostOptions
from swift_sprout.hosts.registry import kit_named
from swift_sprout.hosts.shared.trial import Trial, trial_of

from .places import RUNTIMES, brief_of
from .recipes import KIT_FOLDERS

#  where processes that test side by side share the hosts that they build; empty: each has its own
SHARED = "SPROUT_TRIAL_HOSTS"
HAND_MADE = "pilotage"  # the healthy module that was written by hand
NOT_COPIED = ("socket", "server.pid", "users", "started-for-a-command")


@cache
def trial(kit: str) -> Trial:
    """Return how the demo host of a kit is tried out."""
    return trial_of(kit_named(kit).data)


def runtime_options(kit: str) -> list[str | Path]:
    """Return the options that a command needs to run the host of a kit."""
    return trial(kit).options(RUNTIMES[kit])


def build_demo(kit: str, folder: Path) -> None:
    """Build the demo host of a kit in an empty folder, stopped."""
    if not RUNTIMES[kit].exists():
        raise RuntimeError(f"the {kit} host is missing ({RUNTIMES[kit]}): `make test` installs it")
    kit_named(kit).build_demo(folder, HostOptions(str(RUNTIMES[kit])))
    trial(kit).stop(folder)


def built_demo(kit: str) -> Path:
    """Return the demo host of a kit, only to be copied."""
    return built(f"{kit}-demo", lambda site: build_demo(kit, site))


def built_healthy(kit: str) -> Path:
    """Return the demo host of a kit with two healthy modules, enabled and with their tables, only to be copied.

    One was written by hand and is laid over it; the other is made from the brief with every kind of part.
    """
    return built(f"{kit}-healthy", lambda site: _build_healthy(kit, site))


def _build_healthy(kit: str, site: Path) -> None:
    copy_host(kit, built_demo(kit), site)
    ours, brief = trial(kit), trial(kit).brief
    by_hand = KIT_FOLDERS / kit / "faults/healthy"
    shutil.copytree(by_hand, site, dirs_exist_ok=True, ignore=shutil.ignore_patterns("__pycache__"))
    ours.register_by_hand(site)
    choice = HostChoice(str(site), kit, str(RUNTIMES[kit]))
    make(open_host(choice), Wanted(briefs=(str(brief_of(kit, brief)),)))
    for module in (*ours.overrides, HAND_MADE, brief):
        enable(open_host(choice), module, None, preview=False)
    if ours.overrides:  # the pages that it overrides are there for a shop that sells something
        settle(open_host(choice), [brief], samples=True)
    ours.stop(site)


def copy_host(kit: str, source: Path, site: Path, with_database: bool = True) -> None:
    """Copy a stopped host to another folder, so that it works there.

    with_database -- copy the files of its own database server as well
    """
    site.mkdir(parents=True, exist_ok=True)
    ignored = shutil.ignore_patterns(*NOT_COPIED)
    for entry in source.iterdir():
        if not entry.is_dir():
            shutil.copy2(entry, site / entry.name)
        elif with_database or entry.name != "database":
            copy = os.link if entry.name in trial(kit).linked else shutil.copy2
            shutil.copytree(entry, site / entry.name, copy_function=copy, ignore=ignored)
    trial(kit).relocate(site, source)


def built(name: str, build: Callable[[Path], None]) -> Path:
    """Return the host of a name, which is built in an empty folder by whoever asks first, and only to be copied."""
    place = _shared_folder() / name
    place.mkdir(exist_ok=True)
    site, ready = place / "site", place / "ready"
    with (place / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not ready.exists():
            shutil.rmtree(site, ignore_errors=True)
            site.mkdir()
            build(site)
            ready.touch()
    return site


@cache
def _shared_folder() -> Path:
    if SHARED in os.environ:
        return Path(os.environ[SHARED])
    folder = Path(tempfile.mkdtemp(prefix="sprout-hosts-")).resolve()
    atexit.register(shutil.rmtree, folder, True)
    return folder
