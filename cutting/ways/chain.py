"""Plans that go on: an output that is a whole piece is cut on by a plan of that piece, to any depth.

Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Generic, TypeVar

from cutting.errors import BadValue
from cutting.quantities import ONE, working

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Given(Generic[T]):
    """What a plan gives: its share of what the plan cuts, and the plan that cuts it on, if any."""

    name: str
    share: Decimal
    row: T
    goes_on: str = ""


@dataclass(frozen=True, slots=True)
class Carried(Generic[T]):
    """An output where the cutting ends. `share`: of what the first plan cuts."""

    name: str
    """Its own, after those of the pieces it comes out of: "Short loin: Porterhouse"."""
    share: Decimal
    given: Given[T]


@dataclass(frozen=True, slots=True)
class CarriedOn(Generic[T]):
    outputs: tuple[Carried[T], ...]
    cut: tuple[tuple[str, Decimal], ...]
    """Every plan on the way with its share of what the first one cuts; one plan may be there twice."""


def carry_on(plan: str, plans: Mapping[str, Sequence[Given[T]]]) -> CarriedOn[T]:
    """Follow a plan into the plans its outputs go on into. `plans`: what each gives, by its key; an
    output whose plan is not there ends as it is.

    Raises BadValue where the way comes back to itself.
    """
    outputs: list[Carried[T]] = []
    cut: list[tuple[str, Decimal]] = []

    def follow(key: str, share: Decimal, before: str, way: tuple[str, ...]) -> None:
        if key in way:
            wrong = f"{' → '.join((*way, key))} comes back to itself"
            raise BadValue(f"plan {key}", wrong, "a plan that ends is right")
        cut.append((key, share))
        for given in plans[key]:
            with working():
                own = share * given.share
            name = f"{before}{given.name}"
            if given.goes_on in plans:
                follow(given.goes_on, own, f"{name}: ", (*way, key))
            else:
                outputs.append(Carried(name, own, given))

    follow(plan, ONE, "", ())
    return CarriedOn(tuple(outputs), tuple(cut))


def comes_back(links: Mapping[str, Iterable[str]]) -> tuple[str, ...]:
    """Return the first way through these links that comes back to itself, from its start to the same
    again; empty where none does. `links`: the plans that each goes on into."""
    ends: set[str] = set()

    def follow(key: str, way: tuple[str, ...]) -> tuple[str, ...]:
        if key in way:
            return (*way[way.index(key) :], key)
        if key in ends:
            return ()
        for other in links.get(key, ()):
            found = follow(other, (*way, key))
            if found:
                return found
        ends.add(key)
        return ()

    return next((found for key in links if (found := follow(key, ()))), ())
