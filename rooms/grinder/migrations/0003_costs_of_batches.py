"""What a batch cost and what came out of it, as its own rows."""

from decimal import Decimal

from django.db import migrations

from cutting.quantities import storable_money


def fill(apps, schema_editor):
    Batch, Came = apps.get_model("grinder", "Batch"), apps.get_model("grinder", "Came")
    for batch in Batch.objects.iterator(chunk_size=500):
        batch.cost = storable_money(Decimal(batch.answer.get("cost", "0")))
        batch.save(update_fields=["cost"])
        if batch.finished_at is not None:
            Came.objects.create(
                batch=batch,
                got=batch.got,
                machine=batch.machine,
                celsius=batch.celsius_out or 0,
                at=batch.finished_at,
                by_id=batch.finished_by_id,
            )


class Migration(migrations.Migration):
    dependencies = [("grinder", "0002_rules_and_corrections")]
    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]
