"""Entering and changing products, what belongs to them, and what neighbours ask."""

from datetime import date
from decimal import Decimal
from typing import Any

from django.db import IntegrityError
from django.utils import timezone

from rooms.common.db.seen import Saw, check_seen, chosen_of, is_so
from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.pricebook.models import NeighbourPrice, Product
from rooms.shop.queries.dates import said_day
from rooms.staff.models import Person


def save_product(
    product: Product, data: dict[str, Any], by_id: int | None, seen: str | None = None
) -> Product:
    """Write the cleaned fields of a product form; its history keeps who changed what. The same again changes
    nothing.

    `seen`: the product as the page had it; Overtaken where somebody changed it since.
    """
    adders = data.pop("adders", None)
    with write():
        if product.pk is not None:
            now = Product.objects.get(pk=product.pk)
            is_same = adders is None or set(chosen_of(now, "adders")) == {one.pk for one in adders}
            if is_same and is_so(now, data):
                return now
            if seen is not None:
                check_seen(Saw(lambda: now, seen))
            product = now
        for name, value in data.items():
            setattr(product, name, value)
        product._history_user = Person.objects.filter(pk=by_id).first()
        product.save()
        if adders is not None:
            product.adders.set(adders)
    return product


def save_row(row: Any, data: dict[str, Any], by_id: int | None, seen: str) -> Any:
    """A family, an ending rule, a tray or a step; the same again changes nothing.

    Raises BadInput when its name is taken, Overtaken where somebody changed it since the page had it as
    `seen`.
    """
    try:
        with write():
            if row.pk is not None:
                row = type(row).objects.get(pk=row.pk)
                if is_so(row, data):
                    return row
                check_seen(Saw(lambda: row, seen))
            for name, value in data.items():
                setattr(row, name, value)
            row._history_user = Person.objects.filter(pk=by_id).first()
            row.save()
    except IntegrityError:
        taken = data.get("name") or data.get("code")
        raise BadInput(f"Name: “{taken}” is taken; another one is right.") from None
    return row


@write()
def note_neighbour(product: Product, data: dict[str, Any], by_id: int | None) -> NeighbourPrice:
    """What another shop was seen to ask; a day that is to come is no observation."""
    seen: date = data["seen_on"]
    today = timezone.localdate()
    if seen > today:
        raise BadInput(
            f"Seen on: {said_day(seen)} is to come; {said_day(today)} or before is right."
        )
    same = NeighbourPrice.objects.filter(
        product=product, place=data["place"], seen_on=seen, per=data["per"]
    ).first()
    amount: Decimal = data["amount"]
    if same is not None and same.amount == amount:
        return same
    return NeighbourPrice.objects.create(
        product=product,
        place=data["place"],
        amount=amount,
        per=data["per"],
        seen_on=seen,
        by_id=by_id,
    )
