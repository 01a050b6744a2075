"""What restaurants have on a day of every week."""

from dataclasses import dataclass
from datetime import date, timedelta

from django.utils import timezone

from cutting.quantities import Weight
from rooms.common.db.writing import write
from rooms.common.errors import Refused
from rooms.demand.models import StandingOrder
from rooms.pricebook.models import Product


@dataclass(frozen=True)
class Standing:
    customer: str
    product: Product
    spec: str
    count: int
    portion: Weight
    weekday: int


@write()
def set_standing(asked: Standing, by_id: int | None, seen: int | None = None) -> StandingOrder:
    """From today on. Another one for the same customer, product and day follows the one before; the same again
    changes nothing.

    `seen`: the newest order the page knew. Raises Refused where another was set for the same since.
    """
    today = timezone.localdate()
    same = StandingOrder.objects.filter(
        customer=asked.customer, product=asked.product, weekday=asked.weekday, until=None
    )
    portion = f"{asked.portion.value:f}", asked.portion.unit.value
    for before in same:
        if (before.count, before.spec) == (asked.count, asked.spec) and (
            f"{before.portion_value:f}",
            before.portion_unit,
        ) == portion:
            return before
        if seen is not None and before.pk > seen:
            raise Refused(
                f"Standing order: somebody has just set {before}, {before.portion_value:f}"
                f" {before.portion_unit} each. Save again to put yours in its place."
            )
        _stop(before, today)
    return StandingOrder.objects.create(
        customer=asked.customer,
        product=asked.product,
        spec=asked.spec,
        count=asked.count,
        portion_value=asked.portion.value,
        portion_unit=asked.portion.unit.value,
        weekday=asked.weekday,
        since=today,
        set_by_id=by_id,
    )


@write()
def stop_standing(pk: int) -> None:
    """Today is no day of it any more; twice changes nothing."""
    for order in StandingOrder.objects.filter(pk=pk, until=None):
        _stop(order, timezone.localdate())


def _stop(order: StandingOrder, today: date) -> None:
    order.until = today - timedelta(days=1)
    order.save(update_fields=["until"])
