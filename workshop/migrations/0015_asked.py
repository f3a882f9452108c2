"""Count how often somebody asks: the table that Django's createcachetable would make."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("workshop", "0014_first_words")]

    operations = [
        migrations.RunSQL(
            "create table asked (cache_key varchar(255) primary key, value text not null, expires timestamptz not null);"
            "create index asked_expires on asked (expires);",
            "drop table asked;",
        )
    ]
