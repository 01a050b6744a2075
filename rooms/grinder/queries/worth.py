"""What the last batches made of the block's trim, and what lies in the tubs for the case."""

from collections import defaultdict
from dataclasses import dataclass
from datetime import date, datetime, time
from decimal import Decimal
from typing import Any

from django.db.models import Q, Value
from django.utils import timezone

from cutting.grinding.blend import Kind
from cutting.grinding.worth import Ground, TrimMade, trim_made
from cutting.quantities import ZERO, Unit, UnitPrice, Weight, storable_money, working
from rooms.grinder.models import Batch, TubIn, TubOut
from rooms.grinder.queries.lots import held_tubs
from rooms.pricebook.queries.book import prices_on
from rooms.shop.queries.current import house
from wording.grind import trim_made_words

LAST = 5
"""Batches that are looked at."""


@dataclass(frozen=True)
class TrimWorth:
    """What a unit of trim made, in words, and the value that is offered."""

    words: str
    value: Decimal


def trim_worth(species: str) -> TrimWorth | None:
    """Of the lean trim of an animal, by the last finished batches with a price: five queries. None where
    none was ground."""
    rows = Batch.objects.standing().filter(species=species, product__isnull=False)
    batches = list(rows.exclude(got=None)[:LAST])
    if not batches:
        return None
    prices = prices_on(timezone.localdate(), {batch.product_id for batch in batches})
    takes: dict[Any, list[TubOut]] = defaultdict(list)
    for take in TubOut.objects.standing().filter(batch__in=batches).select_related("tub"):
        takes[take.batch_id].append(take)
    entries: dict[Any, list[TubIn]] = defaultdict(list)
    tubs = {take.tub_id for some in takes.values() for take in some}
    for entry in TubIn.objects.standing().filter(tub__in=tubs):
        entries[entry.tub_id].append(entry)
    found = [
        _ground(batch, prices[batch.product_id].unit_price, takes[batch.pk], entries)
        for batch in batches
        if batch.product_id in prices
    ]
    unit, margin = house().unit, house().target_margin
    made = trim_made([one for one in found if one.pounds > 0], margin)
    if made is None:
        return None
    own = _in(made, unit)
    return TrimWorth(trim_made_words(own, unit.value, margin), storable_money(own.value))


def _in(made: TrimMade, unit: Unit) -> TrimMade:
    """Its money by another unit than the pound."""
    at_case, value = (UnitPrice(one, Unit.LB).to(unit) for one in (made.at_case, made.value))
    return TrimMade(made.batches, made.pounds, at_case, value)


def _has_trim(entries: list[TubIn], by: datetime) -> bool:
    """Whether trim of the block had gone into a tub by then."""
    return any(one.source == TubIn.Source.TEST and one.at <= by for one in entries)


def _cost(entries: list[TubIn], by: datetime) -> Decimal:
    """Of a unit of what had gone into a tub by then."""
    own = [one for one in entries if one.at <= by]
    with working():
        weight = sum((one.weight for one in own), ZERO)
        return sum((one.weight * one.cost for one in own), ZERO) / weight if weight else ZERO


def _ground(
    batch: Batch, price: UnitPrice, takes: list[TubOut], entries: dict[Any, list[TubIn]]
) -> Ground:
    """Every pound of lean makes the same, whether of the block or bought; hard fat and seasoning cost
    what they cost. A batch without trim of the block has no pounds."""
    pounds, rest = ZERO, ZERO
    has_trim = False
    with working():
        for take in takes:
            own = entries[take.tub_id]
            if take.tub.kind == Kind.HARD_FAT:
                rest += take.weight * _cost(own, batch.begun_at)
            else:
                pounds += Weight(take.weight, Unit(take.tub.unit)).to(Unit.LB)
                has_trim = has_trim or _has_trim(own, batch.begun_at)
        got = Weight(batch.got, Unit(batch.unit)).to(Unit.LB)
        seasoning = batch.cost - Decimal(batch.answer["cost"])
        money = got * price.to(Unit.LB)
        return Ground(money, rest + seasoning, pounds if has_trim else ZERO)


def pounds_for_case(day: date) -> dict[str, Decimal]:
    """Pounds of lean trim by animal that a day can have ground beside the day's own: what lay in the tubs
    before, in them still or ground today; none that is held. One query."""
    start = timezone.make_aware(datetime.combine(day, time()))
    there = Q(tub__closed_at=None) | Q(tub__closed_at__gte=start)
    meat = there & Q(tub__kind__in=(Kind.LEAN.value, Kind.ENDS.value)) & ~Q(tub__in=held_tubs())
    counted = (TubIn.Source.TEST, TubIn.Source.CARRY)
    """Cut today, or of a batch of today: counted where it came from."""
    columns = ("tub__species", "weight", "tub__unit", "key")
    ins = TubIn.objects.standing().filter(meat).exclude(source__in=counted, day=day)
    outs = TubOut.objects.standing().filter(meat).exclude(batch__isnull=False, at__gte=start)
    rows = (
        ins.order_by()
        .values_list(*columns, Value(1))
        .union(outs.order_by().values_list(*columns, Value(-1)))
    )
    found: dict[str, Decimal] = defaultdict(lambda: ZERO)
    with working():
        for species, weight, unit, _, sign in rows:
            found[species] += sign * Weight(Decimal(weight), Unit(unit)).to(Unit.LB)
    return {species: max(pounds, ZERO) for species, pounds in found.items()}
