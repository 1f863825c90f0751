"""Boots a trytond host in the working folder and asks for the addresses that are given."""

import http.client
import os
import sys
import threading

sys.path[0] = "modules"
from trytond import config  # noqa: E402

config.update_etc(["trytond.conf"])
from trytond.pool import Pool  # noqa: E402
from trytond.wsgi import app  # noqa: E402
from werkzeug.serving import WSGIRequestHandler, make_server  # noqa: E402

Pool.start()
Pool("brindle_quay").init()


class Quiet(WSGIRequestHandler):
    def log(self, *_):
        pass


server = make_server("127.0.0.1", 0, app, request_handler=Quiet)
threading.Thread(target=server.serve_forever, daemon=True).start()
for path in sys.argv[1:]:
    connection = http.client.HTTPConnection("127.0.0.1", server.server_port)
    connection.request("GET", path)
    answer = connection.getresponse()
    assert answer.status == 200 and answer.read(), path
    connection.close()
os._exit(0)
