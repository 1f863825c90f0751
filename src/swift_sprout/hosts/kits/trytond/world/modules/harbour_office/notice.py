from trytond.model import ModelSQL, ModelView, fields


class Notice(ModelSQL, ModelView):
    """What the harbour office tells everybody."""

    __name__ = "harbour_office.notice"
    _rec_name = "title"
    title = fields.Char("Title", required=True)
    text = fields.Text("Text", required=True)
    posted = fields.Date("Posted", required=True)
