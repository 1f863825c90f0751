from flask import Blueprint, Response

weather = Blueprint("weather", __name__)


@weather.get("/weather.txt")
def report():
    return Response("Fair", mimetype="text/plain")
