"""A version is taken back, as a new one."""

from dataclasses import dataclass
from typing import Any

from django.utils import timezone

from rooms.common.db.writing import write
from rooms.common.errors import Refused
from rooms.pricebook.actions.prices import Origin, carried, new_version, set_prices
from rooms.pricebook.models import Price, PriceOff, Version


@dataclass(frozen=True)
class Undone:
    """What an undo did: its version, and the products it left alone with the reason."""

    version: Version
    left: list[str]


def undo(version: Version, by_id: int | None, at: Any = None) -> Undone:
    """A new version with the prices that would hold without it; the undone one stays readable.

    Products whose price another version has changed since, and products that had no price before and are sold
    at this one, are left as they are and named; a first price whose day has not come is taken off. Undoing
    twice changes nothing.
    """
    with write():
        again = Version.objects.filter(undoes=version).first()
        if again is not None:
            return Undone(again, [])
        now = at or timezone.now()
        today = timezone.localtime(now).date()
        day = max(version.effective_on, today)
        back, off, left = [], [], []
        rows = list(version.prices.select_related("product"))
        standing = {
            price.product_id: price
            for price in Price.objects.current(
                day, products=[row.product_id for row in rows]
            ).select_related("version")
        }
        earlier = Price.objects.current(
            day, products=[row.product_id for row in rows], without=version
        )
        before = {price.product_id: price for price in earlier}
        for row in rows:
            old, held = before.get(row.product_id), standing.get(row.product_id)
            if held is None or held.pk != row.pk:
                left.append(
                    f"{row.product}: changed since by {held.version}"
                    if held
                    else f"{row.product}: not in force"
                )
            elif old is None and version.effective_on > today:
                off.append(row)
            elif old is None:
                left.append(f"{row.product}: it had no price before")
            else:
                back.append(carried(old, row.product, old.amount))
        if not back and not off:
            raise Refused("Undo: nothing can be taken back. " + "; ".join(left) + ".")
        origin = Origin(
            by_id,
            school=version.school,
            kind=Version.Kind.UNDO,
            effective_on=day,
            why=f"takes back version {version.number}",
            undoes=version,
        )
        made = set_prices(back, origin, at) if back else None
        if made is None and not off:
            raise Refused("Undo: the prices from before are the same, so nothing changed.")
        made = made or new_version(origin, now, day)
        PriceOff.objects.bulk_create(PriceOff(price=row, version=made) for row in off)
        return Undone(made, left)
