from oscar.apps.catalogue import apps


class CatalogueConfig(apps.CatalogueConfig):
    name = "shopfork.catalogue"
