"""What came off the block on a day."""

from collections import defaultdict
from datetime import date, datetime, time
from decimal import Decimal

from django.db.models import Q
from django.utils import timezone

from cutting.quantities import ZERO, Unit, Weight, working
from rooms.bench.models import CuttingTest
from rooms.bench.rows import load_all


def pounds_cut(day: date) -> dict[int, Decimal]:
    """Pounds weighed on `day` by the cut of their pile, as they stand now: three queries.

    Of tests that are open or were finished on that day or since; a file taken in is no cutting.
    """
    start = timezone.make_aware(datetime.combine(day, time()))
    tests = CuttingTest.objects.filter(Q(finished_at=None) | Q(finished_at__gte=start))
    found: dict[int, Decimal] = defaultdict(lambda: ZERO)
    with working():
        for rows in load_all(list(tests.filter(imported_at=None))):
            cuts = {output.pk: output.cut_id for output in rows.outputs}
            for weighing in rows.standing:
                cut = cuts[weighing.output_id]
                if cut and timezone.localdate(weighing.taken_at) == day:
                    found[cut] += Weight(weighing.value, Unit(weighing.unit)).to(Unit.LB)
    return dict(found)
