from wagtail.admin.filters import WagtailFilterSet
from wagtail.admin.ui.tables import UpdatedAtColumn
from wagtail.snippets.models import register_snippet
from wagtail.snippets.views.snippets import SnippetViewSet, SnippetViewSetGroup

from .models import Person


class PersonFilter(WagtailFilterSet):
    class Meta:
        model = Person
        fields = ["rank"]


class PersonViewSet(SnippetViewSet):
    model = Person
    icon = "user"
    list_display = ["name", "rank", UpdatedAtColumn()]
    filterset_class = PersonFilter
    search_fields = ["name"]
    search_backend_name = None
    ordering = ["name"]


class CrewGroup(SnippetViewSetGroup):
    menu_label = "Crew"
    menu_icon = "group"
    items = (PersonViewSet,)


register_snippet(CrewGroup)
