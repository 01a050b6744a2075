"""Products taken from the catalog's cuts, many at once, with their first prices."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from simple_history.utils import bulk_create_with_history

from rooms.catalog.models import Cut
from rooms.common.db.lengths import must_fit
from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.pricebook.actions.prices import NewPrice, Origin, set_prices
from rooms.pricebook.models import Product, Version
from rooms.shop.queries.current import house
from rooms.staff.models import Person


@dataclass(frozen=True)
class NewProduct:
    """A cut as the shop will sell it, or value it as a by-product where it has a `worth` alone."""

    cut: Cut
    name: str = ""
    price: Decimal | None = None
    worth: Decimal | None = None
    tray: Decimal | None = None
    per: str = ""
    """Unit of price and tray; empty for the shop's."""


@dataclass(frozen=True)
class Taken:
    """What was made, and the cuts that were products already and are left as they are."""

    products: list[Product]
    version: Version | None
    left: list[str]


def take_products(
    rows: Sequence[NewProduct], by_id: int | None, *, kind: str = Version.Kind.HAND
) -> Taken:
    """All of them or none. The same rows again make nothing."""
    _one_each(rows)
    with write():
        there = {
            product.cut_id: product.name
            for product in Product.objects.filter(cut__in=[row.cut for row in rows])
        }
        new = [row for row in rows if row.cut.pk not in there]
        products = [_product(row) for row in new]
        for product in products:
            must_fit(product)
        by = Person.objects.filter(pk=by_id).first()
        made = bulk_create_with_history(products, Product, default_user=by) if products else []
        prices = [
            NewPrice(product, row.price)
            for product, row in zip(made, new, strict=True)
            if row.price is not None
        ]
        origin = Origin(by_id, kind=kind, why="first price list")
        version = set_prices(prices, origin) if prices else None
    return Taken(list(made), version, list(there.values()))


def _one_each(rows: Sequence[NewProduct]) -> None:
    seen: dict[int, str] = {}
    for row in rows:
        if row.cut.pk in seen:
            raise BadInput(
                f"Cut: “{seen[row.cut.pk]}” and “{row.name or row.cut.shown_name}” are both"
                f" {row.cut.shown_name}; one product a cut is right."
            )
        seen[row.cut.pk] = row.name or row.cut.shown_name


def _product(row: NewProduct) -> Product:
    per = row.per or house().unit.value
    return Product(
        cut=row.cut,
        name=" ".join(row.name.split()) or row.cut.shown_name,
        per=per,
        tray_unit=per,
        tray_weight=row.tray,
        counter=row.cut.counter,
        transfer=row.worth,
        is_sold=row.price is not None or row.worth is None,
    )
