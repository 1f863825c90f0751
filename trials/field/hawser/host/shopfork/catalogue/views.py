from oscar.apps.catalogue import views


class ProductDetailView(views.ProductDetailView):
    def get_context_data(self, **kwargs):
        return super().get_context_data(**kwargs, tarred=self.object.tarred)
