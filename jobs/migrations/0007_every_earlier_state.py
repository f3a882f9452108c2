"""Bring every database right that was made while 0004 and 0006 were still being changed.

Each statement does nothing where its column or index is there already, so a database of any earlier commit ends up as
one made today. The models know all of this from 0004 and 0006; only the database may lack it.
"""

from django.db import migrations

LACKING = [
    "alter table jobs_job add column if not exists decided varchar(2)[] not null default '{}'",
    "alter table jobs_job alter column decided drop default",
    "alter table jobs_historicaljob add column if not exists decided varchar(2)[] not null default '{}'",
    "alter table jobs_historicaljob alter column decided drop default",
    "alter table jobs_cutpass add column if not exists graduation_mm double precision not null default 0.001",
    "alter table jobs_cutpass alter column graduation_mm drop default",
    "alter table jobs_historicalcutpass add column if not exists graduation_mm double precision not null default 0.001",
    "alter table jobs_historicalcutpass alter column graduation_mm drop default",
    "create index if not exists job_of_vehicle on jobs_job (vehicle_id, created_at desc)",
    "create index if not exists job_by_cause on jobs_job (found_cause, created_at desc) where not (found_cause = '')",
]


class Migration(migrations.Migration):
    dependencies = [("jobs", "0006_remedies")]
    operations = [migrations.RunSQL(LACKING, migrations.RunSQL.noop)]
