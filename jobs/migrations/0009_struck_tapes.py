"""A sweep or a thickness round can be struck out and brought back."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("jobs", "0008_judgement")]
    operations = [
        migrations.AddField(model, "struck", models.BooleanField(default=False))
        for model in ("sweep", "historicalsweep", "thicknessround", "historicalthicknessround")
    ]
