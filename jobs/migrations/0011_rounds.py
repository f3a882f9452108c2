"""An imported thickness round may be the mean of several."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("jobs", "0010_axle_three")]
    operations = [
        migrations.AddField(model, "rounds", models.PositiveSmallIntegerField(default=1))
        for model in ("thicknessround", "historicalthicknessround")
    ]
