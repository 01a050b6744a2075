"""What the case wants on a day: the list, what season, holiday and ad make of it, and what restaurants
have on that day. Every page asks here."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from django.db.models import Exists

from cutting.quantities import HUNDRED, ONE, ZERO, round_half_up, working
from rooms.catalog.models import Cut
from rooms.demand.models import Factor, StandingOrder, Wanted
from rooms.pricebook.models import Product


@dataclass(frozen=True)
class WantedOn:
    """Least and most of a product on a day, in its unit, and why it is not the usual."""

    product: Product
    least: Decimal
    most: Decimal
    why: tuple[str, ...] = ()


def wants_on(day: date) -> list[WantedOn]:
    """Of one day, by the product's name: one to three queries."""
    return wants_of([day])[day]


def wants_of(days: Sequence[date]) -> dict[date, list[WantedOn]]:
    """Of each of these days: one query, one more for each of what there is: factors, restaurants."""
    weekdays = {day.weekday() for day in days}
    factors = Factor.objects.filter(
        last__gte=min(days), first__lte=max(days), taken_off_at=None
    ).order_by("first", "id")
    orders = StandingOrder.objects.filter(weekday__in=weekdays, since__lte=max(days)).exclude(
        until__lt=min(days)
    )
    listed: dict[int, list[Wanted]] = defaultdict(list)
    rows = Wanted.objects.filter(weekday__in=weekdays).select_related("product__cut")
    rows = rows.defer(*Cut.guide_by("product__cut"))
    rows = rows.annotate(moved=Exists(factors), ordered=Exists(orders)).order_by("product__name")
    for row in rows:
        listed[row.weekday].append(row)
    first = next((row for some in listed.values() for row in some), None)
    moved = list(factors) if first is not None and first.moved else []
    ordered = first is None or first.ordered
    standing = list(orders.select_related("product__cut")) if ordered else []
    return {day: _of(day, listed[day.weekday()], moved, standing) for day in days}


def _of(
    day: date, rows: list[Wanted], factors: list[Factor], orders: list[StandingOrder]
) -> list[WantedOn]:
    found = {row.product_id: _times(day, row, factors) for row in rows}
    with working():
        for order in orders:
            if order.weekday != day.weekday() or order.since > day:
                continue
            if order.until is not None and order.until < day:
                continue
            own = order.weight.value
            before = found.get(order.product_id) or WantedOn(order.product, ZERO, ZERO)
            words = f"{order.customer}: {order.count}"
            found[order.product_id] = WantedOn(
                order.product, before.least + own, before.most + own, (*before.why, words)
            )
    return sorted(found.values(), key=lambda one: one.product.name)


def _times(day: date, row: Wanted, factors: list[Factor]) -> WantedOn:
    own = [
        one
        for one in factors
        if one.first <= day <= one.last and one.product_id in (None, row.product_id)
    ]
    if not own:
        return WantedOn(row.product, row.least, row.most)
    with working():
        factor = ONE
        for one in own:
            factor *= one.percent / HUNDRED
        least, most = (round_half_up(value * factor, 1) for value in (row.least, row.most))
    return WantedOn(row.product, least, most, tuple(f"{one.name}" for one in own))
