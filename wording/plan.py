"""The pencil view of plans: a moved price, an ad, what to buy. Each figure with its numbers in."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

from cutting.planning.buying import Bought
from cutting.planning.day import NotCut
from cutting.planning.wanted import Answer
from cutting.prices.ads import Ad, Sold, Way
from cutting.prices.repricing import MovedCost, PricedProduct
from cutting.quantities import ONE, UnitPrice, round_half_up, working
from wording.pencil import Pencil, Step, money, percent, pounds, signed


def moved_pencil(
    standing: PricedProduct, cost: Decimal, invoice: tuple[UnitPrice, UnitPrice], moved: MovedCost
) -> Pencil:
    """One line of a review. `invoice`: the price paid then and the one now."""
    paid, now = invoice
    with working():
        net = standing.price / (ONE + standing.tax)
        before, after = standing.loads.on(standing.cost), standing.loads.on(cost)
    proposal = moved.proposal
    target = f"1 − {percent(standing.policy.target)}"
    steps = [
        Step(
            "by factor = cost × price now ÷ price then",
            f"{money(standing.cost)} × {money(now.to(paid.per))} ÷ {money(paid.amount)}",
        ),
        Step("cost with tray, labour and shrink", f"was {money(before)}, is {money(after)}"),
        Step(
            "margin if nothing changes = (price − cost) ÷ price",
            f"({money(net)} − {money(after)}) ÷ {money(net)} = {percent(moved.margin_now)}",
        ),
        Step(
            "proposal = cost ÷ (1 − target), with its ending",
            f"{money(after)} ÷ ({target}) = {money(proposal.exact)} → {money(proposal.price)}",
        ),
    ]
    return Pencil("What the new invoice does", tuple(steps))


def ad_pencil(ad: Ad, item: Sold, around: Sequence[Sold]) -> Pencil:
    """The ad week's profit, what it gives away, and what wins it back."""
    everything = (item, *around)
    terms = [
        f"{pounds(one.pounds, 'lb')} × ({money(one.price)} − {money(one.cost)})"
        for one in everything
        if one.pounds
    ]
    steps = [
        Step(
            "gross profit = pounds × (price − cost), added up",
            f"{' + '.join(terms) or '0'} = {money(ad.week.gp)}",
        ),
    ]
    if ad.week.margin is not None:
        numbers = f"{money(ad.week.gp)} ÷ {money(ad.week.sales)} = {percent(ad.week.margin)}"
        steps.append(Step("margin of the week = gross profit ÷ sales", numbers))
    if item.usual_price is not None:
        steps.append(
            Step(
                "given away = (usual price − ad price) × pounds",
                f"({money(item.usual_price)} − {money(item.price)}) × {pounds(item.pounds, 'lb')}"
                f" = {money(ad.given_away)}",
            )
        )
    for one in ad.win_back:
        if one.pounds is not None:
            steps.append(
                Step(
                    f"{one.name} wins it back = given away ÷ what a pound earns",
                    f"{money(ad.given_away)} ÷ {money(one.gain)}"
                    f" = {signed(round_half_up(one.pounds, 1))}",
                )
            )
    return Pencil("The ad week", tuple(steps))


def share_pencil(plain: Way, other: Way, goal: Decimal, share: Decimal | None) -> Pencil:
    """The share to cut the merchandised way, per pound bought."""
    with working():
        short, best = goal * plain.sales - plain.gp, other.gp - goal * other.sales
    steps = [
        Step(
            "what the ad's way lacks = goal × sales − gross profit",
            f"{percent(goal)} × {money(plain.sales)} − {money(plain.gp)} = {money(short)}",
        ),
        Step(
            "what the other way has over = gross profit − goal × sales",
            f"{money(other.gp)} − {percent(goal)} × {money(other.sales)} = {money(best)}",
        ),
    ]
    if share is not None and share > 0:
        steps.append(
            Step(
                "share = lacking ÷ (over + lacking)",
                f"{money(short)} ÷ ({money(best)} + {money(short)}) = {percent(share)}",
            )
        )
    return Pencil("A pound bought", tuple(steps))


def buy_pencil(one: Bought, rate: Decimal) -> Pencil:
    """The cost of a ready pound, and the price at which it ties the best other one."""
    spec = one.spec
    labour = spec.labour(rate)
    with working():
        other = (one.break_even - spec.credits + labour) / spec.ready
    minutes = f"{signed(round_half_up(spec.minutes, 2))} × {money(rate)} ÷ 60"
    return Pencil(
        spec.name,
        (
            Step("labour = minutes × rate ÷ 60", f"{minutes} = {money(labour)}"),
            Step(
                "ready lb = (price − credits + labour) ÷ yield",
                f"({money(spec.price)} − {money(spec.credits)} + {money(labour)})"
                f" ÷ {percent(spec.ready)} = {money(one.cost)}",
            ),
            Step(
                "ties at = best other × yield + credits − labour",
                f"{money(other)} × {percent(spec.ready)} + {money(spec.credits)}"
                f" − {money(labour)} = {money(one.break_even)}",
            ),
        ),
    )


def wanted_words(answer: Answer, unit: str) -> str:
    """What is missing to the least, or over the most."""
    if answer.missing:
        return f"{answer.missing:.1f} {unit} missing"
    return f"{answer.over:.1f} {unit} over the most" if answer.over else "enough"


def not_cut_words(one: NotCut) -> str:
    """Why a bag stays in the cooler today."""
    if one.kind == "minutes":
        return f"{round_half_up(one.amount, 1)} minutes of hands are missing"
    if one.kind == "hands":
        return "nobody who may cut it has the minutes left"
    if one.kind == "freezer":
        return "the freezer has no room left to firm it"
    if one.kind == "most":
        return f"what it gives would be over the most: {money(one.amount)} less"
    if one.kind == "cost":
        return f"it would bring {money(one.amount)} less than it costs"
    return "nothing is better for it today"
