"""A copy of the host's database on a server of its own, for a sandbox: the real one is only read."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from ....core.errors import HostFailed
from .database import Server
from .php import last_line, tell

if TYPE_CHECKING:
    from .view import HostView

OPTIONS = Path(__file__).parent / "sandbox.cnf"
DATABASE = "sandbox"


def copy_database(view: HostView, folder: Path, limit_seconds: float) -> Server:
    """Copy all tables of a host to a new server whose data lie in a sandbox's folder; raises HostFailed."""
    php = view.ready(limit_seconds)
    place = folder / ".sandbox-database"
    place.mkdir(mode=0o700)
    server = Server(place, place, OPTIONS)
    server.create(DATABASE)
    server.start(limit_seconds)
    question = {"socket": str(server.socket), "database": DATABASE}
    told = tell(php, "copy.php", view.root, question, limit_seconds, view.environment())
    if "copied" not in told.answers:
        raise HostFailed("database-not-copied", f"The database was not copied: {last_line(told.output)}", "Try again.")
    return server
