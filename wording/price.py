"""The pencil view of prices: how a price, a margin and the piece's factor were worked out."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

from cutting.prices.ladder import Built, Priced, without_steps
from cutting.prices.margins import Whole
from cutting.quantities import ONE, ZERO, round_half_up, tray_sticker, working
from wording.pencil import Pencil, Step, money, percent, pounds


def factor_words(value: Decimal) -> str:
    return f"{round_half_up(value, 4)}"


def price_pencil(row: Priced, factor: Decimal | None, tray: Decimal | None) -> Pencil:
    """One product: its cost and loads, its exact price, ending, margin, mark-up, sticker.

    `tray`: a usual tray in the product's unit.
    """
    line, per = row.line, row.line.per
    steps = [*_cost_steps(row), *_exact_steps(row, factor)]
    if row.price is not None:
        if line.locked is not None:
            steps.append(Step("price = locked", money(row.price)))
        elif row.exact is not None:
            steps.append(
                Step(
                    "price = the exact price with its ending"
                    + (", kept over the floor" if row.why else ""),
                    f"{money(row.exact)} → {money(row.price)}",
                )
            )
        steps += _margin_steps(row)
        if tray is not None:
            size = pounds(tray, per)
            steps.append(
                Step(
                    "tray sticker = price × a usual tray",
                    f"{money(row.price)} × {size} = {money(tray_sticker(row.price, tray))}",
                )
            )
    missing = "" if row.price is not None else "No price: it has no rung and no cost."
    return Pencil(f"{line.name}, a {per}", tuple(steps), missing)


def _cost_steps(row: Priced) -> list[Step]:
    line = row.line
    if line.cost is None or row.loaded is None:
        return []
    steps = [Step(f"cost a {line.per}, by the chosen school", money(line.cost))]
    loads = [
        ("labour", line.loads.labour),
        ("packaging", line.loads.packaging),
        ("value added", line.added),
    ]
    known = [(name, value) for name, value in loads if value]
    if not known and not line.loads.shrink:
        return steps
    names = " + ".join(["cost", *(name for name, _ in known)])
    numbers = " + ".join([money(line.cost), *(money(value) for _, value in known)])
    if line.loads.shrink:
        names, numbers = f"({names}) ÷ (1 − shrink)", f"({numbers}) ÷ (1 − {line.loads.shrink})"
    return [*steps, Step(f"loaded cost = {names}", f"{numbers} = {money(row.loaded)}")]


def _exact_steps(row: Priced, factor: Decimal | None) -> list[Step]:
    line = row.line
    if row.exact is None or line.locked is not None:
        return []
    adder = f" + {money(line.adder)}" if line.adder else ""
    if factor is not None and line.rung is not None:
        words = "exact price = rung × factor" + (" + adders" if adder else "")
        numbers = f"{money(line.rung)} × {factor_words(factor)}{adder}"
        return [Step(words, f"{numbers} = {money(row.exact)}")]
    if line.target is None:
        return []
    words, carried = "exact price = loaded cost ÷ (1 − target)", line.loads.on(line.cost or ZERO)
    numbers = f"{money(carried)} ÷ (1 − {percent(line.target)})"
    if line.tax:
        words, numbers = words + " × (1 + tax)", f"{numbers} × {ONE + line.tax}"
    return [Step(words + (" + adders" if adder else ""), f"{numbers}{adder} = {money(row.exact)}")]


def _margin_steps(row: Priced) -> list[Step]:
    if row.loaded is None or row.price is None or row.margin is None:
        return []
    with working():
        net = row.price / (ONE + row.line.tax)
    steps = []
    if row.line.tax:
        numbers = f"{money(row.price)} ÷ {ONE + row.line.tax} = {money(net)}"
        steps.append(Step("price without its tax", numbers))
    gain = f"({money(net)} − {money(row.loaded)})"
    steps.append(
        Step(
            "margin, of sales = (price − loaded cost) ÷ price",
            f"{gain} ÷ {money(net)} = {percent(row.margin)}",
        )
    )
    if row.markup is not None:
        steps.append(
            Step(
                "mark-up, of cost = (price − loaded cost) ÷ loaded cost",
                f"{gain} ÷ {money(row.loaded)} = {percent(row.markup)}",
            )
        )
    return steps


def piece_pencil(built: Built, target: Decimal | None) -> Pencil:
    """The whole piece: what it must bring, the factor, the margin, what the endings brought."""
    cost = built.cost
    if cost is None:
        return Pencil("The whole piece", (), "Minutes of a step have no wage, so there is no cost.")
    steps = []
    with working():
        beside = sum((row.line.beside or ZERO for row in built.lines), ZERO)
        meat = cost - beside
    if beside:
        numbers = f"{money(meat)} + {money(beside)} = {money(cost)}"
        steps.append(Step("cost = piece + labour, packaging, value added", numbers))
    else:
        steps.append(Step("cost of the piece", money(cost)))
    if built.factor is not None and target is not None:
        steps += _factor_steps(built, cost, target)
    whole = built.whole
    if whole is None:
        return Pencil("The whole piece", tuple(steps), "A price is missing, so there is no margin.")
    steps += _whole_steps(built, cost, whole)
    return Pencil("The whole piece", tuple(steps))


def _factor_steps(built: Built, cost: Decimal, target: Decimal) -> list[Step]:
    with working():
        steps_cost = sum(
            (
                (row.line.beside or ZERO) - (row.line.bare.beside or ZERO)
                for row in built.lines
                if row.line.bare is not None
            ),
            ZERO,
        )
        cost -= steps_cost
        wanted = cost / (ONE - target)
        bare = [without_steps(row.line) for row in built.lines]
        fixed = sum((line.locked * line.weight * line.kept for line in bare if line.locked), ZERO)
        free = [line for line in bare if line.locked is None]
        ladder = sum((line.rung * line.weight * line.kept for line in free if line.rung), ZERO)
    numbers = f"{money(cost)} ÷ (1 − {percent(target)}) = {money(wanted)}"
    steps = [Step("sales wanted = cost ÷ (1 − target)", numbers)]
    words, top = "factor = (sales wanted − locked", f"{money(wanted)} − {money(fixed)}"
    if any(row.line.bare is not None for row in built.lines):
        words = words.replace("locked", "locked, without value added")
    found = factor_words(built.factor) if built.factor else "0: it would be below"
    steps.append(Step(words + ") ÷ what the ladder brings", f"({top}) ÷ {money(ladder)} = {found}"))
    return steps


def _whole_steps(built: Built, cost: Decimal, whole: Whole) -> list[Step]:
    terms = [
        f"{pounds(row.line.weight, row.line.per)} × {money(row.price)}"
        for row in built.lines
        if row.price is not None and row.line.weight
    ]
    lost = any(row.line.kept != 1 for row in built.lines)
    words = "sales = each weight × its price" + (", after shrink and tax" if lost else "")
    steps = [
        Step(words, f"{' + '.join(terms)} = {money(whole.retail)}"),
        Step(
            "margin, of sales = (sales − cost) ÷ sales",
            f"({money(whole.retail)} − {money(cost)}) ÷ {money(whole.retail)}"
            f" = {percent(whole.margin)}",
        ),
    ]
    if whole.markup is not None:
        steps.append(
            Step(
                "mark-up, of cost = (sales − cost) ÷ cost",
                f"({money(whole.retail)} − {money(cost)}) ÷ {money(cost)}"
                f" = {percent(whole.markup)}",
            )
        )
    if built.before_endings is not None and built.endings_bring:
        steps.append(
            Step(
                "what the endings bring = sales − sales at exact prices",
                f"{money(whole.retail)} − {money(built.before_endings.retail)}"
                f" = {money(built.endings_bring)}",
            )
        )
    return steps


def comfort_words(
    price: Decimal,
    tray: Decimal,
    limit: Decimal,
    portions: int | None,
    sizes: Sequence[tuple[str, int]] = (),
) -> str:
    """What to do when a tray's sticker passes the family's comfort limit; empty inside it.

    `sizes`: the shop's trays with how many portions fit; the fullest one that is small enough is
    named.
    """
    with working():
        sticker = tray_sticker(price, tray)
        if sticker <= limit:
            return ""
        told = f"{sticker} is over the {round_half_up(limit)} a shopper is at ease with: "
        if portions is not None and portions > 1:
            fits = int(limit / (price * tray / portions))
            if fits >= 1:
                fewer = tray * fits / portions
                small = [(room, name) for name, room in sizes if fits <= room < portions]
                where = f", in tray {min(small)[1]}" if small else ""
                return (
                    f"{told}{fits} a tray instead of {portions} makes {round_half_up(fewer)},"
                    f" {tray_sticker(price, fewer)}{where}"
                )
        thinner = limit / sticker
        return f"{told}cut to {percent(thinner)} of the weight, or take a smaller tray"
