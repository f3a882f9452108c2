from django.db import migrations, models

# A sequence, not a count: it goes on where a change is taken back, so that no number ever stands for two shops; nor do
# two databases that one process asks after each other begin at the same number.
CHANGED = """
create sequence workshop_shop_versions;
select setval('workshop_shop_versions', (extract(epoch from clock_timestamp()) * 1e6)::bigint);
update workshop_workshop set shop_version = nextval('workshop_shop_versions');
create function workshop_shop_changed() returns trigger language plpgsql as $$
begin
  if tg_op = 'DELETE' then
    update workshop_workshop set shop_version = nextval('workshop_shop_versions')
    where id in (select workshop_id from old_rows);
  else
    update workshop_workshop set shop_version = nextval('workshop_shop_versions')
    where id in (select workshop_id from new_rows);
  end if;
  return null;
end $$;
""" + "".join(
    f"""
create trigger shop_{what} after {event} on {table} referencing {rows}
for each statement execute function workshop_shop_changed();
"""
    for table in ("workshop_platekind", "workshop_lathe", "workshop_shopfigures")
    for what, event, rows in (
        ("gained", "insert", "new table as new_rows"),
        ("changed", "update", "new table as new_rows"),
        ("lost", "delete", "old table as old_rows"),
    )
)


class Migration(migrations.Migration):

    dependencies = [("workshop", "0021_first_passwords")]

    operations = [
        migrations.AddField("workshop", "shop_version", models.BigIntegerField(default=0, editable=False)),
        migrations.RunSQL(CHANGED, migrations.RunSQL.noop),
    ]
