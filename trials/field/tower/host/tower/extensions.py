class Clock:
    """Tells templates which watch it is."""

    def init_app(self, app):
        app.jinja_env.globals["watch"] = self.watch
        app.add_template_filter(self.bells, "bells")

    def watch(self):
        return "first"

    def bells(self, count):
        return "·" * count


clock = Clock()
