"""What the manager asked for on the price page, as typed, and its values read."""

import re
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

from cutting.errors import BadValue
from cutting.prices.ladder import Aim
from cutting.prices.margins import Convention, retail_price
from cutting.quantities import HUNDRED, parse_decimal
from rooms.common.web.forms import tidy
from rooms.common.web.formsets import by_number
from rooms.pricebook.queries.product_terms import usual_target
from rooms.shop.queries.current import house

MOST_TARGET = {Convention.MARGIN: 95, Convention.MARKUP: 1900}
PIECE, EACH = "piece", "each"
ADDER = re.compile(r"adder-([0-9]+)-[0-9]+")
WAYS = [
    (PIECE, "one target, by the ladder"),
    (EACH, "each by its own target"),
]
LAST, COST = "last", "cost"
LADDERS = [(LAST, "last prices"), (COST, "costs by the school")]
BASES = [("pooled", "all tests of the plan"), ("alone", "this test")]
CONVENTIONS = [(Convention.MARGIN.value, "% of sales"), (Convention.MARKUP.value, "% of cost")]


@dataclass(frozen=True)
class Wish:
    """The whole page as it was sent. Prices, rungs, targets and locks by the output's id."""

    school: str = ""
    target: str = ""
    targets: dict[int, str] = field(default_factory=dict)
    locked: frozenset[int] = frozenset()
    prices: dict[int, str] = field(default_factory=dict)
    shown: dict[int, str] = field(default_factory=dict)
    way: str = ""
    by: str = ""
    basis: str = ""
    ladder: str = ""
    rungs: dict[int, str] = field(default_factory=dict)
    adders: dict[int, frozenset[int]] | None = None
    """None: each product's usual steps."""
    solves: bool = False
    """Asked to solve anew, whatever was held."""
    asked: str = ""
    """What the shown prices were solved for; a change of it solves anew."""
    is_held: bool = False
    """Prices stand as shown, because one of them was moved."""

    def steps_of(self, pk: int) -> frozenset[int]:
        """The value-adding steps of one output."""
        return (self.adders or {}).get(pk, frozenset())

    @property
    def chosen_way(self) -> str:
        return self.way if self.way in (PIECE, EACH) else house().price_way

    @property
    def convention(self) -> Convention:
        return Convention(self.by) if self.by in list(Convention) else Convention.MARGIN

    @property
    def signature(self) -> str:
        return "|".join(
            (
                self.school or house().school,
                self.target or usual_target(),
                self.chosen_way,
                self.convention.value,
                self.basis or "pooled",
                self.ladder or LAST,
                *(
                    f"{pk}={text}"
                    for group in (self.targets, self.rungs)
                    for pk, text in sorted(group.items())
                    if text.strip()
                ),
                *(
                    f"{pk}:{sorted(some)}"
                    for pk, some in sorted((self.adders or {}).items())
                    if some
                ),
            )
        )

    def moved(self, pk: int) -> bool:
        """A price was typed or dragged away from the one that was shown."""
        typed = self.prices.get(pk, "").strip()
        return bool(typed) and typed != self.shown.get(pk, typed)

    @property
    def holds(self) -> bool:
        """Whether prices stand as shown instead of being solved anew."""
        if self.chosen_way == EACH or self.solves or not self.shown:
            return False
        if self.asked and self.asked != self.signature:
            return False
        return self.is_held or any(self.moved(pk) for pk in self.shown)


def read_price(text: str, name: str = "Price") -> Decimal:
    return retail_price(parse_decimal(tidy(text), name), name)


def read_share(text: str, by: Convention = Convention.MARGIN) -> Decimal:
    """A typed percentage as a share."""
    value = parse_decimal(tidy(text.strip().removesuffix("%")), "Target")
    most = MOST_TARGET[by]
    if not 0 <= value <= most:
        of = "sales" if by is Convention.MARGIN else "cost"
        raise BadValue("Target", f"{text} %", f"from 0 to {most} % of {of} is right")
    return value / HUNDRED


def read_aim(wish: Wish) -> tuple[Aim | None, str]:
    """The target of the piece, or why it is none."""
    try:
        return Aim(read_share(wish.target or usual_target(), wish.convention), wish.convention), ""
    except BadValue as bad:
        return None, str(bad)


def wish_from(data: Any) -> Wish:
    """From a form's fields: target-7, lock-7, price-7, shown-7, rung-7, adder-7-2 …"""

    stepped = {int(found[1]) for name in data if (found := ADDER.fullmatch(name))}
    adders = {output: frozenset(by_number(data, f"adder-{output}")) for output in stepped}
    return Wish(
        school=data.get("school", ""),
        target=data.get("target", ""),
        targets=by_number(data, "target"),
        locked=frozenset(by_number(data, "lock")),
        prices=by_number(data, "price"),
        shown=by_number(data, "shown"),
        way=data.get("way", ""),
        by=data.get("by", ""),
        basis=data.get("basis", ""),
        ladder=data.get("ladder", ""),
        rungs=by_number(data, "rung"),
        adders=adders if "stepped" in data else None,
        solves=bool(data.get("solve")),
        asked=data.get("asked", ""),
        is_held=data.get("held") == "1",
    )
