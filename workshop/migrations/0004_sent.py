"""A form that is sent twice counts once."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

import workshop.models.door


class Migration(migrations.Migration):
    dependencies = [("workshop", "0003_tooling")]
    operations = [
        migrations.CreateModel(
            name="Sent",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("key", models.CharField(max_length=64)),
                ("led_to", models.CharField(blank=True, max_length=300)),
                ("at", models.DateTimeField(auto_now_add=True, db_index=True)),
                (
                    "person",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to=settings.AUTH_USER_MODEL
                    ),
                ),
            ],
            options={"constraints": [models.UniqueConstraint(fields=("person", "key"), name="sent_once")]},
            bases=(workshop.models.door.Behind, models.Model),
        ),
    ]
