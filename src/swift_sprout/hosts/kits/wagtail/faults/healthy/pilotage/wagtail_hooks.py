from django.contrib.auth.models import Permission
from django.urls import reverse
from wagtail import hooks
from wagtail.admin.menu import MenuItem
from wagtail.admin.panels import FieldPanel
from wagtail.snippets.models import register_snippet
from wagtail.snippets.views.snippets import SnippetViewSet

from .models import Boat


class BoatViewSet(SnippetViewSet):
    model = Boat
    list_display = ("name", "picture")
    list_filter = ("name",)
    panels = [FieldPanel("name"), FieldPanel("picture")]
    add_to_admin_menu = True


register_snippet(BoatViewSet)


@hooks.register("register_admin_menu_item")
def menu_entry():
    return MenuItem("On duty", reverse("pilotage:duty"), icon_name="user")


@hooks.register("register_permissions")
def permissions():
    return Permission.objects.filter(content_type__app_label="pilotage", codename="launch_boat")
