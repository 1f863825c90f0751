def metres(value):
    return f"{value:.2f} m"


def initials(name):
    return "".join(word[0] for word in name.split())


def register(app):
    app.add_template_filter(metres)
    app.add_template_filter(initials, "initials")
    app.add_template_test(lambda value: value > 100, "long")
