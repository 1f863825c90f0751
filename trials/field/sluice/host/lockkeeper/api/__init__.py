from flask import Blueprint

from .locks import bp as locks_bp

bp = Blueprint("api", __name__)
bp.register_blueprint(locks_bp, url_prefix="/locks")
