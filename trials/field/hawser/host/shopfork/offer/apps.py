from oscar.apps.offer import apps


class OfferConfig(apps.OfferConfig):
    name = "shopfork.offer"
