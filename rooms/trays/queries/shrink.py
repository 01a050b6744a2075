"""What of the trays of a product was never sold at its price."""

from collections import defaultdict
from collections.abc import Iterable
from datetime import date, timedelta
from decimal import Decimal

from django.db.models import Count, QuerySet

from cutting.labels.mark_down import Shrink
from cutting.labels.tray_life import Life
from cutting.quantities import ZERO, working
from rooms.trays.models import Tray
from rooms.trays.queries.meat import left_on_tray

LATELY = timedelta(days=28)


def shrink_lately(today: date, products: Iterable[int] | None = None) -> dict[int, Shrink]:
    """Of each product whose trays were packed in the last four weeks: one query. A tray that was thrown
    away lost all of its price, one that is marked down what came off."""
    rows = Tray.objects.standing().filter(packed_on__gt=today - LATELY)
    if products is not None:
        rows = rows.filter(product__in=products)
    again = Tray.objects.standing().filter(again_of__in=rows.filter(life=Life.TO_BLOCK))
    came_off = _came_off(rows.filter(life=Life.TO_BLOCK), again)
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
        for product, lost in came_off.items():
            packed, down, thrown = found.get(product, (ZERO, ZERO, ZERO))
            found[product] = packed + lost, down, thrown + lost
    return {product: Shrink(*sums) for product, sums in found.items()}


def _came_off(trays: QuerySet[Tray], again: QuerySet[Tray]) -> dict[int, Decimal]:
    """What came off trays that were faced and packed again at the block, at their price: two queries. A tray
    of which nothing is packed again is on its way still."""
    packed: dict[object, list[Tray]] = defaultdict(list)
    for one in again.defer("document", "lots"):
        packed[one.again_of_id].append(one)
    found: dict[int, Decimal] = defaultdict(lambda: ZERO)
    with working():
        for tray in trays.filter(pk__in=packed).defer("document", "lots"):
            rest = left_on_tray(tray, packed[tray.pk])
            if rest.value > 0:
                found[tray.product_id] += tray.total * rest.value / tray.net
    return found
