"""Why a bag is cut today or may wait."""

from __future__ import annotations

from datetime import date

from cutting.cooler.ageing import Bag, Seal, TooYoung

SEALS = {
    Seal.LEAKING: "leaking: cut it today",
    Seal.SUSPECT: "seal suspect: look at it today",
}


def due_words(bag: Bag, today: date) -> list[str]:
    """Why a bag is due or not, the most pressing reason first."""
    reasons = [SEALS[bag.seal]] if bag.seal in SEALS else []
    reasons.append(_age_words(bag, today))
    minutes = int(bag.warm.total_seconds() // 60)
    if minutes:
        lost = f", {_days(bag.lost_days)} off its end" if bag.lost_days else ""
        reasons.append(f"lived through {minutes} min above the limit{lost}")
    if bag.use_by is not None and bag.use_by == bag.ends_on:
        reasons.append("short date: its use-by comes first")
    if bag.thawed_by is not None:
        reasons.append("it was frozen: its clock is shorter")
    return reasons


def _age_words(bag: Bag, today: date) -> str:
    left = (bag.ends_on - today).days
    if left < 0:
        return f"{_days(-left)} past its end: it is decided before it is cut"
    if left == 0:
        return "last day today"
    if today > bag.best_to:
        return f"best window over, {_days(left)} to its end"
    if today < bag.old_enough_on:
        return f"too young: {_days((bag.old_enough_on - today).days)} to its least age"
    if today < bag.best_from:
        return f"old enough; best in {_days((bag.best_from - today).days)}"
    return f"in its best window, {_days((bag.best_to - today).days)} left of it"


def _days(count: int) -> str:
    return f"{count} day" if count == 1 else f"{count} days"


def young_words(one: TooYoung) -> str:
    """What is too young, by how much, and from when it is old enough."""
    return f"{one.name or 'The piece'}: {_days(one.missing)} too young, old enough from {one.on:%-d %B}"
