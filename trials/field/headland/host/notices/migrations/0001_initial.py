import django.db.models.deletion
import modelcluster.fields
import wagtail.blocks
import wagtail.fields
from django.db import migrations, models


def page():
    return models.OneToOneField(
        auto_created=True,
        on_delete=django.db.models.deletion.CASCADE,
        parent_link=True,
        primary_key=True,
        serialize=False,
        to="wagtailcore.page",
    )


class Migration(migrations.Migration):
    initial = True
    dependencies = [("pages", "0001_initial"), ("wagtailcore", "0094_alter_page_locale")]
    operations = [
        migrations.CreateModel(
            name="NoticeIndexPage",
            fields=[("page_ptr", page()), ("intro", models.CharField(blank=True, max_length=200))],
            options={"abstract": False},
            bases=("wagtailcore.page",),
        ),
        migrations.CreateModel(
            name="NoticePage",
            fields=[
                ("page_ptr", page()),
                ("posted", models.DateField()),
                (
                    "body",
                    wagtail.fields.StreamField(
                        [("text", wagtail.blocks.RichTextBlock()), ("warning", wagtail.blocks.CharBlock())], blank=True
                    ),
                ),
            ],
            options={"abstract": False},
            bases=("wagtailcore.page",),
        ),
        migrations.CreateModel(
            name="NoticeContact",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("sort_order", models.IntegerField(blank=True, editable=False, null=True)),
                ("who", models.CharField(max_length=60)),
                (
                    "page",
                    modelcluster.fields.ParentalKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="contacts", to="notices.noticepage"
                    ),
                ),
            ],
            options={"ordering": ["sort_order"], "abstract": False},
        ),
    ]
