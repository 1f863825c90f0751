"""How the demo host on WordPress is tried out."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path

from ....contract.kit import HostOptions
from ....shared.trial import BareBoot, Trial
from ..database import own_server
from ..kit import KIT
from ..php import find_php, options

BARE_BOOT = Path(__file__).parent / "bare_boot.py"
_LOAD = "$_SERVER['HTTP_HOST'] = 'localhost'; require 'wp-load.php'; "
_STATEMENTS = """
$c = mysqli_connect('localhost', 'root', '', 'brindle_quay', 0, $argv[1]);
$c->multi_query($argv[2]);
do { $c->store_result(); } while ($c->more_results() && $c->next_result());
"""
_STATIONS = """
$table = current($wpdb->get_col("SHOW TABLES LIKE '%tide%'"));
foreach (array_slice($argv, 1) as $station) {
    $wpdb->insert($table, ['station' => $station, 'high_at' => '2031-04-01 06:00:00', 'height_m' => '4.2']);
}
echo $table ? implode("\\n", $wpdb->get_col("SELECT station FROM `$table`")) : '';
"""


class WordPressTrial(Trial):
    """It has a database server of its own, which runs while somebody asks."""

    asking_writes = True
    linked = ("wp-admin", "wp-includes")
    page_address = "/"  # below the module's own address

    def options(self, runtime: Path) -> list[str | Path]:
        """PHP is found by itself."""
        return []

    def stop(self, site: Path) -> None:
        """End its database server."""
        server = own_server(site)
        if server is not None:
            server.stop()

    def is_state(self, path: str) -> bool:
        """The database's files, and the log."""
        return path.startswith("database/") or path == "wp-content/debug.log"

    def state(self, site: Path) -> bytes:
        """Only its server can read it."""
        return b""

    def run_sql(self, site: Path, statements: str) -> None:
        """Ask its server, which is left running."""
        server = own_server(site)
        assert server is not None
        server.start(30)
        subprocess.run(["php", "-r", _STATEMENTS, str(server.socket), statements], check=True)

    def stations(self, site: Path) -> list[str]:
        """Ask the loaded host."""
        return self._in_host(site, _STATIONS).stdout.split("\n")

    def add_stations(self, site: Path, stations: Sequence[str]) -> None:
        """Add them through the loaded host."""
        self._in_host(site, _STATIONS, stations)

    def boots(self, site: Path, runtime: Path) -> str:
        """Load the host; files without their database are those of before or after, which both boot."""
        if not (site / "database").is_dir():
            return ""
        ran = self._in_host(site, "echo 'loaded';")
        return "" if ran.stdout.endswith("loaded") else (ran.stdout + ran.stderr)[-600:]

    def register_many(self, site: Path, names: list[str], runtime: Path) -> BareBoot:
        """Switch modules on with the host's own function; the database runs for the check and for its floor."""
        host = KIT.open(site, HostOptions(str(runtime)))
        names[:] = [name.replace("_", "-") for name in names]
        for name in names:
            host.set_enabled(name, True)
        php, server = find_php(None), own_server(site)
        assert php is not None and server is not None
        words = site / "floor.txt"
        words.write_text("\n".join([php.path, *options(site)]))
        return BareBoot([Path(sys.executable), BARE_BOOT, words, site], lambda name: f"/{name}/", server.stop)

    def _in_host(self, site: Path, code: str, words: Sequence[str] = ()) -> subprocess.CompletedProcess[str]:
        server = own_server(site)
        assert server is not None
        server.start(30)
        try:
            return subprocess.run(["php", "-r", _LOAD + code, "--", *words], cwd=site, capture_output=True, text=True)
        finally:
            server.stop()


TRIAL = WordPressTrial()
