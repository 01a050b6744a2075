"""How sure a yield is: with how many tests, and between what."""

from __future__ import annotations

from cutting.quantities import ZERO
from cutting.sheet.cutting_test import Piece, Yields
from cutting.sheet.yields import Pooled, Rest, cost_between
from wording.pencil import money, percent


def shares_words(yields: Yields) -> str:
    """Every share of the weight paid for; more than was paid for is a gain, never waste below 0."""
    words = (
        f"main {percent(yields.main)}, saleable {percent(yields.saleable)},"
        f" usable {percent(yields.usable)}, waste {percent(yields.waste)}"
    )
    return f"{words}, gain {percent(yields.gain)}" if yields.gain else words


def where_from(tests: int) -> str:
    """Where the yields of a plan come from."""
    if not tests:
        return "the plan's usual shares; no test of it yet"
    return "a single test" if tests == 1 else f"{tests} tests"


def rest_words(rest: Rest | None, piece: Piece, *, others: int, is_sound: bool) -> str:
    """What prices rest on and how sure that is; a single test says that it is one.

    `rest` None: the test alone, with `others` to pool. `is_sound`: it comes back to its weight.
    """
    if rest is None:
        more = f" {others} more could be pooled." if others else ""
        return f"These prices rest on a single test: its yields may be chance.{more}"
    found = rest.saleable
    left = "" if is_sound else "This test does not come back to its weight: left out. "
    if found.tests == 1:
        return f"{left}These prices rest on a single other test: its yields may be chance."
    text = f"{left}These prices rest on {found.tests} tests: saleable {percent(found.share)}"
    between = cost_between(piece.cost, found, piece.weight.value)
    if found.low is None or found.high is None or between is None:
        return text + "."
    return (
        f"{text} (95 % of the mean: {percent(found.low)} to {percent(found.high)}), so the true"
        f" cost of a {piece.weight.unit} lies between {money(between[0])} and {money(between[1])}."
    )


def share_words(found: Pooled | None) -> str:
    """The pooled yield of one output with its interval."""
    if found is None:
        return ""
    text = f"{percent(found.share)} of the piece"
    if found.low is None or found.high is None:
        return text
    return f"{text}, {percent(max(found.low, ZERO))} to {percent(found.high)}"
