"""Reading what is there: configuration, entry points, manifests, models, data files, the database."""
