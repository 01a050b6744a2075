"""What moves the demand and how pieces are bought: seasons, holidays, ads, standing orders, terms."""

from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from django.utils import timezone

from cutting.quantities import Weight
from rooms.catalog.models import Piece
from rooms.common.db.seen import check_unchanged
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.planner.models import BuyingTerms, Factor, StandingOrder
from rooms.pricebook.models import Product
from rooms.staff.models import Person


@dataclass(frozen=True)
class FactorSet:
    kind: str
    name: str
    product: Product | None
    first: date
    last: date
    percent: Decimal


@write()
def set_factor(asked: FactorSet, by_id: int | None) -> Factor:
    """The same again changes nothing. Raises BadInput for days the wrong way round."""
    if asked.last < asked.first:
        wrong = f"Last day: {asked.last} is before the first, {asked.first};"
        raise BadInput(f"{wrong} that day or later is right.")
    values = vars(asked)
    there = Factor.objects.filter(**values, taken_off_at=None).first()
    return there or Factor.objects.create(**values, set_by_id=by_id, set_at=timezone.now())


@write()
def take_factor_off(pk: int) -> None:
    """It holds no more; the row stays."""
    Factor.objects.filter(pk=pk, taken_off_at=None).update(taken_off_at=timezone.now())


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


@write()
def set_terms(
    piece: Piece, in_case: int, more: Decimal, by_id: int | None = None, seen: int | None = None
) -> None:
    """So many in a case, and what one alone costs more a unit. The same again changes nothing.

    Raises Overtaken where somebody changed it since the page knew the list's history as far as `seen`.
    """
    if in_case < 1:
        raise BadInput(f"In a case: {in_case}; 1 or more is right.")
    row = BuyingTerms.objects.filter(piece=piece).first()
    if row is not None and (row.in_case, row.more) == (in_case, more):
        return
    check_unchanged(BuyingTerms, seen, {"in_case": in_case, "more": more}, piece=piece)
    row = row or BuyingTerms(piece=piece)
    row.in_case, row.more = in_case, more
    row._history_user = Person.objects.filter(pk=by_id).first()
    row.save()
