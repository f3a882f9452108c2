"""Row-level security on every table of this app."""

from django.db import migrations

from workshop.row_security import put_up_walls, wall_workshops


class Migration(migrations.Migration):

    dependencies = [("workshop", "0012_rows_of_workshops")]

    operations = [put_up_walls("workshop"), migrations.RunPython(wall_workshops, migrations.RunPython.noop)]
