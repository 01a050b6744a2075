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
    """Products on sale that share a name on different muscles: two queries, the second only
    where there are any.

    The same name on two animals is two names: the animal stands on the label.
    """
    by_name: dict[tuple[str, str], list[tuple[int, int | None]]] = {}
    rows = Product.objects.filter(is_sold=True)
    for pk, species, name, muscle in rows.values_list(
        "pk", "cut__species", "name", "cut__muscle_id"
    ):
        by_name.setdefault((species, " ".join(fold(name).split())), []).append((pk, muscle))
    shared = [some for some in by_name.values() if len({muscle for _, muscle in some}) > 1]
    if not shared:
        return []
    named = rows.select_related("cut__muscle").in_bulk([pk for some in shared for pk, _ in some])
    groups = [[named[pk] for pk, _ in some] for some in shared]
    return [SameName(products[0].name, products) for products in groups]
