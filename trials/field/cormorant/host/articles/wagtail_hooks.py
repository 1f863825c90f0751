from django.templatetags.static import static
from django.urls import path, reverse
from django.utils.html import format_html
from wagtail import hooks
from wagtail.admin.menu import MenuItem
from wagtail.admin.ui.components import Component

from .admin_views import drafts
from .models import ArticlePage


@hooks.register("register_admin_urls")
def urls():
    return [path("drafts/", drafts, name="article_drafts")]


@hooks.register("register_admin_menu_item")
def menu_item():
    return MenuItem("Drafts", reverse("article_drafts"), icon_name="edit", order=900)


@hooks.register("insert_global_admin_css")
def styles():
    return format_html('<link rel="stylesheet" href="{}">', static("articles/admin.css"))


@hooks.register("construct_explorer_page_queryset")
def own_first(parent_page, pages, request):
    return pages.order_by("-latest_revision_created_at")


@hooks.register("after_publish_page")
def note(request, page):
    if isinstance(page.specific, ArticlePage):
        request.session["last_article"] = page.pk


class DraftsPanel(Component):
    order = 50
    template_name = "articles/drafts_panel.html"

    def get_context_data(self, parent_context):
        context = super().get_context_data(parent_context)
        context["drafts"] = ArticlePage.objects.not_live()[:5]
        return context


@hooks.register("construct_homepage_panels")
def drafts_panel(request, panels):
    panels.append(DraftsPanel())
