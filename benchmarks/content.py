"""What is measured on WordPress."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.hosts.protocol import HostOptions
from swift_sprout.hosts.wordpress.database import own_server
from swift_sprout.hosts.wordpress.kit import KIT
from swift_sprout.hosts.wordpress.php import find_php, options

from .measure import Row, command, compare
from .places import PROGRAM, PYTHON, WORDPRESS, make_beacons

BARE_BOOT = """
import http.client, socket, subprocess, sys, time
port, root, *paths = sys.argv[1:]
words = sys.stdin.read().split("\\n")
server = subprocess.Popen([*words, "-S", f"127.0.0.1:{port}", "-t", root, f"{root}/index.php"], stderr=-3)
for _ in range(500):
    try:
        socket.create_connection(("127.0.0.1", int(port))).close()
        break
    except OSError:
        time.sleep(0.01)
subprocess.run([*words, "-r", f"$_SERVER['HTTP_HOST'] = 'localhost'; require '{root}/wp-load.php';"], check=True)
for path in paths:
    connection = http.client.HTTPConnection("127.0.0.1", int(port))
    connection.request("GET", path)
    answer = connection.getresponse()
    assert answer.status == 200 and answer.read(), path
    connection.close()
server.kill()
"""


def checking(folder: Path) -> Iterator[Row]:
    """A live check of 20 modules against the host's own boot with 20 requests; the database runs for both."""
    host = folder / "quay"
    host.mkdir()
    KIT.build_demo(host, HostOptions(str(WORDPRESS)))
    opened = open_host(HostChoice(str(host), "wordpress"))
    names = [name.replace("_", "-") for name in make_beacons(folder, host, "wordpress", "list")]
    for name in names:
        opened.host.turn(name, True)
    php = find_php(None)
    assert php is not None
    script = folder / "bare_boot.py"
    script.write_text(BARE_BOOT)
    words = folder / "words.txt"
    words.write_text("\n".join([php.path, *options()]))
    pages = " ".join(f"/{name}/" for name in names)
    floor = f"{PYTHON} {script} 8917 {host} {pages} < {words}"
    yield compare(
        "wordpress: check, 20 modules / boot, 20 requests",
        command([PROGRAM, "check", *names, "--host", host, "-q"]),
        command(["sh", "-c", floor], host),
        1.5,
        repeats=5,
    )
    server = own_server(host)
    assert server is not None
    server.stop()
