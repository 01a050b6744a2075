"""Sales of the till are taken in: a whole file or nothing."""

from django.utils import timezone

from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.demand.models import Sold
from rooms.demand.queries.till import TillFile

MOST_TOLD = 4


def take_sales(file: TillFile, by_id: int | None, *, leave_out: bool = False) -> int:
    """How many rows are new. The same row again changes nothing.

    Raises BadInput for products the shop has not, unless they are left out, and Refused where a
    row is there already with other figures.
    """
    if file.unknown and not leave_out:
        names = ", ".join(f"“{name}”" for name in file.unknown[:MOST_TOLD])
        raise BadInput(
            f"File: {len(file.unknown)} names are no product of the shop ({names}). Nothing was"
            " taken; rename them, or tick that they are left out."
        )
    if not file.rows:
        raise BadInput("File: no row of a product of the shop; at least one is right.")
    now = timezone.now()
    with write():
        days = {row.day for row in file.rows}
        known = {
            (one.product_id, one.day, one.hour): one
            for one in Sold.objects.filter(day__gte=min(days), day__lte=max(days))
        }
        other = [
            row for row in file.rows if row.key in known and known[row.key].weight != row.weight
        ]
        if other:
            row, there = other[0], known[other[0].key]
            raise Refused(
                f"File: {row.product} on {row.day} is there already with {there.weight:f}, the file"
                f" says {row.weight:f}{f', and {len(other) - 1} more' if len(other) > 1 else ''}."
                " Nothing was taken."
            )
        new = [row for row in file.rows if row.key not in known]
        Sold.objects.bulk_create(
            Sold(
                product=row.product,
                day=row.day,
                hour=row.hour,
                weight=row.weight,
                money=row.money,
                taken_at=now,
                taken_by_id=by_id,
            )
            for row in new
        )
    return len(new)
