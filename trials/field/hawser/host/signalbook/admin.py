from django.contrib import admin

from .models import Interest, Signal


@admin.register(Signal)
class SignalAdmin(admin.ModelAdmin):
    list_display = ("name", "flag", "product")
    list_filter = ("flag",)
    search_fields = ("name",)
    raw_id_fields = ("product",)


admin.site.register(Interest)
