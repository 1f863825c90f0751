from django.utils.functional import cached_property
from wagtail import blocks
from wagtail.images.blocks import ImageChooserBlock


class QuoteBlock(blocks.StructBlock):
    text = blocks.TextBlock()
    by = blocks.CharBlock(required=False)

    class Meta:
        icon = "openquote"
        template = "articles/blocks/quote.html"


class TideBlock(blocks.StructBlock):
    place = blocks.CharBlock()
    high = blocks.TimeBlock()
    height = blocks.DecimalBlock(decimal_places=2)

    def get_context(self, value, parent_context=None):
        context = super().get_context(value, parent_context=parent_context)
        context["feet"] = float(value["height"]) * 3.28
        return context

    def clean(self, value):
        cleaned = super().clean(value)
        if cleaned["height"] < 0:
            raise blocks.StructBlockValidationError(block_errors={"height": ValueError("below the chart")})
        return cleaned

    class Meta:
        icon = "date"
        template = "articles/blocks/tide.html"


class PersonChooser(blocks.ChooserBlock):
    @cached_property
    def target_model(self):
        from crew.models import Person

        return Person

    @cached_property
    def widget(self):
        from django.forms import Select

        return Select()


class BodyBlock(blocks.StreamBlock):
    heading = blocks.CharBlock(icon="title", form_classname="title")
    paragraph = blocks.RichTextBlock(features=["bold", "italic", "link"])
    picture = ImageChooserBlock()
    quote = QuoteBlock()
    tide = TideBlock()
    steps = blocks.ListBlock(blocks.CharBlock())
