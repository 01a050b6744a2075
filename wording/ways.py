"""What is said of ways side by side, words first."""

from __future__ import annotations

from decimal import Decimal

from cutting.quantities import working
from cutting.ways.compared import Compared
from cutting.ways.splitting import Split
from cutting.ways.weighing_up import Sureness
from wording.pencil import money, percent


def best_words(found: Compared, sure: Sureness | None) -> str:
    """“Better by 11.20 a piece, sure enough; by the hour the plain way wins.”"""
    best = found.best
    if best.money is None:
        return "No way has all its prices yet; enter those that are missing."
    if sure is None:
        return f"Only “{best.money}” has all its prices; enter those of the others."
    certain = {
        True: "sure enough",
        False: "but chance alone may explain it",
    }[sure.is_sure]
    if sure.t is None:
        certain = "by too few tests to be sure"
    words = f"“{sure.better}” is better by {money(sure.difference)} a piece, {certain}"
    others = []
    if best.percent and best.percent != best.money:
        others.append(f"by percent “{best.percent}” wins")
    if best.hour and best.hour != best.money:
        others.append(f"by the hour “{best.hour}” wins")
    if found.has_mixed_minutes:
        others.append("nothing is ranked by the hour: some minutes are measured, others assumed")
    return f"{'; '.join([words, *others])}."


def split_words(split: Split, first: str, second: str, unit: str, weight: Decimal) -> str:
    """How much of the piece goes which way, and what that brings over either alone."""
    with working():
        own = split.share * weight
    words = (
        f"Mixed is better by {money(split.gain)}: the first {own:.1f} {unit}"
        f" ({percent(split.share)}) as “{first}”, the rest as “{second}”"
    )
    return f"{words}, so that no more of {' and '.join(split.full)} is made than sells."
