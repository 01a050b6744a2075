"""What the case wants against what the due bags give at their usual yield, plan by plan.

Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.errors import BadValue
from cutting.quantities import ZERO, working


@dataclass(frozen=True, slots=True)
class Want:
    """A product with the least and the most the case should hold, in pounds.

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
    """A piece with the pounds of it that are due, and its plans, the usual one first."""

    piece: str
    pounds: Decimal
    choices: Sequence[Choice]


@dataclass(frozen=True, slots=True)
class Gives:
    """What one plan of one piece gives of one wanted product, in pounds."""

    piece: str
    plan: str
    pounds: Decimal


@dataclass(frozen=True, slots=True)
class Answer:
    """One wanted product: every plan that gives it, what the first plans give together, and
    what is missing to the least or over the most."""

    want: Want
    gives: tuple[Gives, ...]
    usual: Decimal
    missing: Decimal
    over: Decimal

    @property
    def words(self) -> str:
        if self.missing:
            return f"{self.missing:.1f} lb missing"
        return f"{self.over:.1f} lb over the most" if self.over else "enough"


def compare(wants: Sequence[Want], due: Sequence[DuePiece]) -> list[Answer]:
    """Each wanted product against what is due; a product no plan gives is missing whole."""
    found = []
    with working():
        for want in wants:
            gives = tuple(
                Gives(one.piece, choice.plan, one.pounds * choice.shares[want.key])
                for one in due
                for choice in one.choices
                if choice.shares.get(want.key)
            )
            usual = sum(
                (
                    one.pounds * one.choices[0].shares.get(want.key, ZERO)
                    for one in due
                    if one.choices
                ),
                ZERO,
            )
            missing, over = max(want.least - usual, ZERO), max(usual - want.most, ZERO)
            found.append(Answer(want, gives, usual, missing, over))
    return found
