"""Row-level security on every table of this app; months are counted workshop by workshop."""

from django.db import migrations

from workshop.row_security import put_up_walls

CHANGED = """
create or replace function jobs_month_changed() returns trigger language plpgsql as $$
begin
  if tg_op in ('INSERT', 'UPDATE') then
    insert into jobs_closedmonth (workshop_id, month, version, sums) select distinct workshop_id, month, 1, null::jsonb from new_rows order by 1, 2
    on conflict (workshop_id, month) do update set version = jobs_closedmonth.version + 1, sums = null;
  end if;
  if tg_op in ('UPDATE', 'DELETE') then
    insert into jobs_closedmonth (workshop_id, month, version, sums) select distinct workshop_id, month, 1, null::jsonb from old_rows order by 1, 2
    on conflict (workshop_id, month) do update set version = jobs_closedmonth.version + 1, sums = null;
  end if;
  return null;
end $$;
"""


class Migration(migrations.Migration):

    dependencies = [("jobs", "0020_rows_of_workshops"), ("workshop", "0013_walls")]

    operations = [put_up_walls("jobs"), migrations.RunSQL(CHANGED, migrations.RunSQL.noop)]
