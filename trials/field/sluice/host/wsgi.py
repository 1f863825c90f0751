"""What the server loads."""
from lockkeeper import create_app

application = app = create_app()
