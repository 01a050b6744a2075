"""Trays of before are of their test or batch, and what of them went into a tub is known."""

import uuid

from django.db import migrations
from django.db.models import F, OuterRef, Subquery


def fill(apps, editor):
    Tray, TrayEvent = apps.get_model("trays", "Tray"), apps.get_model("trays", "TrayEvent")
    TubIn, Output = apps.get_model("grinder", "TubIn"), apps.get_model("bench", "Output")
    test = Output.objects.filter(pk=OuterRef("output")).values("test")[:1]
    Tray.objects.exclude(output=None).update(from_test=Subquery(test))
    Tray.objects.exclude(batch=None).update(from_batch=F("batch"))
    for tray in Tray.objects.exclude(again_of=None).select_related("again_of").order_by("number"):
        first = Tray.objects.get(pk=tray.again_of_id)  # filled before: it has a lower number
        own = {"from_test": first.from_test_id, "from_batch": first.from_batch_id}
        Tray.objects.filter(pk=tray.pk).update(**own)
    for event in TrayEvent.objects.filter(life="to_tub"):
        entry = TubIn.objects.filter(key=uuid.uuid5(event.key, "tub")).first()
        if entry is None:
            continue
        TrayEvent.objects.filter(pk=event.pk).update(entry=entry)
        tray = Tray.objects.get(pk=event.tray_id)
        own = {"from_test": tray.from_test_id, "from_batch": tray.from_batch_id}
        TubIn.objects.filter(pk=entry.pk).update(**own)


class Migration(migrations.Migration):
    dependencies = [("trays", "0002_the_way_back"), ("grinder", "0006_fill_the_way_back")]
    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]
