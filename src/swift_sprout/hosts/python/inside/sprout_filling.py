"""The forms of a page as a browser reads them, each filled in with what somebody could write into it."""

from html.parser import HTMLParser

BY_TYPE = {
    "email": "probe@example.org",
    "url": "https://example.org/",
    "date": "2026-11-23",
    "time": "06:30",
    "datetime-local": "2026-11-23T06:30",
    "month": "2026-11",
    "week": "2026-W48",
    "color": "#336699",
    "tel": "0123456789",
}
NOT_SENT = ("submit", "button", "image", "reset")


def forms_in(html, method="post"):
    """Return the forms of a page that are sent by a method: where to, and what of.

    action -- as it is written; empty for the page itself
    data   -- lists of values by name, as they are sent
    files  -- True where a file must be given
    script -- True where a script of the page sends it in its own way
    """
    reader = Forms(method)
    reader.feed(html)
    reader.close()
    return reader.found


class Forms(HTMLParser):
    def __init__(self, method):
        super().__init__()
        self.method = method
        self.found = []
        self.form = None
        self.select = None

    def handle_starttag(self, tag, attrs):
        values = {name: value or "" for name, value in attrs}
        if tag == "form":
            by_script = any(name.startswith(("hx-", "data-", "on", "x-", "@", "v-")) for name in values)
            meant = (values.get("method", "").lower() or "get") == self.method
            entry = {"action": values.get("action", ""), "data": {}, "files": False, "script": by_script}
            self.form = entry if meant else None
            self.found += [entry] if meant else []
        elif self.form is None or "disabled" in values:
            return
        elif tag == "input" and values.get("name"):
            self.fill(values)
        elif tag == "textarea" and values.get("name"):
            self.put(values["name"], text_for(values))
        elif tag == "select" and values.get("name"):
            self.select = values["name"]
        elif tag == "option" and self.select and values.get("value") and self.select not in self.form["data"]:
            self.put(self.select, values["value"])

    def handle_endtag(self, tag):
        if tag == "form":
            self.form = None
        elif tag == "select":
            self.select = None

    def fill(self, values):
        kind, name = values.get("type", "text").lower(), values["name"]
        if kind == "file":
            self.form["files"] |= "required" in values
        elif kind in ("checkbox", "radio"):
            if kind == "checkbox" or name not in self.form["data"]:
                self.put(name, values.get("value") or "on")
        elif kind in ("number", "range"):
            self.put(name, values.get("value") or values.get("min") or "1")
        elif kind == "hidden" or (values.get("value") and kind not in NOT_SENT):
            self.put(name, values.get("value", ""))
        elif kind not in NOT_SENT:
            self.put(name, BY_TYPE.get(kind) or text_for(values))

    def put(self, name, value):
        self.form["data"].setdefault(name, []).append(value)


def text_for(values):
    """Return a text as long as a field asks for."""
    least, most = (values.get(name, "") for name in ("minlength", "maxlength"))
    text = "sample".ljust(int(least) if least.isdigit() else 0, "e")
    return text[: int(most)] if most.isdigit() and int(most) > 0 else text
