"""Seasons, holidays and ads."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from django.utils import timezone

from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.demand.models import Factor
from rooms.pricebook.models import Product


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
