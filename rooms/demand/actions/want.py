"""What the case should hold, entered by hand."""

from decimal import Decimal

from rooms.common.db.seen import check_unchanged
from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.demand.models import Wanted
from rooms.pricebook.models import Product
from rooms.staff.models import Person


@write()
def want(
    product: Product,
    weekday: int,
    least: Decimal,
    most: Decimal,
    by_id: int | None = None,
    seen: int | None = None,
) -> None:
    """Keep least and most of a product on a day; both 0 takes it off the list. The same again changes nothing.

    Raises Overtaken where somebody changed it since the page knew the list's history as far as `seen`.
    """
    if not 0 <= weekday <= 6:
        raise BadInput(f"Day: {weekday}; a day of the week is right.")
    if least < 0 or most < least:
        raise BadInput(f"Most: {most} is less than the least, {least}; {least} or more is right.")
    row = Wanted.objects.filter(product=product, weekday=weekday).first()
    if (row is None and most == 0) or (row is not None and (row.least, row.most) == (least, most)):
        return
    columns = {"least": least, "most": most}
    check_unchanged(Wanted, seen, columns, product=product, weekday=weekday)
    row = row or Wanted(product=product, weekday=weekday)
    row._history_user = Person.objects.filter(pk=by_id).first()
    if most == 0:
        row.delete()
        return
    row.least, row.most = least, most
    row.save()
