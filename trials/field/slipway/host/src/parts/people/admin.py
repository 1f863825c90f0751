from django.contrib import admin
from django.contrib.auth.admin import UserAdmin

from .models import Hand

admin.site.register(Hand, UserAdmin)
