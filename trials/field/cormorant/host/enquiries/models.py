from django.db import models
from modelcluster.fields import ParentalKey
from wagtail.admin.panels import FieldPanel, FieldRowPanel, InlinePanel, MultiFieldPanel
from wagtail.contrib.forms.models import AbstractEmailForm, AbstractFormField
from wagtail.fields import RichTextField


class EnquiryField(AbstractFormField):
    page = ParentalKey("EnquiryPage", on_delete=models.CASCADE, related_name="form_fields")


class EnquiryPage(AbstractEmailForm):
    intro = RichTextField(blank=True)
    thanks = RichTextField(blank=True)

    template = "enquiries/enquiry.html"
    landing_page_template = "enquiries/thanks.html"
    content_panels = AbstractEmailForm.content_panels + [
        FieldPanel("intro"),
        InlinePanel("form_fields", label="Form fields"),
        FieldPanel("thanks"),
        MultiFieldPanel(
            [FieldRowPanel([FieldPanel("from_address"), FieldPanel("to_address")]), FieldPanel("subject")], "Email"
        ),
    ]
    parent_page_types = ["site_parts.HomePage"]

    def get_form_class(self):
        form_class = super().get_form_class()
        form_class.required_css_class = "required"
        return form_class

    def process_form_submission(self, form):
        submission = super().process_form_submission(form)
        self.count_today(submission)
        return submission

    def count_today(self, submission):
        return self.get_submission_class().objects.filter(
            page=self, submit_time__date=submission.submit_time.date()
        ).count()
