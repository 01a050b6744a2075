"""Prices for all that one piece gives: a ladder, locks, one factor for the target, endings.

Every line is in its own unit of sale: `weight` in that unit, money per that unit. Margins and
shares are fractions of 1. The factor is exact; endings apply afterwards, each product alone.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal
from itertools import groupby

from cutting.errors import BadValue
from cutting.prices.margins import (
    Convention,
    Loads,
    Whole,
    as_percent,
    exact_price,
    margin_of,
    margin_on,
    markup_as_margin,
    markup_of,
    under_floor,
)
from cutting.quantities import NOISE, ONE, ZERO, EndingRule, Unit, round_half_up, working


@dataclass(frozen=True, slots=True)
class PriceLine:
    """One product of the piece. `rung` is its place on the ladder, as a price."""

    name: str
    weight: Decimal
    cost: Decimal | None
    rung: Decimal | None
    endings: EndingRule
    per: Unit = Unit.LB
    locked: Decimal | None = None
    floor: Decimal | None = None
    loads: Loads = field(default_factory=Loads)
    adder: Decimal = ZERO
    """What is added to the price for tenderizing, tying and the like."""
    added: Decimal | None = ZERO
    """Labour and material of those steps, per unit; None when their minutes have no wage."""
    tax: Decimal = ZERO
    """Rate of the sales tax inside the price; margins are on the price without it."""
    target: Decimal | None = None
    """Its own target margin, where prices are made each alone."""
    bare: PriceLine | None = None
    """The same product without its value-adding steps; None where it has none."""

    def __post_init__(self) -> None:
        for name, value in (("weight", self.weight), ("tax", self.tax), ("adder", self.adder)):
            if value < 0:
                raise BadValue(f"{self.name}, {name}", f"{value}", "0 or more is right")
        if self.rung is not None and self.rung <= 0:
            raise BadValue(f"{self.name}, ladder", f"{self.rung}", "more than 0 is right")
        if self.locked is not None and self.locked <= 0:
            raise BadValue(f"{self.name}, price", f"{self.locked}", "more than 0 is right")

    @property
    def kept(self) -> Decimal:
        """What one of the price leaves after tax and after what shrink loses."""
        return (ONE - self.loads.shrink) / (ONE + self.tax)

    @property
    def beside(self) -> Decimal | None:
        """Labour, packaging and value-adding of all its weight; None when they are not known."""
        if self.added is None:
            return None
        return (self.loads.labour + self.loads.packaging + self.added) * self.weight

    @property
    def loaded(self) -> Decimal | None:
        """What one unit carries in all; None without a cost."""
        if self.cost is None or self.added is None:
            return None
        return self.loads.on(self.cost + self.added)


@dataclass(frozen=True, slots=True)
class Priced:
    """One product with its price. `margin` of sales and `markup` of its loaded cost.

    `exact` None: nothing says what it should cost. `why` tells of a floor.
    """

    line: PriceLine
    exact: Decimal | None
    price: Decimal | None
    margin: Decimal | None = None
    markup: Decimal | None = None
    loaded: Decimal | None = None
    why: str = ""

    @property
    def sales(self) -> Decimal:
        """What it brings after tax and shrink."""
        with working():
            return (self.price or ZERO) * self.line.weight * self.line.kept

    @property
    def ending_brings(self) -> Decimal:
        """What its ending (or its floor) adds to the sales, or takes."""
        if self.exact is None or self.price is None or self.line.locked is not None:
            return ZERO
        with working():
            return (self.price - max(self.exact, ZERO)) * self.line.weight * self.line.kept


@dataclass(frozen=True, slots=True)
class Built:
    """The piece with its prices. `cost` is the piece with labour, packaging and value-adding; None
    when minutes of a step have no wage, and then so is all that follows from it."""

    cost: Decimal | None
    lines: tuple[Priced, ...]
    factor: Decimal | None
    whole: Whole | None
    before_endings: Whole | None
    endings_bring: Decimal
    troubles: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Aim:
    """The target of the whole piece, of sales or of cost."""

    target: Decimal
    by: Convention = Convention.MARGIN

    @property
    def margin(self) -> Decimal:
        of_sales = markup_as_margin(self.target) if self.by is Convention.MARKUP else self.target
        if of_sales >= 1:
            raise BadValue("target", as_percent(of_sales), "less than 100 % of sales is right")
        return of_sales


def solve(cost: Decimal, lines: Sequence[PriceLine], aim: Aim) -> Built:
    """One factor on the ladder so that the piece meets the target with the locked prices as is.

    sales wanted = cost / (1 − target); factor = (sales wanted − locked) / ladder sales, all of it
    without value-adding steps: they are there to lift the margin, so what they add comes on top and
    the prices of the other products stay.
    A target the locked prices already pass leaves a factor of 0: the others then get the lowest
    price that their ending and floor allow, and `troubles` says so. So it does for a product that
    has no place on the ladder: it gets no price, and the others alone are solved for.
    """
    with working():
        total = _total(cost, lines)
        bare = [without_steps(line) for line in lines]
        whole = _total(cost, bare)
        fixed = base = ZERO
        for line in bare:
            if line.locked is not None:
                fixed += line.locked * line.weight * line.kept
            elif line.rung is not None:
                base += line.rung * line.weight * line.kept
        factor = None
        if whole is not None and base > 0:
            factor = max((whole / (ONE - aim.margin) - fixed) / base, ZERO)

        def exact(line: PriceLine) -> Decimal | None:
            if factor is None or line.rung is None:
                return None
            return line.rung * factor + line.adder

        built = _built(total, lines, exact, factor)
        return replace(built, troubles=(*_reach(built, aim, lines), *built.troubles))


def without_steps(line: PriceLine) -> PriceLine:
    """The product before its steps, a locked price less what they add to it."""
    if line.bare is None:
        return replace(line, adder=ZERO, added=ZERO)
    locked = line.locked
    if locked is not None and locked > line.adder:
        locked -= line.adder
    return replace(line.bare, locked=locked)


def _total(cost: Decimal, lines: Sequence[PriceLine]) -> Decimal | None:
    """The piece with what its products carry beside; None when that is not known of one."""
    beside = [line.beside for line in lines]
    known = [each for each in beside if each is not None]
    return cost + sum(known, ZERO) if len(known) == len(beside) else None


def each_alone(cost: Decimal, lines: Sequence[PriceLine]) -> Built:
    """Every product from its own cost and target, its adders on top; and the piece at that.

    Minutes and material of its steps join the cost, as in `solve`.
    """

    def exact(line: PriceLine) -> Decimal | None:
        if line.loaded is None or line.target is None:
            return None
        with working():
            return exact_price(line.loaded, line.target) * (ONE + line.tax) + line.adder

    with working():
        built = _built(_total(cost, lines), lines, exact, None)
        told = [
            f"{line.name} has no cost by this school, so it has no price."
            for line in lines
            if line.locked is None and line.cost is None
        ]
        return replace(built, troubles=(*_wageless(lines), *told, *built.troubles))


def at_prices(cost: Decimal, lines: Sequence[PriceLine]) -> Built:
    """What follows when every price stands as it is: all of `lines` locked or without a price."""
    with working():
        return _built(_total(cost, lines), lines, lambda line: None, None)


def _built(
    total: Decimal | None,
    lines: Sequence[PriceLine],
    exact: Callable[[PriceLine], Decimal | None],
    factor: Decimal | None,
) -> Built:
    priced = tuple(_priced(line, exact(line)) for line in lines)
    whole = None if total is None else _whole(total, priced)
    bring = sum((row.ending_brings for row in priced), ZERO)
    before = None
    if whole is not None and total is not None and whole.retail - bring > 0:
        before = _from_sales(whole.retail - bring, total)
    return Built(total, priced, factor, whole, before, bring, crossings(priced))


def _from_sales(sales: Decimal, cost: Decimal) -> Whole:
    return Whole(sales, sales - cost, margin_of(sales, cost), markup_of(sales, cost))


def _whole(total: Decimal, priced: Sequence[Priced]) -> Whole | None:
    """None while a product that has weight has no price, or when nothing sells."""
    if any(row.price is None and row.line.weight for row in priced):
        return None
    sales = sum((row.sales for row in priced), ZERO)
    return _from_sales(sales, total) if sales > 0 else None


def _priced(line: PriceLine, exact: Decimal | None) -> Priced:
    """Lock first; else the ending of the exact price, raised to the floor where it must be."""
    price, why = line.locked, ""
    if price is None and exact is not None:
        price = line.endings.apply(max(exact, ZERO))
    loaded = line.loaded
    if price is None or loaded is None:
        return Priced(line, exact, price, loaded=loaded)
    kept = margin_on(price, loaded, line.tax)
    if line.floor is not None and kept < line.floor - NOISE:
        if line.locked is not None:
            why = f"{as_percent(kept)} is under the floor of {as_percent(line.floor)}"
        else:
            why = under_floor(price, kept, line.floor)
            price = line.endings.up(exact_price(loaded, line.floor) * (ONE + line.tax))
    margin, markup = margin_on(price, loaded, line.tax), markup_of(price / (ONE + line.tax), loaded)
    return Priced(line, exact, price, margin, markup, loaded, why)


def _reach(built: Built, aim: Aim, lines: Sequence[PriceLine]) -> tuple[str, ...]:
    """Why the target is not met, or not by every product."""
    goal = as_percent(aim.margin)
    free = [line for line in lines if line.locked is None]
    if not lines:
        return ("Nothing of this test goes to the case, so there is nothing to price.",)
    told = [*_wageless(lines)]
    told += [
        f"No ladder for {line.name}: give it a rung, then solve. It has no price, and the others"
        " alone carry the piece."
        for line in free
        if line.rung is None and line.weight
    ]
    if built.factor is None and not told:
        got = "" if built.whole is None else f"; the piece makes {as_percent(built.whole.margin)}"
        why = "What is not locked has no weight" if free else "Every price is locked"
        told.append(f"{why}, so nothing can be solved for {goal}{got}.")
    if built.factor is not None and built.factor <= 0:
        told.append(
            f"The locked prices alone pass the target of {goal}: the others stand at the lowest"
            " price their ending and floor allow."
        )
    return tuple(told)


def _wageless(lines: Sequence[PriceLine]) -> tuple[str, ...]:
    return tuple(
        f"The minutes of {line.name}'s steps have no wage, so what it costs is not known."
        for line in lines
        if line.added is None
    )


def crossings(priced: Sequence[Priced]) -> tuple[str, ...]:
    """Where prices left the order of the ladder, per gram: each beside the highest it passes."""
    with working():
        rungs = sorted(
            (
                (row.line.rung / row.line.per.grams, row.price / row.line.per.grams, row)
                for row in priced
                if row.line.rung is not None and row.price is not None
            ),
            key=lambda found: found[0],
            reverse=True,
        )
    steps = [list(group) for _, group in groupby(rungs, key=lambda found: found[0])]
    told = []
    for i, step in enumerate(steps):
        dearest = max(step, key=lambda found: found[1])
        for higher in steps[:i]:
            above = min(higher, key=lambda found: found[1])
            if above[1] < dearest[1]:
                told.append(
                    f"{dearest[2].line.name} at {_shown(dearest[2])} costs more than"
                    f" {above[2].line.name} at {_shown(above[2])},"
                    " which stands above it on the ladder."
                )
                break
    return tuple(told)


def _shown(row: Priced) -> str:
    return f"{round_half_up(row.price or ZERO)} a {row.line.per}"


# --- dragging one price --------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Stop:
    """One allowed price of a product, and what the piece is at it."""

    price: Decimal
    built: Built


def stops(built: Built, at: int, each_way: int = 30) -> tuple[Stop, ...]:
    """The piece at each price the product may have, all other prices standing.

    `each_way` allowed prices below and above the present one. The page looks its figures up
    here while a price is dragged, so that there is one arithmetic.
    """
    row = built.lines[at]
    if row.price is None:
        return ()
    standing = [replace(one.line, locked=one.price) for one in built.lines]
    rule, found = row.line.endings, []
    with working():
        known = [line.beside for line in standing]
        if built.cost is None:
            return ()
        cost = built.cost - sum((beside for beside in known if beside is not None), ZERO)
        for price in rule.around(row.price, each_way):
            standing[at] = replace(row.line, locked=price)
            found.append(Stop(price, at_prices(cost, standing)))
    return tuple(found)


# --- value added ---------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Adder:
    """A step that adds value: tenderize, slice thin, cube, tie, season, skewer, stuff.

    `price`, `minutes` and `material` are per unit of weight sold; `pick_up` is the share of its
    weight that the step adds (marinade, string), below 0 when it loses some.
    """

    name: str
    price: Decimal = ZERO
    minutes: Decimal = ZERO
    material: Decimal = ZERO
    pick_up: Decimal = ZERO

    def __post_init__(self) -> None:
        for name in ("price", "minutes", "material"):
            if getattr(self, name) < 0:
                raise BadValue(f"{self.name}, {name}", str(getattr(self, name)), "0 or more")
        if not -1 < self.pick_up <= 1:
            raise BadValue(f"{self.name}, pick-up", as_percent(self.pick_up), "-99 % to 100 %")


def with_adders(line: PriceLine, adders: Sequence[Adder], rate: Decimal | None) -> PriceLine:
    """The product after its steps; `rate` is money per hour, None when no wage is known.

    Weight grows by each pick-up in turn, and its cost is spread over the weight that is sold.
    What the steps cost and what they add to the price both add up.
    """
    with working():
        grown = ONE
        for adder in adders:
            grown *= ONE + adder.pick_up
        minutes = sum((adder.minutes for adder in adders), ZERO)
        material = sum((adder.material for adder in adders), ZERO)
        added = None
        if line.added is not None and (rate is not None or not minutes):
            added = line.added + minutes * (rate or ZERO) / 60 + material
        return replace(
            line,
            weight=line.weight * grown,
            cost=None if line.cost is None else line.cost / grown,
            adder=line.adder + sum((adder.price for adder in adders), ZERO),
            added=added,
            bare=line if adders else None,
        )


def gain_of_steps(row: Priced) -> Decimal | None:
    """Return what a product's value-adding steps add to the piece's profit, their minutes and material
    taken off; None where it has none, no price, or minutes without a wage.

    Beside it stands the same product without them, at its price less their adders.
    """
    line, bare = row.line, row.line.bare
    if bare is None or row.price is None or line.beside is None or bare.beside is None:
        return None
    with working():
        before = (row.price - line.adder) * bare.weight * bare.kept - bare.beside
        return row.sales - line.beside - before


def adder_effect(
    cost: Decimal, lines: Sequence[PriceLine], plain: Sequence[PriceLine]
) -> Whole | None:
    """The piece at the same prices less the adders and without the steps, to set beside it.

    `lines` are locked at their prices; `plain` are the same products before `with_adders`. None
    where a price is no more than its adder.
    """
    without = []
    with working():
        for line, bare in zip(lines, plain, strict=True):
            price = (line.locked or ZERO) - line.adder
            without.append(replace(bare, locked=price if price > 0 else None))
    return at_prices(cost, without).whole
