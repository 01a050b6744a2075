"""The day: which bags are cut by which way. What is asked, and what a choice brings, in decimals.

The search itself is `cutting.planning.day_solver`; what it finds is worked out again here.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal

from cutting.errors import BadValue
from cutting.planning.hands import GRINDER, Block, Hands, Task
from cutting.planning.hands_solver import share_out
from cutting.quantities import ONE, ZERO, Unit, UnitPrice, Weight, working
from cutting.sheet.machines import Machine

Choice = tuple[int | None, ...]
"""For each bag the number of its way among all ways; None where it is not cut."""


@dataclass(frozen=True, slots=True)
class DayWay:
    """A way to cut a bag: minutes for each bag and for each pound, shares of each product.

    `part`: how much of the bag it takes, the rest goes back; minutes and shares are those of the
    part already, as told of the whole bag. `parts`: the ways it is mixed of, with their parts; empty
    for a plain one.
    """

    id: str
    name: str
    minutes: Decimal
    minutes_per_lb: Decimal
    outputs: tuple[tuple[str, Decimal], ...]
    species: str = ""
    machines: frozenset[str] = frozenset()
    waits: bool = False
    part: Decimal = ONE
    parts: tuple[tuple[str, Decimal], ...] = ()

    def __post_init__(self) -> None:
        if not 0 < self.part <= 1:
            raise BadValue(self.name, f"a part of {self.part}", "over 0, at most 1 is right")
        with working():
            total = sum((share for _, share in self.outputs), ZERO)
        if total > ONE:
            raise BadValue(self.name, f"shares of {total} in all", "at most 1 is right")

    def task(self, minutes: Decimal = ZERO) -> Task:
        """What it asks of the hands."""
        return Task(self.id, self.species, self.machines, self.waits, minutes)


@dataclass(frozen=True, slots=True)
class DayBag:
    """A bag with its cost; `ways`: the ids of those it may be cut by."""

    id: str
    weight: Weight
    cost: Decimal
    ways: tuple[str, ...]
    must: bool = False


@dataclass(frozen=True, slots=True)
class DayProduct:
    """What the case wants of a product: at hand, least and most, in the unit of its price.

    `over`: what a unit beyond the most is worth; `most` None: all of it sells.
    """

    name: str
    price: UnitPrice
    have: Decimal = ZERO
    least: Decimal = ZERO
    most: Decimal | None = None
    over: Decimal = ZERO

    def __post_init__(self) -> None:
        if self.price.amount <= 0:
            raise BadValue(f"{self.name}, price", f"{self.price.amount}", "more than 0 is right")
        if not 0 <= self.over <= self.price.amount:
            right = f"0 to its price, {self.price.amount}, is right"
            raise BadValue(f"{self.name}, over", f"{self.over}", right)
        if self.have < 0 or self.least < 0:
            raise BadValue(self.name, f"{min(self.have, self.least)}", "0 or more is right")
        if self.most is not None and not self.least <= self.most:
            wrong = f"least of {self.least} over the most, {self.most}"
            raise BadValue(self.name, wrong, "at most that is right")

    @property
    def unit(self) -> Unit:
        return self.price.per

    def sales(self, there: Decimal) -> Decimal:
        """What so much of it sells for."""
        with working():
            if self.most is None or there <= self.most:
                return there * self.price.amount
            return self.most * self.price.amount + (there - self.most) * self.over


@dataclass(frozen=True)
class Day:
    """`minutes` of hands in all; at least `least_products` different products made or at hand.

    `block`: who has those minutes, and what is lost at the block; None: hands are alike and
    nothing is lost.
    """

    minutes: Decimal
    ways: tuple[DayWay, ...]
    bags: tuple[DayBag, ...]
    products: tuple[DayProduct, ...]
    least_products: int = 0
    block: Block | None = None
    by_id: Mapping[str, int] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        if self.minutes < 0:
            raise BadValue("minutes", f"{self.minutes}", "0 or more is right")
        object.__setattr__(self, "by_id", {way.id: i for i, way in enumerate(self.ways)})

    def minutes_of(self, bag: DayBag, way: DayWay) -> Decimal:
        with working():
            return way.minutes + way.minutes_per_lb * bag.weight.to(Unit.LB)

    def cost_of(self, bag: DayBag, way: DayWay) -> Decimal:
        """What a bag costs by a way: less where a part of it goes back."""
        with working():
            return bag.cost * way.part

    def ground(self, made: Mapping[str, Decimal]) -> Decimal:
        """The minutes of the grinder for what is made; 0 where it stands still."""
        grind = self.block.grind if self.block else None
        if grind is None:
            return ZERO
        units = {one.name: one.unit for one in self.products}
        with working():
            pounds = sum(
                (
                    Weight(made[name], units[name]).to(Unit.LB)
                    for name in sorted(grind.products)
                    if name in made
                ),
                ZERO,
            )
            return grind.minutes + grind.minutes_per_lb * pounds if pounds else ZERO

    def tasks(self, choice: Choice, ground: Decimal) -> list[Task]:
        """The work of a choice by its ways, the grinder last."""
        minutes: dict[int, Decimal] = {}
        with working():
            for bag, number in zip(self.bags, choice, strict=True):
                if number is not None:
                    own = self.minutes_of(bag, self.ways[number])
                    minutes[number] = minutes.get(number, ZERO) + own
        found = [self.ways[number].task(own) for number, own in minutes.items()]
        if ground:
            found.append(
                Task(GRINDER, "", frozenset([Machine.GRINDER]), waits=False, minutes=ground)
            )
        return found

    def made_of(self, bag: DayBag, way: DayWay) -> dict[str, Decimal]:
        """What a bag gives of each product by a way, in the unit of the product's price."""
        return made_of(self.products, bag.weight, way)


def made_of(products: Sequence[DayProduct], weight: Weight, way: DayWay) -> dict[str, Decimal]:
    """What so much meat gives of each product by a way, in the unit of the product's price."""
    units = {one.name: one.unit for one in products}
    with working():
        return {name: weight.to(units[name]) * share for name, share in way.outputs}


@dataclass(frozen=True, slots=True)
class ProductLine:
    """A product after the plan: at hand, made, short of its least, over its most."""

    product: DayProduct
    made: Decimal
    short: Decimal
    over: Decimal


@dataclass(frozen=True, slots=True)
class DayFigures:
    """What one choice brings. `shortfall`: what is short, at the products' prices."""

    choice: Choice
    minutes: Decimal
    gross_profit: Decimal
    shortfall: Decimal
    products: tuple[ProductLine, ...]
    different: int
    """How many products are made or at hand."""
    hands: Hands | None = None
    """Who does what, where the day says who is there; None where nobody can."""
    firmed: Decimal = ZERO
    """Grams that are firmed in the freezer."""

    def order(self) -> tuple[Decimal, Decimal, Decimal, tuple[int, ...]]:
        """The smaller the better: shortfall, profit, minutes, then the earlier bags and ways."""
        early = tuple(10**6 if way is None else way for way in self.choice)
        return self.shortfall, -self.gross_profit, self.minutes, early


def day_figures(day: Day, choice: Choice) -> DayFigures:
    """A choice worked out, exactly."""
    made = {one.name: ZERO for one in day.products}
    minutes = cost = firmed = ZERO
    with working():
        for bag, number in zip(day.bags, choice, strict=True):
            if number is None:
                continue
            way = day.ways[number]
            minutes += day.minutes_of(bag, way)
            cost += day.cost_of(bag, way)
            firmed += bag.weight.to(Unit.G) * way.part if way.waits else ZERO
            for name, weight in day.made_of(bag, way).items():
                made[name] += weight
        ground = day.ground(made)
        hands = share_out(day.block, day.tasks(choice, ground)) if day.block else None
        minutes += ground + (hands.extra if hands else ZERO)
        lines, gained, shortfall, different = [], ZERO, ZERO, 0
        for one in day.products:
            there = one.have + made[one.name]
            short = max(one.least - there, ZERO)
            over = ZERO if one.most is None else max(there - one.most, ZERO)
            gained += one.sales(there) - one.sales(one.have)
            shortfall += short * one.price.amount
            different += there > 0
            lines.append(ProductLine(one, made[one.name], short, over))
        profit = gained - cost
        return DayFigures(
            choice, minutes, profit, shortfall, tuple(lines), different, hands, firmed
        )


def fits(day: Day, found: DayFigures) -> bool:
    """Whether a choice keeps to the minutes, the musts, the least number of products, and to those
    who are there."""
    block = day.block
    return (
        found.minutes <= day.minutes
        and (block is None or (found.hands is not None and _has_room(block, found)))
        and found.different >= day.least_products
        and all(
            way is not None or not bag.must for bag, way in zip(day.bags, found.choice, strict=True)
        )
    )


def _has_room(block: Block, found: DayFigures) -> bool:
    return block.freezer is None or found.firmed <= block.freezer.to(Unit.G)


def musts_do_not_fit(day: Day) -> list[tuple[DayBag, Decimal]]:
    """Bags that must be cut, each with its fastest minutes, where all of them together are more
    than there are; else none."""
    found = [
        (bag, min(day.minutes_of(bag, day.ways[day.by_id[one]]) for one in bag.ways))
        for bag in day.bags
        if bag.must
    ]
    with working():
        total = sum((minutes for _, minutes in found), ZERO)
    return found if total > day.minutes else []


@dataclass(frozen=True, slots=True)
class NotCut:
    """Why a bag is not cut: the word for a machine, and figures for a sentence."""

    bag: DayBag
    kind: str
    """`minutes`: too few are left; `hands`: nobody who may cut it has them; `freezer`: it would not
    find room to be firmed; `most`: what it gives is over the most; `cost`: it brings less than it
    cost; `later`: it would change nothing for the better today."""
    amount: Decimal


def why_not(day: Day, found: DayFigures) -> list[NotCut]:
    """For each bag that is not cut the reason, by its best way beside the plan."""
    rows = []
    left = day.minutes - found.minutes
    alike, block = replace(day, block=None), day.block
    found = day_figures(alike, found.choice)
    for number, (bag, own) in enumerate(zip(day.bags, found.choice, strict=True)):
        if own is not None:
            continue
        tried = [
            (
                day_figures(alike, _with(found.choice, number, day.by_id[one])),
                day.ways[day.by_id[one]],
            )
            for one in bag.ways
        ]
        best, way = min(tried, key=lambda pair: pair[0].order())
        gain = best.gross_profit - found.gross_profit
        minutes = day.minutes_of(bag, way)
        fastest = min(day.minutes_of(bag, way) for _, way in tried)
        if gain > 0 and fastest > left:
            rows.append(NotCut(bag, "minutes", fastest - left))
        elif gain > 0 and minutes > left:
            rows.append(NotCut(bag, "minutes", minutes - left))
        elif gain > 0 and block and not _has_room(block, best):
            rows.append(NotCut(bag, "freezer", ZERO))
        elif gain > 0 and block and day_figures(day, best.choice).hands is None:
            rows.append(NotCut(bag, "hands", ZERO))
        elif gain <= 0 and _is_over(best, found):
            rows.append(NotCut(bag, "most", -gain))
        elif gain < 0:
            rows.append(NotCut(bag, "cost", -gain))
        else:
            rows.append(NotCut(bag, "later", ZERO))
    return rows


def _is_over(best: DayFigures, found: DayFigures) -> bool:
    pairs = zip(best.products, found.products, strict=True)
    return any(one.over > other.over for one, other in pairs)


def _with(choice: Choice, number: int, way: int | None) -> Choice:
    return (*choice[:number], way, *choice[number + 1 :])
