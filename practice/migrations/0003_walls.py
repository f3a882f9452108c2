"""Row-level security on every table of this app."""

from django.db import migrations

from workshop.row_security import put_up_walls


class Migration(migrations.Migration):

    dependencies = [("practice", "0002_rows_of_workshops"), ("workshop", "0013_walls")]

    operations = [put_up_walls("practice")]
