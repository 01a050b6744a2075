"""How the shop labels, and the numbers of its products."""

from typing import Any

from django.db import IntegrityError

from cutting.labels.tray_label import SAFE_HANDLING
from drawings.label import Stock, carries_handling
from rooms.common.db.lengths import must_fit
from rooms.common.db.seen import Saw, check_seen, check_unchanged, is_so
from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.pricebook.models import Product
from rooms.staff.models import Person
from rooms.trays.models import LabelRules, ProductLabel


def change_label_rules(
    values: dict[str, Any], by_id: int | None, seen: str | None = None
) -> LabelRules:
    """The same values again change nothing. `seen`: the rules as the page had them; Overtaken where somebody
    changed them since."""
    stock = values.get("stock")
    if stock and not carries_handling(SAFE_HANDLING, Stock(stock)):
        raise BadInput(
            f"Stock: {stock} has no room for the safe handling instructions (9 CFR 317.2(l)), not even on"
            " a label of its own; a larger one is right."
        )
    with write():
        row = LabelRules.objects.select_for_update().first() or LabelRules()
        if is_so(row, values):
            return row
        if seen is not None:
            check_seen(Saw(lambda: row, seen))
        for key, own in values.items():
            setattr(row, key, own)
        must_fit(row)
        row._history_user = Person.objects.filter(pk=by_id).first()
        row.save()
    return row


NUMBERS = ("item", "gtin", "keeps_days", "serving")


def number_product(
    product: Product, values: dict[str, Any], by_id: int | None, seen: int | None = None
) -> ProductLabel:
    """Item number, GTIN, days, serving; the same again changes nothing.

    Raises BadInput for a number that another product has; Overtaken where somebody changed them since the
    page knew the list's history as far as `seen`.
    """
    with write():
        row = ProductLabel.objects.filter(product=product).first() or ProductLabel(product=product)
        columns = {key: values[key] for key in NUMBERS}
        if is_so(row, columns):
            return row
        check_unchanged(ProductLabel, seen, columns, product=product)
        for key, own in columns.items():
            setattr(row, key, own)
        row._history_user = Person.objects.filter(pk=by_id).first()
        try:
            with write():
                row.save()
        except IntegrityError:
            raise BadInput(
                "Item number or GTIN: another product has it; its own is right."
            ) from None
    return row
