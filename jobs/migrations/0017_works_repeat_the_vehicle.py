from django.db import migrations
from django.db.models import OuterRef, Subquery


def repeat(apps, schema_editor):
    """Repeat at each work whose vehicle it was and at which distance, as its closing says."""
    works, closings = apps.get_model("jobs", "CornerWorked"), apps.get_model("jobs", "Closing")
    closing = closings.objects.filter(pk=OuterRef("closing_id"))
    works.objects.filter(vehicle=None).update(
        vehicle_id=Subquery(closing.values("vehicle_id")[:1]), odometer_km=Subquery(closing.values("odometer_km")[:1])
    )


class Migration(migrations.Migration):
    # By itself: a table with rows just changed takes no new index in the same transaction.
    dependencies = [("jobs", "0016_times_of_parts")]
    operations = [migrations.RunPython(repeat, migrations.RunPython.noop, elidable=True)]
