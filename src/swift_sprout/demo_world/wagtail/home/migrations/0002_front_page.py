from django.db import migrations


def create_front_page(apps, schema_editor):
    ContentType = apps.get_model("contenttypes", "ContentType")
    Page = apps.get_model("wagtailcore", "Page")
    Site = apps.get_model("wagtailcore", "Site")
    HomePage = apps.get_model("home", "HomePage")
    Page.objects.filter(slug="home", depth=2).delete()
    kind, _ = ContentType.objects.get_or_create(model="homepage", app_label="home")
    front = HomePage.objects.create(
        title="Brindle Quay",
        draft_title="Brindle Quay",
        slug="home",
        content_type=kind,
        path="00010001",
        depth=2,
        numchild=0,
        url_path="/home/",
        welcome="A harbour town. The ferries run, the tide is on its way, and the harbour office is open.",
        locale=apps.get_model("wagtailcore", "Locale").objects.first(),
    )
    Site.objects.all().delete()
    Site.objects.create(hostname="localhost", root_page=front, is_default_site=True, site_name="Brindle Quay")


def forget(apps, schema_editor):
    apps.get_model("home", "HomePage").objects.filter(slug="home", depth=2).delete()


class Migration(migrations.Migration):
    dependencies = [("home", "0001_initial"), ("wagtailcore", "0098_apitoken")]
    operations = [migrations.RunPython(create_front_page, forget)]
