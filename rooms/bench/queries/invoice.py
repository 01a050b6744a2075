"""What a piece costs now."""

from collections.abc import Collection

from cutting.quantities import Unit, UnitPrice
from rooms.bench.models import CuttingTest, TestBag
from rooms.cooler.queries.deliveries import prices_now


def invoice_now(pieces: Collection[int]) -> dict[int, UnitPrice]:
    """The invoice price of each piece by its id: of its newest delivery, else its newest test. A piece that was
    cut here has a cost and no invoice.

    Three queries at most. Pieces that were never bought are left out.
    """
    found = prices_now(pieces)
    rest = set(pieces) - set(found)
    if rest:
        cut_here = TestBag.objects.exclude(bag__cut_of=None).filter(test__piece__in=rest)
        tests = CuttingTest.objects.finished().filter(piece__in=rest).order_by("number")
        tests = tests.exclude(pk__in=cut_here.values("test"))
        for piece, amount, per in tests.values_list("piece_id", "price_amount", "price_per"):
            found[piece] = UnitPrice(amount, Unit(per))
    return found
