"""What a tub weighs, and the lots a test is of."""

from collections.abc import Sequence
from decimal import Decimal

from rooms.bench.models import CuttingTest, TestBag, Tub


def gross_of(tub: Tub) -> Decimal:
    """What the scale shows with the tub on it: as its ledger's last entry says. One query."""
    last = tub.entries.order_by("-number").values_list("gross", flat=True).first()
    return tub.start if last is None else last


def lots_of(tests: Sequence[CuttingTest] | set[CuttingTest]) -> dict[object, tuple[str, ...]]:
    """The lots of each test: of its bags where they came from the cooler, else as typed. One
    query."""
    found: dict[object, dict[str, None]] = {test.pk: {} for test in tests}
    for row in TestBag.objects.filter(test__in=tests).select_related("bag") if tests else ():
        found[row.test_id][row.bag.lot] = None
    return {
        test.pk: tuple(lot for lot in (found[test.pk] or {test.lot: None}) if lot) for test in tests
    }
