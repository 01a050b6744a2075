"""What other rooms have recorded that a change of settings would touch. Each room says it itself."""

from collections.abc import Callable
from dataclasses import dataclass
from zoneinfo import ZoneInfo

Moved = Callable[[ZoneInfo, ZoneInfo], int]


@dataclass(frozen=True)
class Kept:
    """`words`: what it is, for one and for many. `count`: how many there are.

    `in_currency`: its amounts carry no currency of their own, so that another one would falsify
    them. `in_unit`: it goes on in the unit it began with. `moved`: how many would fall on another
    day in another time zone.
    """

    one: str
    many: str
    count: Callable[[], int]
    in_currency: bool = False
    in_unit: bool = False
    moved: Moved | None = None

    def said(self, number: int) -> str:
        return f"{number:,} {self.one if number == 1 else self.many}"


KEPT: list[Kept] = []


def tell(*kept: Kept) -> None:
    """A room says, once and when it starts, what it keeps."""
    KEPT.extend(one for one in kept if one not in KEPT)
