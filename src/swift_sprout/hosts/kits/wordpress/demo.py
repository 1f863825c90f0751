"""The Brindle Quay site on WordPress."""

from __future__ import annotations

import os
import secrets
import shutil
from pathlib import Path

from ....core.errors import HostFailed
from ...contract.kit import HostOptions
from ...contract.kitdata import KitData
from ...shared.demo import copy_world
from .database import OWN_SERVER, own_server
from .php import find_php, last_line, need_php, tell

UNPACKED = ("wordpress", ".", "usr/share/wordpress")
INSTALLED = Path("/usr/share/wordpress")
PASSWORD_FILE = "admin-password.txt"
WELCOME = "A harbour town. The ferries run, the tide is on its way, and the harbour office is open."
MODULES = ("harbour-office", "ferries")
_SECRETS = ("AUTH", "SECURE_AUTH", "LOGGED_IN", "NONCE")


def build(folder: Path, data: KitData, options: HostOptions) -> HostOptions:
    """Build the site: the host's own files, theme, modules, and a database server of its own.

    The administrator's password is made up and kept in a file of the folder.
    """
    php = need_php(find_php(options.runtime))
    source = _host_files(data, options)
    shutil.copytree(source, folder, dirs_exist_ok=True)
    copy_world(data, folder)
    (folder / OWN_SERVER).parent.chmod(0o700)
    configuration = folder / "wp-config.php"
    lines = [f"define( '{name}_{sort}', '{secrets.token_hex(24)}' );" for name in _SECRETS for sort in ("KEY", "SALT")]
    configuration.write_text(configuration.read_text("utf-8").replace("/* secrets */", "\n".join(lines)), "utf-8")
    password = folder / PASSWORD_FILE
    password.write_text(secrets.token_urlsafe(12) + "\n", "utf-8")
    os.chmod(password, 0o600)
    root = folder.resolve()
    server = own_server(root)
    assert server is not None
    server.create("brindle_quay")
    server.start(options.limit_seconds)
    asked = {"title": "Brindle Quay", "welcome": WELCOME, "theme": "quayside", "password": password.read_text().strip()}
    told = tell(php, "install.php", root, asked, options.limit_seconds)
    if not told.answers.get("installed"):
        raise HostFailed("demo-site", f"The demo host does not start: {last_line(told.output)}", f"Look at {folder}.")
    made = options._replace(runtime=None if options.runtime is None or Path(options.runtime).is_dir() else php.path)
    from .host import WordPressHost

    host = WordPressHost(root, data, made)
    for module in MODULES:
        host.set_enabled(module, True)
    return made


def _host_files(data: KitData, options: HostOptions) -> Path:
    given = [Path(options.runtime)] if options.runtime and Path(options.runtime).is_dir() else []
    tried = [folder / below for folder in given for below in UNPACKED] + [INSTALLED]
    found = next((one for one in tried if (one / "wp-load.php").is_file()), None)
    if found is None:
        raise HostFailed(
            "no-interpreter",
            f"The demo needs the files of {data.title} {data.checked[-1]}.",
            f"Run `make demo HOST={data.id}`, which unpacks them, or name their folder with --runtime PATH.",
        )
    return found
