from decimal import ROUND_HALF_UP, Decimal, localcontext

from django.db import migrations

LB = {"lb": Decimal("453.59237"), "kg": Decimal(1000), "oz": Decimal("28.349523125"),
      "g": Decimal(1)}


def work_out(apps, editor):
    """Reviews that were made before get the margins of the prices they proposed."""
    ReviewLine = apps.get_model("counter", "ReviewLine")
    lines = ReviewLine.objects.select_related("price", "product__tray", "review")
    changed = []
    with localcontext() as context:
        context.prec = 36
        for line in lines.iterator(500):
            full = line.review.method == "full" and line.in_full is not None
            cost = line.in_full if full else line.by_factor
            line.margin_before = _margin(line.product, line.price.amount, line.price.cost)
            line.margin_now = _margin(line.product, line.price.amount, cost)
            line.margin_proposed = _margin(line.product, line.proposed, cost)
            changed.append(line)
    names = ["margin_before", "margin_now", "margin_proposed"]
    ReviewLine.objects.bulk_update(changed, names, batch_size=200)


def _margin(product, price, cost):
    if cost is None:
        return None
    labour = packaging = Decimal(0)
    if product.carries_labour and product.minutes:
        labour = product.minutes * Decimal("24.00") / 60
    tray = product.tray
    if product.carries_packaging and tray is not None and product.tray_weight:
        each = tray.tray_cost + tray.pad_cost + tray.film_cost + tray.label_cost
        packaging = each / (product.tray_weight * LB[product.tray_unit] / LB[product.per])
    net = price / (1 + product.tax)
    loaded = (cost + labour + packaging) / (1 - product.shrink)
    return ((net - loaded) / net).quantize(Decimal("0.000001"), rounding=ROUND_HALF_UP)


class Migration(migrations.Migration):
    dependencies = [
        ("counter", "0002_what_was_shown"),
        ("pricebook", "0005_every_price_in_a_version"),
    ]

    operations = [migrations.RunPython(work_out, migrations.RunPython.noop)]
