"""What of the trays of a product was never sold at its price."""

from collections.abc import Iterable
from datetime import date, timedelta
from decimal import Decimal

from django.db.models import Count

from cutting.labels.mark_down import Shrink
from cutting.labels.tray_life import Life
from cutting.quantities import ZERO, working
from rooms.trays.models import Tray

LATELY = timedelta(days=28)


def shrink_lately(today: date, products: Iterable[int] | None = None) -> dict[int, Shrink]:
    """Of each product whose trays were packed in the last four weeks: one query. A tray that was thrown
    away lost all of its price, one that is marked down what came off."""
    rows = Tray.objects.standing().filter(packed_on__gt=today - LATELY)
    if products is not None:
        rows = rows.filter(product__in=products)
    rows = rows.exclude(life__in=[Life.TO_TUB, Life.TO_BLOCK])
    names = ("product", "life", "total", "mark__total")
    counted = rows.order_by().values_list(*names).annotate(many=Count("pk"))
    found: dict[int, tuple[Decimal, Decimal, Decimal]] = {}
    with working():
        for product, life, total, mark, many in counted:
            packed, down, thrown = found.get(product, (ZERO, ZERO, ZERO))
            if life == Life.THROWN:
                thrown += total * many
            elif mark is not None:
                down += (total - mark) * many
            found[product] = packed + total * many, down, thrown
    return {product: Shrink(*sums) for product, sums in found.items()}
