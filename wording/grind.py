"""What is said of tubs and batches."""

from __future__ import annotations

from decimal import Decimal

from cutting.grinding.judging import FEWEST_TO_SAY, Bias
from cutting.grinding.worth import TrimMade
from cutting.quantities import HUNDRED, ONE, round_half_up, working
from wording.pencil import money

RARELY = Decimal("0.0005")


def lean_words(share: Decimal, spread: Decimal) -> str:
    """“80 lean ± 2”."""
    with working():
        lean, sure = share * HUNDRED, spread * HUNDRED
    return f"{round_half_up(lean, 0):f} lean ± {max(round_half_up(sure, 0), Decimal(1)):f}"


def chance_words(chance: Decimal) -> str:
    """“1 time in 29”; “hardly ever”."""
    if chance < RARELY:
        return "hardly ever"
    with working():
        times = ONE / chance
    if times < 2:
        return f"{round_half_up(chance * 10, 0):f} times in 10"
    return f"1 time in {round_half_up(times, 0):f}"


def kindly(bias: Bias) -> str:
    """What is told to whoever judged: what the tests say, nothing of guilt."""
    if bias.tests < FEWEST_TO_SAY:
        return "Too few tests to say anything of the eye yet."
    with working():
        points = bias.off * HUNDRED
        sure = abs(bias.off) > 2 * bias.spread
    if not sure:
        return "The eye is right as far as the tests can tell."
    which = "leaner" if points > 0 else "fatter"
    return f"Tubs look about {abs(points):.0f} points {which} than they are; it is allowed for."


def trim_made_words(made: TrimMade, unit: str, margin: Decimal) -> str:
    """“In the last 5 batches a lb of lean brought 7.41 at the case; …”."""
    many = "batch" if made.batches == 1 else f"{made.batches} batches"
    with working():
        percent = round_half_up(margin * HUNDRED, 1)
    return (
        f"In the last {many} a {unit} of lean brought {money(made.at_case)} at the case;"
        f" at a margin of {percent:f} % it may cost {money(made.value)}."
    )
