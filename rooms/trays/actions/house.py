"""How the shop labels, and the numbers of its products."""

from typing import Any

from django.db import IntegrityError, transaction

from rooms.common.errors import BadInput, Refused
from rooms.common.lengths import must_fit
from rooms.common.seen import state_of
from rooms.pricebook.models import Product
from rooms.staff.models import Person
from rooms.trays.models import LabelRules, ProductLabel


def change_label_rules(
    values: dict[str, Any], by_id: int | None, seen: str | None = None
) -> LabelRules:
    """The same values again change nothing. `seen`: the rules as the page had them; Refused where somebody
    changed them since."""
    with transaction.atomic():
        row = LabelRules.objects.select_for_update().first() or LabelRules()
        if not row._state.adding and all(getattr(row, key) == own for key, own in values.items()):
            return row
        if seen is not None and seen != state_of(row):
            raise Refused(
                "Labels: somebody changed them since this page was shown. What you typed is here"
                " still; look at the page again, then save."
            )
        for key, own in values.items():
            setattr(row, key, own)
        must_fit(row)
        row._history_user = Person.objects.filter(pk=by_id).first()
        row.save()
    return row


def number_product(product: Product, values: dict[str, Any], by_id: int | None) -> ProductLabel:
    """Item number, GTIN, days, serving. Raises BadInput for a number that another product has."""
    with transaction.atomic():
        row = ProductLabel.objects.filter(product=product).first() or ProductLabel(product=product)
        for key in ("item", "gtin", "keeps_days", "serving"):
            setattr(row, key, values[key])
        row._history_user = Person.objects.filter(pk=by_id).first()
        try:
            with transaction.atomic():
                row.save()
        except IntegrityError:
            raise BadInput(
                "Item number or GTIN: another product has it; its own is right."
            ) from None
    return row
