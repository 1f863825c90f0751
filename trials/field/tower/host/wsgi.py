"""The harbour tower, as a server of WSGI loads it."""
from tower.factory import create_app

app = create_app()
