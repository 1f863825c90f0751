from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("partner", "0007_partneraddress_code")]
    operations = [
        migrations.AddField(
            model_name="partner",
            name="landing_place",
            field=models.CharField(blank=True, default="", max_length=40),
        ),
    ]
