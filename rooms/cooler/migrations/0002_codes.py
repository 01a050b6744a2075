"""Product codes get their 14 digits, countries their name, whichever way they were given."""

from django.db import migrations
from pycountry import countries


def codes(apps, editor):
    """A code of 8, 12 or 13 digits is the same code with zeros before it."""
    Bag, Code = apps.get_model("cooler", "Bag"), apps.get_model("cooler", "ProductCode")
    for code in Code.objects.all():
        full = code.gtin.zfill(14)
        if not code.gtin.isdigit() or full == code.gtin:
            continue
        same = Code.objects.filter(gtin=full).first()
        if same is None:
            code.gtin = full
            code.save(update_fields=["gtin"])
        else:  # both were asked about; the one that is named stays
            if same.piece_id is None and code.piece_id is not None:
                same.piece_id = code.piece_id
                same.save(update_fields=["piece"])
            code.delete()
    for gtin in set(Bag.objects.exclude(gtin="").values_list("gtin", flat=True)):
        if not gtin.isdigit() or len(gtin) == 14:
            continue
        for bag in Bag.objects.filter(gtin=gtin):
            full = gtin.zfill(14)
            here = Bag.objects.filter(gtin=full, serial=bag.serial).exclude(state="back")
            if bag.serial and bag.state != "back" and here.exists():
                continue  # two bags said to be one: they stay as they are, to be looked at
            bag.gtin = full
            bag.save(update_fields=["gtin"])


def origins(apps, editor):
    Bag = apps.get_model("cooler", "Bag")
    for country in set(Bag.objects.exclude(country="").values_list("country", flat=True)):
        try:
            found = countries.lookup(country.zfill(3) if country.isdecimal() else country)
        except LookupError:
            continue
        name = getattr(found, "common_name", found.name)
        if name != country:
            Bag.objects.filter(country=country).update(country=name)


class Migration(migrations.Migration):
    dependencies = [("cooler", "0001_initial")]

    operations = [
        migrations.RunPython(codes, migrations.RunPython.noop),
        migrations.RunPython(origins, migrations.RunPython.noop),
    ]
