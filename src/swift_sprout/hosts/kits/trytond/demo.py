"""The Brindle Quay platform on trytond."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

from ...contract.kit import HostOptions
from ...contract.kitdata import KitData
from ...python.interpreter import demo_interpreter
from ...shared.demo import copy_world, demo_step
from .running import command_line
from .view import CONFIGURATION, HostView

DATABASE = "brindle_quay"
PASSWORD_FILE = "admin-password.txt"


def build(folder: Path, data: KitData, options: HostOptions) -> HostOptions:
    """Build the platform: configuration, modules, and a database in which they are activated.

    The administrator's password is made up and kept in a file of the folder.
    """
    python = demo_interpreter(data, options)
    copy_world(data, folder)
    configuration = folder / CONFIGURATION
    configuration.write_text(configuration.read_text("utf-8").replace("{folder}", str(folder.resolve())), "utf-8")
    (folder / "data").mkdir()
    (folder / "data" / f"{DATABASE}.sqlite").touch()
    password = folder / PASSWORD_FILE
    password.write_text(secrets.token_urlsafe(12) + "\n", "utf-8")
    os.chmod(password, 0o600)
    made = options._replace(runtime=str(python.path))
    view = HostView(folder.resolve(), data, made.runtime)
    words = ["--all", "-m", "--email", "office@example.org"]
    demo_step(command_line(view, "admin", words=words), folder, {"TRYTONPASSFILE": str(password.resolve())})
    demo_step(command_line(view, "admin", words=["-u", "ferries", "harbour_office"]), folder)
    return made
