"""What went into tubs before is of its test or batch, and found however its lot is written."""

import re

from django.db import migrations
from django.db.models import F, OuterRef, Subquery

from cutting.tracing.lots import lot_key

OF_BATCH = re.compile(r"(?i)^g-?\s*([0-9]{1,9})$", re.ASCII)
OF_TEST = re.compile(r"(?i)^(?:test|t-?|#)\s*([0-9]{1,9})$", re.ASCII)


def fill(apps, editor):
    TubIn, TubLot = apps.get_model("grinder", "TubIn"), apps.get_model("grinder", "TubLot")
    Output = apps.get_model("bench", "Output")
    test = Output.objects.filter(pk=OuterRef("output")).values("test")[:1]
    TubIn.objects.exclude(output=None).update(from_test=Subquery(test))
    TubIn.objects.exclude(batch=None).update(from_batch=F("batch"))
    _from_the_case(apps, TubIn)
    rows = list(TubLot.objects.only("pk", "lot", "lot_key"))
    for row in rows:
        row.lot_key = lot_key(row.lot)
    TubLot.objects.bulk_update(rows, ["lot_key"], batch_size=300)


def _from_the_case(apps, TubIn):
    """What stood on its label, kept beside its lots: a batch or a test."""
    Batch, CuttingTest = apps.get_model("grinder", "Batch"), apps.get_model("bench", "CuttingTest")
    LotAnswer = apps.get_model("grinder", "LotAnswer")
    answers = {one.entry_id: one.lots for one in LotAnswer.objects.order_by("id")}
    for entry in TubIn.objects.filter(source__in=["case", "back"]):
        lots = answers.get(entry.pk, entry.lots)
        tray = next((lot.get("tray", "") for lot in lots if lot.get("tray")), "")
        of_batch, of_test = OF_BATCH.match(tray), OF_TEST.match(tray)
        if of_batch:
            found = Batch.objects.filter(
                number=int(of_batch[1]), undone_at=None, begun_at__lte=entry.at
            ).first()
            TubIn.objects.filter(pk=entry.pk).update(from_batch=found)
        elif of_test:
            found = CuttingTest.objects.filter(number=int(of_test[1])).first()
            TubIn.objects.filter(pk=entry.pk).update(from_test=found)


class Migration(migrations.Migration):
    dependencies = [("grinder", "0005_the_way_back"), ("bench", "0014_fill_lot_keys")]
    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]
