import django.db.models.deletion
import wagtail.fields
from django.db import migrations, models


def front(apps, schema_editor):
    ContentType = apps.get_model("contenttypes", "ContentType")
    Page, Site = apps.get_model("wagtailcore", "Page"), apps.get_model("wagtailcore", "Site")
    Page.objects.filter(id=2).delete()
    kind, _ = ContentType.objects.get_or_create(model="homepage", app_label="pages")
    page = apps.get_model("pages", "HomePage").objects.create(
        title="Headland",
        draft_title="Headland",
        slug="home",
        content_type=kind,
        path="00010001",
        depth=2,
        numchild=0,
        url_path="/home/",
        locale=apps.get_model("wagtailcore", "Locale").objects.get(),
    )
    Site.objects.all().delete()
    Site.objects.create(hostname="localhost", root_page=page, is_default_site=True)


class Migration(migrations.Migration):
    dependencies = [("wagtailcore", "0094_alter_page_locale")]
    operations = [
        migrations.CreateModel(
            name="HomePage",
            fields=[
                (
                    "page_ptr",
                    models.OneToOneField(
                        auto_created=True,
                        on_delete=django.db.models.deletion.CASCADE,
                        parent_link=True,
                        primary_key=True,
                        serialize=False,
                        to="wagtailcore.page",
                    ),
                ),
                ("greeting", wagtail.fields.RichTextField(blank=True)),
            ],
            options={"abstract": False},
            bases=("wagtailcore.page",),
        ),
        migrations.RunPython(front, migrations.RunPython.noop),
    ]
