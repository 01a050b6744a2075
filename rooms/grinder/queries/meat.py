"""What the meat in tubs and of batches is, as the core's `Meat`: what each source says of it, together."""

from collections import defaultdict
from collections.abc import Collection, Iterable
from dataclasses import replace
from decimal import Decimal
from typing import Any

from django.utils import timezone

from cutting.grinding.names import label_words
from cutting.meat import Meat, mixed
from cutting.quantities import ZERO, Unit, Weight, working
from cutting.tracing.lots import lot_key
from rooms.bench.queries.meat import bags_of_tests, meat_of_test
from rooms.cooler.models import Bag
from rooms.cooler.queries.meat import meat_of_bags
from rooms.grinder.models import Batch, Seasoning, TubIn
from rooms.grinder.queries.lots import entries_of
from rooms.grinder.queries.packed import stated_fat


def grams_in_tubs(outputs: Collection[int]) -> dict[int, Decimal]:
    """Return what lies, or lay, in tubs of each of these piles, in grams: one query."""
    found: dict[int, Decimal] = defaultdict(lambda: ZERO)
    rows = TubIn.objects.standing().filter(output__in=outputs)
    with working():
        for output, weight, unit in rows.values_list("output", "weight", "tub__unit"):
            found[output] += Weight(weight, Unit(unit)).to(Unit.G)
    return found


def meat_of_entries(entries: Iterable[TubIn], species: str) -> Meat:
    """Return what all that went into a tub is together: at most five queries, more where something was
    carried over from batch to batch."""
    some = list(entries)
    bags = _bags_of(some)
    batches: dict[Any, Meat] = {}
    found = []
    for one in some:
        parts = [meat_of_bags(bags[one.pk], species)]
        if one.from_test is not None:
            parts = [meat_of_test(one.from_test, bags[one.pk])]
        if one.from_batch is not None:
            key = one.from_batch_id
            batches[key] = batches.get(key) or meat_of_batch(one.from_batch)
            parts = [batches[key]]
        found.append(mixed(parts, species))
    return mixed(found, species)


def _bags_of(entries: Collection[TubIn]) -> dict[int, list[Bag]]:
    """Return the bags that entries are of: poured, opened for their test, or found by their lot, however
    it is written. Of two suppliers with one lot the entry's own."""
    tests = {one.from_test_id for one in entries if one.from_test_id}
    of_tests = bags_of_tests(tests)
    keys = {
        lot_key(lot["lot"])
        for one in entries
        if one.bag_id is None and one.from_test_id is None and one.from_batch_id is None
        for lot in one.lots
        if lot.get("lot")
    }
    by_key: dict[str, list[Bag]] = defaultdict(list)
    rows = Bag.objects.filter(lot_key__in=keys).select_related("delivery") if keys else ()
    for bag in rows:
        by_key[bag.lot_key].append(bag)
    found: dict[int, list[Bag]] = defaultdict(list)
    for one in entries:
        if one.bag is not None:
            found[one.pk].append(one.bag)
        elif one.from_test_id is not None:
            found[one.pk] += of_tests[one.from_test_id]
        elif one.from_batch_id is None:
            for lot in one.lots:
                found[one.pk] += _of_supplier(by_key[lot_key(lot.get("lot", ""))], lot)
    return found


def _of_supplier(bags: list[Bag], lot: dict[str, str]) -> list[Bag]:
    supplier = lot.get("supplier", "")
    own = [bag for bag in bags if bag.delivery.supplier == supplier]
    return own or ([] if supplier else bags)


def meat_of_batch(batch: Batch) -> Meat:
    """Return what a batch is: all that had gone into its tubs by then, its seasoning, its claim."""
    meat = mixed([meat_of_entries(entries_of(batch), batch.species)], batch.species)
    ingredients, allergens = seasoned(batch.species, batch.seasoning)
    names = dict.fromkeys([*ingredients, *meat.ingredients])
    return replace(
        meat,
        is_ground=True,
        product=str(batch.product_id or ""),
        ingredients=tuple(names),
        allergens=tuple(dict.fromkeys([*allergens, *meat.allergens])),
        lean="" if batch.seasoning_id else label_words("", stated_fat(batch)).removeprefix(", "),
        since=timezone.localdate(batch.begun_at),
    )


def seasoned(species: str, row: Seasoning | None) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Return the ingredients and the allergens of meat with a seasoning, the meat first; none without."""
    if row is None:
        return (), ()
    names = [one.strip() for one in row.ingredients.strip().rstrip(".").split(", ")]
    return (species, *names), tuple(row.allergens)
