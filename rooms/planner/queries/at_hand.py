"""What the case can have without another bag: cut today, and what lies in the grinder's tubs. Every page asks
here."""

from collections import defaultdict
from collections.abc import Iterable
from datetime import date
from decimal import Decimal

from cutting.quantities import ZERO, working
from rooms.bench.queries.cut_today import pounds_cut
from rooms.grinder.queries.worth import pounds_for_case
from rooms.pricebook.models import Product


def pounds_at_hand(day: date, products: Iterable[Product]) -> dict[int, Decimal]:
    """Pounds by the cut: as weighed on `day`, and for the ground ones of these products
    what lay in tubs before. One query, two where something of them is ground."""
    found: dict[int, Decimal] = defaultdict(lambda: ZERO, pounds_cut(day))
    ground = {one.cut for one in products if one.cut.is_ground}
    in_tubs = pounds_for_case(day) if ground else {}
    with working():
        for cut in ground:
            found[cut.pk] += in_tubs.get(cut.species, ZERO)
    return dict(found)
