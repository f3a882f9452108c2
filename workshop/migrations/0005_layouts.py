"""Vehicles whose wheels or discs are not those of their kind."""

from django.db import migrations, models

LAYOUTS = [
    ("", "as usual"),
    ("one_axle", "one axle"),
    ("three_axles", "three axles"),
    ("two_front_discs", "two front discs"),
    ("twin_rear", "twin rear wheels"),
]


class Migration(migrations.Migration):
    dependencies = [("workshop", "0004_sent")]
    operations = [
        migrations.AddField(
            model,
            "layout",
            models.CharField(blank=True, choices=LAYOUTS, default="", max_length=16, verbose_name="wheels"),
        )
        for model in ("vehicle", "historicalvehicle")
    ]
