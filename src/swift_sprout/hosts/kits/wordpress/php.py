"""Finding PHP and running scripts inside the host."""

from __future__ import annotations

import hashlib
import json
import os
import re
import shutil
import tempfile
from collections.abc import Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import Any, NamedTuple

from ....caching.place import cache_folder
from ....core.errors import HostFailed, Refused
from ....disk.private import private_folder
from ....running.process import run
from ....running.scratch import scratch_folder

PROBE = Path(__file__).parent / "probe"
PACKAGES = "php8.2-cli php8.2-mysql mariadb-server-core"
MOST_HOSTS = 8  # whose compiled files are kept: some 25 MB each
NEEDED_EXTENSIONS = ("mysqli", "json")


class Php:
    """A PHP program: its path, and how it was found; what it can do is asked of it when that is needed."""

    def __init__(self, path: str, origin: str) -> None:
        self.path = path
        self.origin = origin

    @cached_property
    def _told(self) -> tuple[str, frozenset[str]]:
        code = "echo json_encode([PHP_VERSION, get_loaded_extensions()]);"
        try:
            ended = run([self.path, "-r", code], Path.cwd(), 20)
            version, extensions = json.loads(ended.output.strip().splitlines()[-1])
        except (OSError, ValueError, IndexError):
            raise HostFailed(
                "no-php", f"--runtime {self.path}: that is no PHP program.", f"Install {PACKAGES}, or name another."
            ) from None
        return str(version), frozenset(str(one).lower() for one in extensions)

    @property
    def version(self) -> str:
        """Its version; raises HostFailed when it is no PHP."""
        return self._told[0]

    @property
    def missing(self) -> list[str]:
        """The extensions without which the host cannot run; raises HostFailed when it is no PHP."""
        return [one for one in NEEDED_EXTENSIONS if one not in self._told[1]]


class Told(NamedTuple):
    """What a script answered, how it ended, and the end of what it printed besides; no answers when it failed."""

    answers: dict[str, Any]
    status: int | None
    output: str


def find_php(given: str | None) -> Php | None:
    """Return the PHP program: the one that ``--runtime`` names, else that of the path; None when there is none."""
    named = given if given and not Path(given).is_dir() else None
    path = named or shutil.which("php")
    return None if path is None else Php(path, "--runtime" if named else "on the path")


def need_php(php: Php | None) -> Php:
    """Return the PHP program; raises HostFailed, naming the packages, when there is none."""
    if php is None:
        raise HostFailed(
            "no-php", "There is no PHP here.", f"Install the packages {PACKAGES}, or name a PHP with --runtime PATH."
        )
    return php


def refuse_what_lacks(php: Php) -> None:
    """Raise HostFailed where a PHP is none, or lacks what the host needs: asked when a script did not answer."""
    if php.missing:
        raise HostFailed(
            "no-php", f"{php.path} lacks the extension {', '.join(php.missing)}.", f"Install the packages {PACKAGES}."
        )


def options(root: Path) -> list[str]:
    """Return the options of PHP under which the host in a folder runs quickly, and never sees a stale file."""
    given = {
        "opcache.enable": "1",
        "opcache.enable_cli": "1",
        "opcache.revalidate_freq": "0",
        "opcache.validate_timestamps": "1",
        "opcache.lockfile_path": tempfile.gettempdir(),  # /tmp otherwise, which may be read-only
        "display_errors": "0",
        "log_errors": "0",
        "html_errors": "0",
        "memory_limit": "512M",
    }
    try:  # what lies there is run: it is nobody else's, or there is none
        given["opcache.file_cache"] = str(_compiled_files(root))
    except (OSError, Refused):
        pass
    return [word for key, value in given.items() for word in ("-d", f"{key}={value}")]


def _compiled_files(root: Path) -> Path:
    """Return where PHP keeps the compiled files of one host; those of hosts that were asked longest ago are dropped."""
    name = hashlib.sha256(os.fsencode(root)).hexdigest()[:16]
    folder = private_folder(cache_folder().parent, "php", name)
    os.utime(folder)
    kept = sorted(folder.parent.iterdir(), key=lambda one: one.stat().st_mtime, reverse=True)
    for one in kept[MOST_HOSTS:]:
        shutil.rmtree(one, ignore_errors=True)
    return folder


#  answers that scripts tell piece by piece, for one of the pieces may end the run
ONE_BY_ONE = {"kept", "lacks", "screen", "code", "drawn", "box", "job", "acted", "failed"}


def tell(
    php: Php,
    script: str,
    root: Path,
    question: Mapping[str, Any],
    limit_seconds: float,
    environment: Mapping[str, str] | None = None,
) -> Told:
    """Run one of the kit's scripts with a question and return what it told."""
    with scratch_folder() as folder:
        asked = folder / "question.json"
        asked.write_text(json.dumps({"root": str(root), **question}), "utf-8")
        given = {"SPROUT_QUESTION": str(asked), **(environment or {})}
        try:
            ended = run([php.path, *options(root), str(PROBE / script)], root, limit_seconds, given)
        except OSError:
            refuse_what_lacks(php)
            raise
        told = asked.with_suffix(".answers")
        answers: dict[str, Any] = {}
        if told.is_file():
            for line in told.read_text("utf-8", "replace").splitlines():
                try:
                    told_one = json.loads(line)
                except ValueError:
                    continue
                for name in ONE_BY_ONE & told_one.keys():
                    answers.setdefault(name, {}).update(told_one.pop(name))
                answers |= told_one
    if not answers and ended.status is not None:
        refuse_what_lacks(php)
    return Told(answers, ended.status, ended.output)


def last_line(text: str) -> str:
    """Return the last line that says something."""
    lines = [re.sub(r"<[^>]+>", "", line).strip() for line in text.splitlines()]
    return next((line[:300] for line in reversed(lines) if line), "it printed nothing")


def words(php: Php, root: Path, extra: Sequence[str] = ()) -> list[str]:
    """Return the command line that begins with PHP and its options for the host in a folder."""
    return [php.path, *options(root), *extra]


def first_line(text: str) -> str:
    """Return the first line of what was said of a failure."""
    return text.strip().splitlines()[0][:300] if text.strip() else "it broke"
