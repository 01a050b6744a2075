"""Numbers typed for the ad planner and for what to buy, and what pieces give as a rule."""

from dataclasses import dataclass

from cutting.errors import BadValue
from cutting.planning import buying
from cutting.planning.buying import TestsGave
from rooms.bench.models import CuttingTest
from rooms.bench.queries.pool import MOST_TESTS, balanced
from rooms.pricebook.models import Price, Product

MOST_GROUPS_TESTS = 400
"""Groups are made of the newest so many approved tests."""


@dataclass(frozen=True)
class Group:
    """Tests of one piece by one plan, of one supplier or grade or of all of them."""

    key: str
    name: str
    tests: list[CuttingTest]


def groups() -> list[Group]:
    """Every group there is, split by supplier and by grade where it has several: two queries."""
    rows = (
        CuttingTest.objects.finished()
        .exclude(approved_at=None)
        .prefetch_related("bags__bag")
        .order_by("-number")[:MOST_GROUPS_TESTS]
    )
    found: dict[tuple[str, str, str, str], list[CuttingTest]] = {}
    for test in rows:
        found.setdefault((test.piece_name, test.plan_name, "", ""), []).append(test)
        if test.supplier:
            found.setdefault((test.piece_name, test.plan_name, test.supplier, ""), []).append(test)
        for grade in {row.bag.grade for row in test.bags.all() if row.bag.grade}:
            found.setdefault((test.piece_name, test.plan_name, "", grade), []).append(test)
    return [
        Group("|".join(key), _name_of(*key, len(tests)), tests[:MOST_TESTS])
        for key, tests in sorted(found.items())
    ]


def _name_of(piece: str, plan: str, supplier: str, grade: str, count: int) -> str:
    whose = f", {supplier}" if supplier else f", {grade}" if grade else ""
    return f"{piece}{whose}: {plan} ({count} test{'s' if count > 1 else ''})"


def gave(group: Group) -> TestsGave | None:
    """What its tests gave that come back to their weight; None if none does."""
    rows = balanced(group.tests)
    return buying.gave([one.weighed for one in rows]) if rows else None


def sold_with_costs() -> list[tuple[Product, Price]]:
    """Products on sale with a price, and its cost where it has one: one query."""
    current = Price.objects.current().select_related("product__cut")
    return sorted(
        ((price.product, price) for price in current if price.product.is_sold),
        key=lambda pair: (pair[0].cut.species, pair[0].name),
    )


def plain_message(bad: BadValue) -> str:
    return f"{bad.field}: {bad.wrong}; {bad.right}."
