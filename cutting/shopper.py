"""Which cut for a dinner: how each suits a way of cooking, how much of it to buy, what it comes to.

Grades are the shop's own notes; servings a pound are common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import ROUND_CEILING, Decimal
from enum import IntEnum, StrEnum

from cutting.errors import BadValue
from cutting.quantities import HUNDRED, Unit, UnitPrice, Weight, tray_sticker, working

MOST_PEOPLE = 500


class Method(StrEnum):
    """A way to cook, in the order they are shown."""

    GRILL = "grill"
    PAN = "pan"
    ROAST = "roast"
    STIR_FRY = "stir-fry"
    BRAISE = "braise"
    SLOW = "slow"


class Grade(IntEnum):
    """How a cut suits a way of cooking."""

    NOT_SUITED = 0
    FAIR = 1
    GOOD = 2
    BEST = 3

    @property
    def words(self) -> str:
        return self.name.replace("_", " ").lower()


GRADES = {grade.words: grade for grade in Grade}


def grades_of(kept: Mapping[str, str]) -> dict[Method, Grade]:
    """A grade for each way of cooking, from what is kept: {"grill": "best"}. Others are not suited.

    Raises BadValue for a way or a grade that is none.
    """
    for method, grade in kept.items():
        if method not in list(Method):
            raise BadValue("grades", f"“{method}” is no way of cooking", ", ".join(Method))
        if grade not in GRADES:
            raise BadValue("grades", f"{method}: “{grade}” is no grade", ", ".join(GRADES))
    return {method: GRADES[kept.get(method, Grade.NOT_SUITED.words)] for method in Method}


def to_buy(people: int, serves: Decimal, unit: Unit) -> Decimal:
    """How much raw meat for so many, in `unit`, up to the next hundredth.

    `serves`: people a pound serves. Raises BadValue for nobody or more than MOST_PEOPLE.
    """
    if not 1 <= people <= MOST_PEOPLE:
        raise BadValue("People", f"{people}", f"1 to {MOST_PEOPLE} is right")
    with working():
        weight = Weight(Decimal(people) / serves, Unit.LB).to(unit)
        return (weight * HUNDRED).to_integral_value(ROUND_CEILING) / HUNDRED


@dataclass(frozen=True, slots=True)
class Offer:
    """A cut that is sold. `price` is None where it has none yet, `serves` where nobody said."""

    key: object
    grades: Mapping[Method, Grade]
    serves: Decimal | None
    price: UnitPrice | None


@dataclass(frozen=True, slots=True)
class Answer:
    """One cut for the dinner: its grade, what to buy in the unit it is priced by, what it costs."""

    key: object
    grade: Grade
    weight: Decimal | None
    unit: Unit
    cost: Decimal | None

    def a_head(self, people: int) -> Decimal | None:
        if self.cost is None:
            return None
        with working():
            return self.cost / people


def dinner(offers: Iterable[Offer], method: Method, people: int, unit: Unit) -> list[Answer]:
    """The cuts that suit a way of cooking, the best first, then the one that costs least a head.

    `unit` is for what has no price. What is not suited is left out.
    """
    found = []
    for offer in offers:
        grade = offer.grades[method]
        if grade is Grade.NOT_SUITED:
            continue
        per = offer.price.per if offer.price else unit
        weight = to_buy(people, offer.serves, per) if offer.serves else None
        cost = tray_sticker(offer.price.amount, weight) if offer.price and weight else None
        found.append(Answer(offer.key, grade, weight, per, cost))
    return sorted(found, key=lambda one: (-one.grade, one.cost is None, one.cost or 0))
