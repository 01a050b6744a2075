from django.db import migrations, models
from django.db.models import F


def as_cut(apps, editor):
    """A sheet keeps the price of the day it was cut; what was set from it is read in the book.

    Until now saving wrote over it; the share price holds what was there before.
    """
    Output = apps.get_model("bench", "Output")
    products = apps.get_model("pricebook", "Product").objects.values("cut")
    Output.objects.exclude(share_price=None).filter(cut__in=products).update(
        retail=F("share_price")
    )


class Migration(migrations.Migration):
    dependencies = [
        ("bench", "0009_fill_revision_and_ledger"),
        ("pricebook", "0005_every_price_in_a_version"),
    ]

    operations = [
        migrations.AddField(
            model_name="cuttingtest",
            name="reopened_at",
            field=models.DateTimeField(null=True),
        ),
        migrations.RunPython(as_cut, migrations.RunPython.noop),
    ]
