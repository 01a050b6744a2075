"""What the case wants against what the due bags give at their usual yield, plan by plan.

Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.cooler.ageing import Urgency
from cutting.errors import BadValue
from cutting.quantities import ZERO, Unit, Weight, working

BAR = 300.0
MOST_AT = 0.75
"""The most stands at this share of every bar, so that the bars of a list compare by eye."""


@dataclass(frozen=True, slots=True)
class Want:
    """A product with the least and the most the case should hold, in the shop's unit.

    `key` says which product it is: two may have one name, on two animals.
    """

    key: object
    product: str
    least: Decimal
    most: Decimal

    def __post_init__(self) -> None:
        if not 0 <= self.least <= self.most:
            raise BadValue(f"most of {self.product}", str(self.most), f"{self.least} or more")


@dataclass(frozen=True, slots=True)
class Choice:
    """One way to cut what is due of a piece: the usual share of each product by its key, of 1."""

    plan: str
    shares: Mapping[object, Decimal]


@dataclass(frozen=True, slots=True)
class DuePiece:
    """A piece with how much of it is due in the shop's unit, and its plans, the usual one first."""

    piece: str
    weight: Decimal
    choices: Sequence[Choice]


def due_weights(bags: Iterable[tuple[int, Weight, int]], unit: Unit) -> dict[int, Decimal]:
    """How much of each piece (by its key) can be cut, in `unit`. A bag past its end gives nothing:
    somebody decides before anybody cuts it."""
    found: dict[int, Decimal] = {}
    with working():
        for piece, weight, urgency in bags:
            if urgency > Urgency.PAST:
                found[piece] = found.get(piece, ZERO) + weight.to(unit)
    return found


@dataclass(frozen=True, slots=True)
class Gives:
    """What one plan of one piece gives of one wanted product, in the shop's unit."""

    piece: str
    plan: str
    weight: Decimal


@dataclass(frozen=True, slots=True)
class Answer:
    """One wanted product: what is cut already, every plan that gives it, what the first plans
    give together, and what is missing to the least or over the most."""

    want: Want
    have: Decimal
    gives: tuple[Gives, ...]
    usual: Decimal
    missing: Decimal
    over: Decimal


def compare(
    wants: Sequence[Want], due: Sequence[DuePiece], cut: Mapping[object, Decimal] | None = None
) -> list[Answer]:
    """Each wanted product against what is cut and what is due.

    `cut`: what came off the block already, by the product's key. A product that is not cut
    and that no plan gives is missing whole.
    """
    found = []
    with working():
        for want in wants:
            gives = tuple(
                Gives(one.piece, choice.plan, one.weight * choice.shares[want.key])
                for one in due
                for choice in one.choices
                if choice.shares.get(want.key)
            )
            usual = sum(
                (
                    one.weight * one.choices[0].shares.get(want.key, ZERO)
                    for one in due
                    if one.choices
                ),
                ZERO,
            )
            have = (cut or {}).get(want.key, ZERO)
            there = have + usual
            missing, over = max(want.least - there, ZERO), max(there - want.most, ZERO)
            found.append(Answer(want, have, gives, usual, missing, over))
    return found


@dataclass(frozen=True, slots=True)
class WantBar:
    """One product's bar in pixels: cut from 0 to `have`, due from there to `due`; the case wants
    `least` to `most`. `runs_off`: more than the bar can show."""

    width: float
    have: float
    due: float
    least: float
    most: float
    runs_off: bool

    @property
    def due_width(self) -> float:
        return round(self.due - self.have, 1)

    @property
    def band_width(self) -> float:
        return round(self.most - self.least, 1)


def want_bar(answer: Answer, width: float = BAR) -> WantBar:
    """The bar of one answer. The most stands at the same place whatever is wanted."""
    most = float(answer.want.most)
    scale = width * MOST_AT / most if most else 0.0
    have, there = float(answer.have) * scale, float(answer.have + answer.usual) * scale
    return WantBar(
        width=width,
        have=round(min(have, width), 1),
        due=round(min(there, width), 1),
        least=round(float(answer.want.least) * scale, 1),
        most=round(most * scale, 1),
        runs_off=there > width,
    )


def most_missing_first(answers: Sequence[Answer]) -> list[Answer]:
    """What is missing first, by the share of its least; the rest in the order given."""
    return sorted(answers, key=lambda one: -(one.missing / one.want.least) if one.missing else ZERO)
