"""The Flask kit: applications made by a factory, whose modules are blueprints."""
