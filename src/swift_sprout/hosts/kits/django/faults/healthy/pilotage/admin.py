from django.contrib import admin

from .models import Pilot, Watch


@admin.register(Pilot)
class PilotAdmin(admin.ModelAdmin):
    list_display = ("name", "on_watch")


admin.site.register(Watch)
