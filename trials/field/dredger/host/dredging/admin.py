from django.contrib import admin
from django.utils.html import format_html

from .models import Campaign, Load


class LoadInline(admin.TabularInline):
    model = Load
    extra = 0
    readonly_fields = ["created"]


@admin.register(Campaign)
class CampaignAdmin(admin.ModelAdmin):
    list_display = ["title", "kind", "master", "tonnes", "link"]
    list_filter = ["kind", ("ends", admin.EmptyFieldListFilter)]
    search_fields = ["title", "master__username"]
    prepopulated_fields = {"slug": ["title"]}
    autocomplete_fields = ["master"]
    filter_horizontal = ["crew"]
    date_hierarchy = "begins"
    inlines = [LoadInline]
    actions = ["end_today"]

    def get_queryset(self, request):
        return super().get_queryset(request).with_totals()

    @admin.display(ordering="tonnes")
    def tonnes(self, campaign):
        return campaign.tonnes

    @admin.display(description="Page")
    def link(self, campaign):
        return format_html('<a href="{}">page</a>', campaign.get_absolute_url())

    @admin.action(description="End today")
    def end_today(self, request, queryset):
        from django.utils import timezone

        queryset.update(ends=timezone.localdate())
