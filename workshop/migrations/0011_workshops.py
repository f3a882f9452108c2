"""A workshop for every row: the one there has been becomes the first."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


# Under the name it has on its sheets; rows that are there already become its own in the next migration.
OPEN_THE_FIRST = """
insert into workshop_workshop (id, name, opened_at)
values (1, coalesce((select nullif(called, '') from workshop_shopfigures limit 1), 'The workshop'), now());
select setval(pg_get_serial_sequence('workshop_workshop', 'id'), 1)
"""


class Migration(migrations.Migration):

    dependencies = [("workshop", "0010_devices")]

    operations = [
        migrations.CreateModel(
            name="Workshop",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=80, verbose_name="name")),
                ("opened_at", models.DateTimeField(auto_now_add=True)),
            ],
            options={"ordering": ["name"]},
        ),
        migrations.RenameField("shopfigures", "workshop", "called"),
        migrations.RenameField("historicalshopfigures", "workshop", "called"),
        migrations.RunSQL(OPEN_THE_FIRST, migrations.RunSQL.noop),
        migrations.CreateModel(
            name="Membership",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "person",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="memberships",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                ("ended_at", models.DateTimeField(blank=True, null=True)),
                (
                    "workshop",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="memberships",
                        to="workshop.workshop",
                    ),
                ),
            ],
            options={"constraints": [models.UniqueConstraint(fields=("workshop", "person"), name="member_once")]},
        ),
    ]
