"""Bags of before are found however their lot is written."""

from django.db import migrations

from cutting.tracing.lots import lot_key


def fill(apps, editor):
    Bag = apps.get_model("cooler", "Bag")
    rows = list(Bag.objects.exclude(lot="").only("pk", "lot", "lot_key"))
    for row in rows:
        row.lot_key = lot_key(row.lot)
    Bag.objects.bulk_update(rows, ["lot_key"], batch_size=300)


class Migration(migrations.Migration):
    dependencies = [("cooler", "0006_held")]
    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]
