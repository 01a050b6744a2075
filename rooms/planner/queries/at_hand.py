"""What the case can have without another bag: trays for sale, what was cut today and lies unpacked, and the
grinder's tubs, nothing of it held. Every page asks here."""

from collections import defaultdict
from collections.abc import Iterable
from datetime import date
from decimal import Decimal

from cutting.quantities import ZERO, working
from rooms.bench.queries.cut_today import piles_free
from rooms.grinder.queries.worth import pounds_for_case
from rooms.pricebook.models import Product
from rooms.trays.queries.at_hand import in_trays


def pounds_at_hand(day: date, products: Iterable[Product]) -> dict[int, Decimal]:
    """Pounds by the cut: in trays for sale, on the piles of `day` as far as they are not packed, and for
    the ground ones of these products what lay in tubs before, as far as what was ground of it on `day` is
    not packed. Three queries, four where something of them is ground, more while a lot is held."""
    trays = in_trays(day)
    found: dict[int, Decimal] = defaultdict(lambda: ZERO, trays.for_sale)
    ground = {one.cut for one in products if one.cut.is_ground}
    in_tubs = pounds_for_case(day) if ground else {}
    with working():
        for pile, row in piles_free(day).items():
            found[row.cut] += max(row.pounds - trays.of_piles[pile], ZERO)
        for cut in ground:
            left = in_tubs.get(cut.species, ZERO) - trays.of_batches[cut.species]
            found[cut.pk] += max(left, ZERO)
    return dict(found)
