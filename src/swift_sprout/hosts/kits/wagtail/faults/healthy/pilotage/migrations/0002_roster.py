from django.db import migrations


def add_pages(apps, schema_editor):
    """One roster with one pilot, below the front page: written as rows, for migrations do not know the tree."""
    kind_of = apps.get_model("contenttypes", "ContentType").objects.get_or_create
    page = apps.get_model("wagtailcore", "Page")
    home = page.objects.get(depth=2, slug="home")
    locale = apps.get_model("wagtailcore", "Locale").objects.first()
    roster_path = f"{home.path}{home.numchild + 1:04d}"
    common = {"locale": locale, "numchild": 0}
    roster_kind, _ = kind_of(app_label="pilotage", model="rosterpage")
    apps.get_model("pilotage", "RosterPage").objects.create(
        title="Pilots",
        draft_title="Pilots",
        slug="pilots",
        path=roster_path,
        depth=3,
        url_path="/home/pilots/",
        content_type=roster_kind,
        **{**common, "numchild": 1},
    )
    pilot_kind, _ = kind_of(app_label="pilotage", model="pilotpage")
    apps.get_model("pilotage", "PilotPage").objects.create(
        title="Ada Marsh",
        draft_title="Ada Marsh",
        slug="ada-marsh",
        path=f"{roster_path}0001",
        depth=4,
        url_path="/home/pilots/ada-marsh/",
        content_type=pilot_kind,
        **common,
    )
    page.objects.filter(pk=home.pk).update(numchild=home.numchild + 1)


class Migration(migrations.Migration):
    dependencies = [("pilotage", "0001_initial"), ("home", "0002_front_page")]
    operations = [migrations.RunPython(add_pages, migrations.RunPython.noop)]
