import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True
    dependencies = []
    operations = [
        migrations.CreateModel(
            name="Pilot",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=60)),
                ("on_watch", models.BooleanField(default=False)),
            ],
            options={"ordering": ["name"], "permissions": [("plan_watches", "Can plan watches")]},
        ),
        migrations.CreateModel(
            name="Watch",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("begins", models.DateField()),
                (
                    "pilot",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="watches", to="pilotage.pilot"
                    ),
                ),
            ],
        ),
    ]
