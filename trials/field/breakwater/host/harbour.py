"""What the server loads."""

from quay import create_app

app = create_app()


@app.shell_context_processor
def names_for_the_shell():
    return {"app": app}
