"""Boots a Flask site in the working folder and asks for the addresses that are given."""

import http.client
import os
import sys
import threading

sys.path[0] = os.getcwd()
from werkzeug.serving import WSGIRequestHandler, make_server  # noqa: E402
from wsgi import app  # noqa: E402


class Quiet(WSGIRequestHandler):
    def log(self, *_):
        pass


server = make_server("127.0.0.1", 0, app, threaded=True, request_handler=Quiet)
threading.Thread(target=server.serve_forever, daemon=True).start()
for path in sys.argv[1:]:
    connection = http.client.HTTPConnection("127.0.0.1", server.server_port)
    connection.request("GET", path)
    answer = connection.getresponse()
    assert answer.status == 200 and answer.read(), path
    connection.close()
os._exit(0)
