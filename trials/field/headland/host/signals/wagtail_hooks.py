from django.urls import reverse
from wagtail import hooks
from wagtail.admin.menu import MenuItem


@hooks.register("register_admin_menu_item")
def signals_now():
    return MenuItem("Signals now", reverse("signals_now"), icon_name="site")


@hooks.register("construct_explorer_page_queryset")
def newest_first(parent_page, pages, request):
    return pages
