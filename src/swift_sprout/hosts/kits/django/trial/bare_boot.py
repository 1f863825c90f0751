"""Boots a Django project in the working folder and asks for the addresses that are given."""

import http.client
import os
import socketserver
import sys
import threading
from wsgiref.simple_server import WSGIRequestHandler, WSGIServer

sys.path[0] = os.getcwd()
os.environ["DJANGO_SETTINGS_MODULE"] = "brindle_quay.settings"
from django.core.wsgi import get_wsgi_application  # noqa: E402


class Quiet(WSGIRequestHandler):
    def log_message(self, *_):
        pass


class Server(socketserver.ThreadingMixIn, WSGIServer):
    daemon_threads = True


server = Server(("127.0.0.1", 0), Quiet)
server.set_app(get_wsgi_application())
threading.Thread(target=server.serve_forever, daemon=True).start()
for path in sys.argv[1:]:
    connection = http.client.HTTPConnection("127.0.0.1", server.server_address[1])
    connection.request("GET", path)
    answer = connection.getresponse()
    assert answer.status == 200 and answer.read(), path
    connection.close()
os._exit(0)
