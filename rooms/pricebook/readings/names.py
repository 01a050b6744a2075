"""What the price book says about its names."""

from dataclasses import dataclass

from rooms.common.words import fold
from rooms.pricebook.models import Product


@dataclass(frozen=True)
class SameName:
    """One sales name that stands for more than one muscle."""

    name: str
    products: list[Product]


def same_names() -> list[SameName]:
    """Products on sale that share a name on different muscles: one query.

    The same name on two animals is two names: the animal stands on the label.
    """
    by_name: dict[tuple[str, str], list[Product]] = {}
    for product in Product.objects.filter(is_sold=True).select_related("cut__muscle"):
        key = (product.cut.species, " ".join(fold(product.name).split()))
        by_name.setdefault(key, []).append(product)
    return [
        SameName(products[0].name, products)
        for products in by_name.values()
        if len({product.cut.muscle_id for product in products}) > 1
    ]
