"""What the core says of a vehicle is kept beside the job; base rates of causes are those of the job's opening."""

from django.db import migrations, models
from django.db.models import Count

from compass.cause.causes import adjusted_rates


def rates_of_open_jobs(apps, schema_editor):
    Job = apps.get_model("jobs", "Job")
    closed = Job.objects.filter(state="closed").exclude(found_cause="").values("found_cause").annotate(n=Count("pk"))
    rates = {cause.value: rate for cause, rate in adjusted_rates({row["found_cause"]: row["n"] for row in closed}).items()}
    Job.objects.exclude(state="closed").update(base_rates=rates)


class Migration(migrations.Migration):
    dependencies = [("jobs", "0007_every_earlier_state")]
    operations = [
        migrations.AddField("job", "judgement", models.JSONField(blank=True, default=dict)),
        migrations.AddField("job", "base_rates", models.JSONField(blank=True, default=dict)),
        migrations.RunPython(rates_of_open_jobs, migrations.RunPython.noop),
    ]
