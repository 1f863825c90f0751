from django.contrib import admin

from ..models import Tender, Voyage

admin.site.register(Tender)
admin.site.register(Voyage)
