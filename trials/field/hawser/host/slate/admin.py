from django.contrib import admin

from .models import Slate


@admin.register(Slate)
class SlateAdmin(admin.ModelAdmin):
    list_display = ["order", "owed_by", "amount", "wiped"]
    readonly_fields = ["wiped"]
    actions = ["wipe"]

    @admin.action(description="Wipe")
    def wipe(self, request, queryset):
        queryset.update(wiped=None)
