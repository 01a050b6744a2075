"""Prices whose ground has moved: a test they rest on was corrected or taken back to the block."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from django.db.models import F

from rooms.bench.models import CuttingTest
from rooms.pricebook.models import Price, PriceQuerySet


@dataclass(frozen=True)
class Shaken:
    """What happened to a test that a price rests on, after the price was worked out."""

    test_id: UUID
    number: int
    at: datetime
    words: str


def with_grounds(prices: PriceQuerySet) -> PriceQuerySet:
    """The prices with what `shaken` asks of each."""
    return prices.annotate(tests=F("basis__tests"), worked_out_at=F("basis__made_at"))


def shaken(prices: Iterable[Price]) -> dict[int, Shaken]:
    """By the price's id, the last thing that moved its ground: one query.

    A price on a basis rests on every test in it, from the moment the basis was made: a review, an
    undo or a price by hand carries the basis on and does not make it sound again.
    """
    resting = {price.pk: (price, _tests(price)) for price in prices if _tests(price)}
    asked = {test for _, tests in resting.values() for test in tests}
    if not asked:
        return {}
    events = _events(asked)
    found = {}
    for pk, (price, tests) in resting.items():
        since = price.worked_out_at or price.made_at
        later = [one for test in tests for one in events.get(test, ()) if one.at > since]
        if later:
            found[pk] = max(later, key=lambda one: one.at)
    return found


def _events(asked: set[UUID]) -> dict[UUID, list[Shaken]]:
    """Every correction and the last taking back of each test: one query."""
    found: dict[UUID, list[Shaken]] = {}
    changed = CuttingTest.objects.filter(pk__in=asked).order_by()
    changed = changed.exclude(corrections=None, reopened_at=None)
    names = ("pk", "number", "reopened_at", "corrections__at", "corrections__reason")
    for test, number, reopened_at, corrected_at, reason in changed.values_list(*names):
        events = found.setdefault(test, [])
        if corrected_at is not None:
            words = f"test {number} was corrected: {reason}"
            events.append(Shaken(test, number, corrected_at, words))
        if reopened_at is not None:
            words = f"test {number} was taken back to the block"
            events.append(Shaken(test, number, reopened_at, words))
    return found


def _tests(price: Price) -> set[UUID]:
    """The tests a price rests on: those of its basis, else the one it was set from."""
    if price.tests:
        return {UUID(pk) for pk, _ in price.tests}
    return {price.from_test} if price.from_test else set()
