from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True
    dependencies = []
    operations = [
        migrations.CreateModel(
            name="Signal",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=40)),
                (
                    "colour",
                    models.CharField(choices=[("red", "Red"), ("green", "Green")], default="red", max_length=5),
                ),
            ],
        ),
    ]
