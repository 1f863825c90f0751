import django.core.validators
import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True
    dependencies = [("catalogue", "0001_initial")]
    operations = [
        migrations.CreateModel(
            name="Coil",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=40, unique=True)),
                (
                    "metres",
                    models.PositiveIntegerField(validators=[django.core.validators.MaxValueValidator(220)]),
                ),
                (
                    "product",
                    models.ForeignKey(
                        blank=True,
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="coils",
                        to="catalogue.product",
                    ),
                ),
            ],
            options={"ordering": ["metres"]},
        ),
    ]
