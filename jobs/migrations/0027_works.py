import django.contrib.postgres.fields
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("jobs", "0026_decided_in")]
    operations = [
        migrations.AddField(
            "corner",
            "works",
            django.contrib.postgres.fields.ArrayField(
                base_field=models.CharField(blank=True, max_length=60), blank=True, default=list, size=None
            ),
        ),
    ]
