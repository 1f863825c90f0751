"""What asks for pages inside the host's own process, for itself or as somebody who is signed in."""


def client_for(user=None):
    """Return a client that the host answers, with a person signed in where one is given."""
    from django.conf import settings
    from django.test import Client

    hosts = (name.lstrip(".") for name in settings.ALLOWED_HOSTS if name != "*")
    client = Client(HTTP_HOST=next(hosts, "127.0.0.1"))
    if user is not None:
        client.force_login(user, backend=settings.AUTHENTICATION_BACKENDS[0])
    return client
