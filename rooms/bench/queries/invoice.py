"""What a piece costs now."""

from collections.abc import Collection

from cutting.quantities import Unit, UnitPrice
from rooms.bench.models import CuttingTest
from rooms.cooler.queries.deliveries import prices_now


def invoice_now(pieces: Collection[int]) -> dict[int, UnitPrice]:
    """The invoice price of each piece by its id: of its newest delivery, else its newest test.

    Three queries at most. Pieces that were never bought are left out.
    """
    found = prices_now(pieces)
    rest = set(pieces) - set(found)
    if rest:
        tests = CuttingTest.objects.finished().filter(piece__in=rest).order_by("number")
        for piece, amount, per in tests.values_list("piece_id", "price_amount", "price_per"):
            found[piece] = UnitPrice(amount, Unit(per))
    return found
