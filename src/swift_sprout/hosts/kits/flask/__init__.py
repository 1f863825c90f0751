"""The Flask kit: applications whose modules make blueprints."""
