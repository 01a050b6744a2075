"""Setting prices: each is a new dated row, the old ones stay."""

from dataclasses import dataclass
from decimal import Decimal
from uuid import UUID

from django.utils import timezone

from rooms.common.errors import BadInput
from rooms.pricebook.models import Price, Product


@dataclass(frozen=True)
class NewPrice:
    product: Product
    amount: Decimal
    cost: Decimal | None = None


@dataclass(frozen=True)
class Origin:
    """Who set prices, from which test, by which school."""

    by_id: int | None
    test: UUID | None = None
    test_number: int | None = None
    school: str = ""


def set_prices(prices: list[NewPrice], origin: Origin, at=None) -> list[Price]:
    """Write the prices that differ from the current ones. BadInput for a price of nothing."""
    for price in prices:
        if price.amount <= 0:
            raise BadInput(
                f"Price of {price.product}: {price.amount} is not a price; more than 0 is right."
            )
    products = [price.product for price in prices]
    current = {p.product_id: p for p in Price.objects.filter(product__in=products).current()}
    now = at or timezone.now()
    return Price.objects.bulk_create(
        Price(
            product=price.product, amount=price.amount, made_at=now, made_by_id=origin.by_id,
            from_test=origin.test, from_test_number=origin.test_number, school=origin.school,
            cost=price.cost,
        )
        for price in prices
        if price.product.pk not in current
        or current[price.product.pk].amount != price.amount
        or current[price.product.pk].from_test != origin.test
    )  # fmt: skip
