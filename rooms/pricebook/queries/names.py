"""What the price book says about its names."""

from dataclasses import dataclass

from rooms.common.words import fold
from rooms.pricebook.models import Product


@dataclass(frozen=True)
class SameName:
    """One sales name, or one name it is also called by, that stands for more than one muscle."""

    name: str
    products: list[Product]


def same_names() -> list[SameName]:
    """Products on sale that share a name on different muscles, their synonyms too: two queries,
    the second only where there are any.

    The same name on two animals is two names: the animal stands on the label.
    """
    by_name: dict[tuple[str, str], dict[int, int | None]] = {}
    written: dict[tuple[str, str], str] = {}
    rows = Product.objects.filter(is_sold=True)
    for pk, species, name, synonyms, muscle in rows.values_list(
        "pk", "cut__species", "name", "cut__synonyms", "cut__muscle_id"
    ):
        for each in (name, *(synonyms or [])):
            key = (species, " ".join(fold(each).split()))
            by_name.setdefault(key, {})[pk] = muscle
            written.setdefault(key, each)
    shared = {key: some for key, some in by_name.items() if len(set(some.values())) > 1}
    if not shared:
        return []
    named = rows.select_related("cut__muscle").in_bulk(
        [pk for some in shared.values() for pk in some]
    )
    return [SameName(written[key], [named[pk] for pk in some]) for key, some in shared.items()]
