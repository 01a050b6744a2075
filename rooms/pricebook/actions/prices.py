"""Setting prices: each change of the book is a new dated version, the old ones stay."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.utils import timezone

from cutting.errors import BadValue
from cutting.prices.margins import retail_price
from cutting.quantities import UnitPrice
from rooms.common.db.numbers import next_numbers
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.pricebook.models import Price, Product, Version
from rooms.shop.queries.dates import said_day

FARTHEST_DAYS = 366


@dataclass(frozen=True)
class NewPrice:
    """A price and where it comes from. What is None or empty is taken from the `Origin`."""

    product: Product
    amount: Decimal
    cost: Decimal | None = None
    paid: UnitPrice | None = None
    school: str = ""
    test: UUID | None = None
    test_number: int | None = None
    basis_id: int | None = None
    renews: bool = False
    """Written even where nothing differs: the ground of the price that stands has moved."""


@dataclass(frozen=True)
class Origin:
    """Who sets prices, why, from which test, by which school, from which day on (today)."""

    by_id: int | None
    test: UUID | None = None
    test_number: int | None = None
    school: str = ""
    kind: str = Version.Kind.HAND
    why: str = ""
    effective_on: date | None = None
    basis_id: int | None = None
    undoes: Version | None = None
    digest: str = ""
    seen: int | None = None
    """The newest price of the book that the page knew, by `newest_price`; None where no page sent it."""


def newest_price() -> int:
    """Return the number of the newest price in the book; 0 for none."""
    return Price.objects.order_by("-pk").values_list("pk", flat=True).first() or 0


def _refuse_older(made: Sequence[Price], seen: int | None) -> None:
    """Raise Refused where one of these products has a price that the page did not know."""
    if seen is None:
        return
    products = [price.product_id for price in made]
    since = Price.objects.filter(product__in=products, pk__gt=seen).select_related("product")
    told = [
        f"{price.product} {price.amount:f} from {said_day(price.effective_on)}" for price in since
    ]
    if told:
        raise Refused(
            f"Prices set since this page was shown: {', '.join(told)}. Nothing was saved; save again to put"
            " yours in their place."
        )


def set_prices(prices: Sequence[NewPrice], origin: Origin, at: Any = None) -> Version | None:
    """Write the prices that differ from those of their day as one version; None when none does.

    Raises BadInput for a price that no tag can show, or a day that lies behind or over a year
    ahead; Refused where somebody set another price of a product since the page was shown.
    """
    for price in prices:
        try:
            retail_price(price.amount, f"Price of {price.product}")
        except BadValue as bad:
            raise BadInput(f"{bad}.") from bad
    now = at or timezone.now()
    day = effective_day(origin.effective_on, timezone.localtime(now).date())
    with write():
        holding = Price.objects.current(day, products=[p.product.pk for p in prices])
        current = {price.product_id: price for price in holding}
        made = [
            _row(price, origin, now, day)
            for price in prices
            if _differs(current.get(price.product.pk), price, origin)
        ]
        if not made:
            return None
        _refuse_older(made, origin.seen)
        version = new_version(origin, now, day)
        for row in made:
            row.version = version
        Price.objects.bulk_create(made)
    return version


def new_version(origin: Origin, now: Any, day: date) -> Version:
    """The next version, without its prices. Inside a write block."""
    return Version.objects.create(
        number=next_numbers(Version)[0],
        kind=origin.kind,
        why=origin.why,
        school=origin.school,
        made_at=now,
        made_by_id=origin.by_id,
        effective_on=day,
        undoes=origin.undoes,
        digest=origin.digest,
    )


def differ(prices: Sequence[NewPrice], origin: Origin) -> bool:
    """Whether `set_prices` would write anything: one query."""
    day = effective_day(origin.effective_on, timezone.localdate())
    holding = Price.objects.current(day, products=[p.product.pk for p in prices])
    current = {price.product_id: price for price in holding}
    return any(_differs(current.get(price.product.pk), price, origin) for price in prices)


def effective_day(asked: date | None, today: date) -> date:
    if asked is None:
        return today
    if not today <= asked <= today + timedelta(days=FARTHEST_DAYS):
        raise BadInput(
            f"From: {said_day(asked)} is not right here; today or a day within a year is right."
        )
    return asked


def _differs(now: Price | None, wanted: NewPrice, origin: Origin) -> bool:
    """An undo also brings back what a price rested on, so then all of that counts."""
    if now is None or now.amount != wanted.amount or wanted.renews:
        return True
    if origin.undoes is not None:
        grounds = (now.cost, now.paid, now.school, now.from_test, now.basis_id)
        return grounds != (wanted.cost, wanted.paid, wanted.school, wanted.test, wanted.basis_id)
    moved = wanted.paid is not None and now.paid != wanted.paid
    return moved or now.from_test != (wanted.test or origin.test)


def _row(price: NewPrice, origin: Origin, now: Any, day: date) -> Price:
    return Price(
        product=price.product,
        amount=price.amount,
        effective_on=day,
        made_at=now,
        made_by_id=origin.by_id,
        from_test=price.test or origin.test,
        from_test_number=price.test_number or origin.test_number,
        school=price.school or origin.school,
        cost=price.cost,
        basis_id=price.basis_id or origin.basis_id,
        paid_amount=price.paid.amount if price.paid else None,
        paid_per=price.paid.per.value if price.paid else "",
    )


def carried(old: Price | None, product: Product, amount: Decimal) -> NewPrice:
    """A price on the cost that the old one rests on; `amount` may differ from it."""
    if old is None:
        return NewPrice(product, amount)
    return NewPrice(
        product,
        amount,
        old.cost,
        old.paid,
        old.school,
        old.from_test,
        old.from_test_number,
        old.basis_id,
    )
