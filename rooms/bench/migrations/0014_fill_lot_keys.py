"""Tests of before are found however their lot is written."""

from django.db import migrations

from cutting.tracing.lots import lot_key


def fill(apps, editor):
    CuttingTest = apps.get_model("bench", "CuttingTest")
    rows = list(CuttingTest.objects.exclude(lot="").only("pk", "lot", "lot_key"))
    for row in rows:
        row.lot_key = lot_key(row.lot)
    CuttingTest.objects.bulk_update(rows, ["lot_key"], batch_size=300)


class Migration(migrations.Migration):
    dependencies = [("bench", "0013_lot_keys")]
    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]
