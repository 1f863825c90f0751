"""The trytond kit: business platforms whose modules are packages with tryton.cfg and data in XML."""
