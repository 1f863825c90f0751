from django.contrib import admin
from django.contrib.auth.admin import UserAdmin

from .models import Keeper


@admin.register(Keeper)
class KeeperAdmin(UserAdmin):
    list_display = ("username", "badge", "station", "is_staff")
    fieldsets = (*UserAdmin.fieldsets, ("Harbour", {"fields": ("badge", "station")}))
