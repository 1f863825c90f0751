from flask import jsonify, render_template, request


class NotKeeper(Exception):
    pass


def register(app):
    app.register_error_handler(404, not_found)
    app.register_error_handler(NotKeeper, not_keeper)


def not_found(error):
    if request.path.startswith("/api/"):
        return jsonify(error="not found"), 404
    return render_template("not_found.html"), 404


def not_keeper(error):
    return render_template("not_keeper.html"), 403
