from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("jobs", "0028_remedy_of_a_corner")]
    operations = [
        migrations.AddField(model, "withdrawn", models.BooleanField(default=False))
        for model in ("rotorfitting", "historicalrotorfitting")
    ]
