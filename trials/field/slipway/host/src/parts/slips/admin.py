from django.contrib import admin

from .models import Haul, Slip


@admin.register(Slip)
class SlipAdmin(admin.ModelAdmin):
    list_display = ["number", "length"]


admin.site.register(Haul)
