"""Starts PHP's server on a WordPress host, loads the host once, and asks for the addresses that are given.

Its first argument names a file with the words of the PHP command, one a line; the second is the host's folder.
"""

import http.client
import pathlib
import socket
import subprocess
import sys
import time

said, root, *paths = sys.argv[1:]
words = pathlib.Path(said).read_text().split("\n")
with socket.socket() as free:
    free.bind(("127.0.0.1", 0))
    port = free.getsockname()[1]
server = subprocess.Popen([*words, "-S", f"127.0.0.1:{port}", "-t", root, f"{root}/index.php"], stderr=-3)
for _ in range(500):
    try:
        socket.create_connection(("127.0.0.1", port)).close()
        break
    except OSError:
        time.sleep(0.01)
subprocess.run([*words, "-r", f"$_SERVER['HTTP_HOST'] = 'localhost'; require '{root}/wp-load.php';"], check=True)
for path in paths:
    connection = http.client.HTTPConnection("127.0.0.1", port)
    connection.request("GET", path)
    answer = connection.getresponse()
    assert answer.status == 200 and answer.read(), path
    connection.close()
server.kill()
