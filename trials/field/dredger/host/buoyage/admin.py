from django.contrib import admin

from .models import Buoy

admin.site.register(Buoy, list_display=["number", "colour", "near"], raw_id_fields=["near"])
