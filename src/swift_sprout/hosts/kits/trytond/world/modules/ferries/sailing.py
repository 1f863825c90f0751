from trytond.model import ModelSQL, ModelView, fields


class Sailing(ModelSQL, ModelView):
    """One crossing of the quay ferry."""

    __name__ = "ferries.sailing"
    _rec_name = "landing"
    leaves_at = fields.Time("Leaves at", required=True)
    landing = fields.Char("Landing", required=True)
    carries_vans = fields.Boolean("Carries vans")
