"""What a shopper is told of a cut: how to cook it, how hot inside, for how many.

Grades are the shop's own notes. Temperatures: USDA FSIS, safe minimum internal temperatures.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from cutting.quantities import CONSTANTS, Unit, round_half_up, working
from cutting.shopper import Grade, Method, grades_of

METHOD_WORDS = {
    Method.GRILL: "grill",
    Method.PAN: "pan",
    Method.ROAST: "roast",
    Method.STIR_FRY: "stir-fry",
    Method.BRAISE: "braise",
    Method.SLOW: "low and slow",
}
SAFE = CONSTANTS["published"]["safe_minimum"]
DONENESS = CONSTANTS["common_practice"]["doneness"]


def best_words(grades: Mapping[Method, Grade]) -> str:
    """The ways it is best for, else those it is good for: "grill, pan"."""
    for least in (Grade.BEST, Grade.GOOD, Grade.FAIR):
        found = [METHOD_WORDS[method] for method, grade in grades.items() if grade == least]
        if found:
            return ", ".join(found)
    return ""


@dataclass(frozen=True, slots=True)
class Core:
    """How hot the middle must have been, in °F, and how long it rests then."""

    fahrenheit: int
    rest_minutes: int

    @property
    def celsius(self) -> Decimal:
        """The same in °C, to a tenth."""
        with working():
            return round_half_up(Decimal(self.fahrenheit - 32) * 5 / 9, 1)

    @property
    def words(self) -> str:
        rest = f", then {self.rest_minutes} min of rest" if self.rest_minutes else ""
        return f"{self.fahrenheit} °F ({self.celsius} °C) in the middle{rest}"


def core_of(*, is_ground: bool = False, is_cubed: bool = False) -> Core:
    """The safe minimum: ground meat, and cubed steaks whose outside was pressed inwards, at 160 °F;
    whole muscle at 145 °F with 3 minutes of rest (USDA FSIS)."""
    kind = SAFE["ground"] if is_ground or is_cubed else SAFE["whole"]
    return Core(int(kind["fahrenheit"]), int(kind["rest_minutes"]))


STEAKS = (Method.GRILL, Method.PAN)
PINK = ("beef", "lamb")
"""Animals whose steaks are eaten below well done. Common practice, no published source."""


def degrees_words(fahrenheit: int, unit: Unit) -> str:
    """A temperature in the degrees of a shop that weighs in that unit: "130 °F", "54 °C"."""
    if unit is Unit.LB:
        return f"{fahrenheit} °F"
    with working():
        return f"{round_half_up(Decimal(fahrenheit - 32) * 5 / 9, 0):f} °C"


def doneness_words(unit: Unit) -> str:
    """When a steak is taken off the fire, for every doneness. Common practice, no published source."""
    pulls = ", ".join(f"{name} {degrees_words(at, unit)}" for name, at in DONENESS["pull"])
    climbs = DONENESS["climbs"]
    more = f"{climbs} °F" if unit is Unit.LB else f"{round(climbs * 5 / 9)} °C"
    return f"off the fire at: {pulls}; it climbs about {more} while it rests"


def serves_words(serves: Decimal, unit: Unit) -> str:
    """For how many: "a lb serves 2 to 3". `serves` is for a pound; a kilogram serves more."""
    with working():
        many = serves if unit is Unit.LB else serves * unit.grams / Unit.LB.grams
    whole = int(many)
    rest = many - whole
    if rest < Decimal("0.25") and whole:
        text = f"{whole}"
    elif rest < Decimal("0.75") and whole:
        text = f"{whole} to {whole + 1}"
    else:
        text = f"{whole + 1}"
    return f"a {unit.value} serves {text}"


@dataclass(frozen=True, slots=True)
class Told:
    """What a card says beside names and story. `grades`: pairs of the way's words and its grade.

    `core`: from where it is safe. `done`: how one sees that it is done, in its own words; `doneness`:
    when a steak is taken off the fire. Either may be empty.
    """

    grades: tuple[tuple[str, Grade], ...]
    best: str
    core: Core
    serves: str
    done: str = ""
    doneness: str = ""

    @classmethod
    def of(
        cls,
        kept: Mapping[str, str],
        serves: Decimal | None,
        unit: Unit,
        *,
        done: str = "",
        species: str = "",
        is_ground: bool = False,
        is_cubed: bool = False,
        is_tenderized: bool = False,
    ) -> Told:
        grades = grades_of(kept)
        is_whole = not (is_ground or is_cubed or is_tenderized)
        is_steak = any(grades.get(way) == Grade.BEST for way in STEAKS)
        return cls(
            tuple((METHOD_WORDS[method], grade) for method, grade in grades.items()),
            best_words(grades),
            core_of(is_ground=is_ground, is_cubed=is_cubed),
            serves_words(serves, unit) if serves else "",
            done,
            doneness_words(unit) if is_steak and is_whole and species in PINK else "",
        )

    @property
    def is_cooked(self) -> bool:
        """Whether any way of cooking suits it: fat and bones are no dinner."""
        return bool(self.best)
