from django.db import migrations, models


def as_it_was(apps, schema_editor):
    """Closed deliveries keep the unit their sums were in: the bags' own, pounds where they differ."""
    Delivery, Bag = apps.get_model("cooler", "Delivery"), apps.get_model("cooler", "Bag")
    units = {}
    pairs = Bag.objects.exclude(state="back").order_by().values_list("delivery_id", "weight_unit")
    for delivery, unit in pairs.distinct():
        units.setdefault(delivery, set()).add(unit)
    closed = list(Delivery.objects.exclude(closed_at=None))
    for delivery in closed:
        found = units.get(delivery.pk, set())
        delivery.invoice_unit = found.pop() if len(found) == 1 else "lb"
    Delivery.objects.bulk_update(closed, ["invoice_unit"], batch_size=500)


class Migration(migrations.Migration):
    dependencies = [("cooler", "0004_quality")]
    operations = [
        migrations.AddField(
            model_name="delivery",
            name="invoice_unit",
            field=models.CharField(
                blank=True,
                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                max_length=2,
            ),
        ),
        migrations.RunPython(as_it_was, migrations.RunPython.noop),
    ]
