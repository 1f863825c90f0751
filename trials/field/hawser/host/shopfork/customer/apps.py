from oscar.apps.customer import apps


class CustomerConfig(apps.CustomerConfig):
    name = "shopfork.customer"
