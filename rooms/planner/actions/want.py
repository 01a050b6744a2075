"""What the case should hold, entered by hand."""

from decimal import Decimal

from rooms.common.errors import BadInput
from rooms.common.writing import write
from rooms.planner.models import Wanted
from rooms.pricebook.models import Product


@write()
def want(product: Product, weekday: int, least: Decimal, most: Decimal) -> None:
    """Keep least and most of a product on a day; both 0 takes it off the list."""
    if not 0 <= weekday <= 6:
        raise BadInput(f"Day: {weekday}; a day of the week is right.")
    if least < 0 or most < least:
        raise BadInput(f"Most: {most} is less than the least, {least}; {least} or more is right.")
    if most == 0:
        Wanted.objects.filter(product=product, weekday=weekday).delete()
        return
    Wanted.objects.update_or_create(
        product=product, weekday=weekday, defaults={"least": least, "most": most}
    )
