from django.db import migrations, models

from workshop.migrating import AtOnce

# What was decided for each corner last, and in which episode: the newest that was laid out or read there before.
DECIDED = """
with last as (
  select distinct on (job_id, axle) job_id, axle, remedies, created_at from jobs_decision order by job_id, axle, id desc
), laid_out as (
  select corner_id, episode, created_at from jobs_sweep
  union all select corner_id, episode, created_at from jobs_thicknessround
)
update jobs_corner c
set decided_in = coalesce(
  (select max(t.episode) from laid_out t where t.corner_id = c.id and t.created_at <= last.created_at), 0
)
from last join jobs_job j on j.id = last.job_id
where c.job_id = last.job_id and last.axle = any (j.decided)
  and coalesce(last.remedies ->> c.position, 'none') not in ('none', 'clean_and_torque');
"""

# A cut that was begun since is of that work; one from before it is of the one before.
CUT_IN = """
update jobs_cut t
set episode = c.decided_in
from jobs_corner c
where c.id = t.corner_id and c.decided_in > 0 and t.created_at >= (
  select max(d.created_at) from jobs_decision d where d.job_id = c.job_id and d.remedies ? c.position
);
"""


class Migration(migrations.Migration):
    dependencies = [("jobs", "0025_kept_refits")]
    operations = [
        migrations.AddField("corner", "decided_in", models.PositiveSmallIntegerField(blank=True, null=True)),
        migrations.AddField("cut", "episode", models.PositiveSmallIntegerField(default=0)),
        migrations.AddField("historicalcut", "episode", models.PositiveSmallIntegerField(default=0)),
        AtOnce(
            migrations.RemoveConstraint("cut", "cut_once_a_lathe"),
            migrations.AddConstraint(
                "cut", models.UniqueConstraint(fields=("workshop", "corner", "lathe", "episode"), name="cut_once_a_work")
            ),
        ),
        migrations.RunSQL(DECIDED, migrations.RunSQL.noop, elidable=True),
        migrations.RunSQL(CUT_IN, migrations.RunSQL.noop, elidable=True),
    ]
