from oscar.apps.shipping import repository

from .methods import ByCart


class Repository(repository.Repository):
    methods = [*repository.Repository.methods, ByCart()]
