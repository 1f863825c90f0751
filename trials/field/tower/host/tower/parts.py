def register_all(app):
    from berths import bp as berths
    from signals.pages import signals_bp
    from weather import weather

    for blueprint, prefix in ((berths, "/berths"), (signals_bp, "/signals"), (weather, None)):
        app.register_blueprint(blueprint, url_prefix=prefix)
