"""The host as its files show it, and what its database says without running it."""

from __future__ import annotations

import re
from functools import cached_property
from pathlib import Path
from typing import Any

from ....core.errors import HostFailed, SproutError
from ...contract.kitdata import KitData
from .database import Server, own_server
from .php import Php, find_php, last_line, need_php, tell
from .reading.modules import ModuleFiles, modules_of

CONFIGURATION = "wp-config.php"


class HostView:
    """One reading of a host.

    runtime -- the PHP program that was named; server -- another database server than the host's own, for a sandbox
    """

    def __init__(self, root: Path, data: KitData, runtime: str | None, server: Server | None = None) -> None:
        self.root = root
        self.data = data
        self.runtime = runtime
        self.sandbox_server = server

    def relative(self, path: Path) -> str:
        """Return a path of the host as people read it: below its root."""
        try:
            return path.relative_to(self.root).as_posix()
        except ValueError:
            return str(path)

    @cached_property
    def version(self) -> str:
        """The host's version, as its files say it."""
        try:
            text = (self.root / "wp-includes/version.php").read_text("utf-8", "replace")
        except OSError:
            return ""
        found = re.search(r"\$wp_version\s*=\s*['\"]([^'\"]+)", text)
        return found.group(1) if found else ""

    @cached_property
    def php(self) -> Php | None:
        """The PHP program; None when there is none."""
        return find_php(self.runtime)

    @cached_property
    def modules(self) -> list[ModuleFiles]:
        """The modules that its folder holds."""
        return modules_of(self.root)

    @property
    def configuration(self) -> Path | None:
        """The host's configuration: in its root, or one folder above when that is no host of its own."""
        here, above = self.root / CONFIGURATION, self.root.parent / CONFIGURATION
        if here.is_file():
            return here
        return above if above.is_file() and not (self.root.parent / "wp-settings.php").is_file() else None

    @property
    def server(self) -> Server | None:
        """The database server that belongs to this host alone; None for one that somebody else runs."""
        return self.sandbox_server or own_server(self.root)

    def environment(self) -> dict[str, str]:
        """Return what scripts must be told to reach the right database."""
        return {"SPROUT_DB_SOCKET": str(self.sandbox_server.socket)} if self.sandbox_server is not None else {}

    def ready(self, limit_seconds: float) -> Php:
        """Make sure that the host can be run: PHP, configuration, and the host's own server. Raises HostFailed."""
        php = need_php(self.php)
        if self.configuration is None:
            raise HostFailed(
                "host-not-configured",
                f"There is no {CONFIGURATION} in {self.root}.",
                "Install the host first; swift-sprout reads its database's place there.",
            )
        if self.server is not None:
            self.server.start(limit_seconds)
        return php

    def ask_state(self, limit_seconds: float, tables: list[str] | None = None) -> dict[str, Any]:
        """Return what the database says: modules that are on, theme, tables; raises HostFailed."""
        php = self.ready(limit_seconds)
        told = tell(php, "state.php", self.root, {"tables": tables or []}, limit_seconds, self.environment())
        if not told.answers:
            raise HostFailed("database-down", down(told.output), "Start the database server, or fix wp-config.php.")
        return told.answers

    @cached_property
    def state(self) -> dict[str, Any] | None:
        """What the database says; None when it cannot be asked."""
        try:
            return self.ask_state(20)
        except SproutError:
            return None

    def is_on(self, module: ModuleFiles) -> bool | None:
        """True when the database says that a module is on; None when it cannot be asked."""
        if self.state is None:
            return None
        if module.sort == "theme":
            return module.name in (self.state["theme"], self.state.get("parent_theme"))
        return module.key in self.state["active"]


def down(output: str) -> str:
    """Tell in one sentence that the database did not answer, from what the host printed."""
    if "Error establishing a database connection" in output or "database connection" in output:
        return "The host cannot reach its database."
    return f"The host does not start: {last_line(output)}"
