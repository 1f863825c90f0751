from wagtail.api.v2.router import WagtailAPIRouter
from wagtail.api.v2.views import PagesAPIViewSet
from wagtail.images.api.v2.views import ImagesAPIViewSet

api_router = WagtailAPIRouter("wagtailapi")


class ArticlesEndpoint(PagesAPIViewSet):
    listing_default_fields = PagesAPIViewSet.listing_default_fields + ["intro"]

    def get_queryset(self):
        from articles.models import ArticlePage

        return ArticlePage.objects.live().public()


api_router.register_endpoint("pages", PagesAPIViewSet)
api_router.register_endpoint("articles", ArticlesEndpoint)
api_router.register_endpoint("images", ImagesAPIViewSet)
