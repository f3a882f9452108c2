from django.db import migrations, models

# What is decided for each corner now: of the newest decision of its axle, where the job has one in force.
REMEDY = """
with last as (
  select distinct on (job_id, axle) job_id, axle, remedies from jobs_decision order by job_id, axle, id desc
)
update jobs_corner c
set remedy = coalesce(last.remedies ->> c.position, '')
from last join jobs_job j on j.id = last.job_id
where c.job_id = last.job_id and last.axle = any (j.decided) and last.remedies ? c.position;
"""


class Migration(migrations.Migration):
    dependencies = [("jobs", "0027_works")]
    operations = [
        migrations.AddField("corner", "remedy", models.CharField(blank=True, max_length=60, default=""), preserve_default=False),
        migrations.RunSQL(REMEDY, migrations.RunSQL.noop, elidable=True),
    ]
