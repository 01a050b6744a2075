"""Why a bag is cut today or may wait."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

from cutting.cooler.ageing import Bag, Seal, TooYoung
from cutting.cooler.quality import MOST_MARBLING, Damage, Quality, SupplierQuality
from cutting.cooler.temperature import LIMIT

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


DAMAGED = {
    Damage.SLAUGHTER: "slaughter damage",
    Damage.GOUGED: "gouged by the packer's knife",
    Damage.TAKEN: "parts already taken",
}


def quality_words(quality: Quality, claims: str = "") -> list[str]:
    """What is seen on a piece, and what came with it."""
    said = [DAMAGED[kind] for kind in Damage if kind in quality.damage]
    if quality.marbling is not None:
        said.append(f"marbling {quality.marbling} of {MOST_MARBLING} by eye")
    return [*said, claims] if claims else said


def supplier_words(found: SupplierQuality) -> str:
    """How the bags of a supplier came."""
    kinds = ", ".join(f"{count} {DAMAGED[kind]}" for kind, count in found.each.items() if count)
    score = "" if found.marbling is None else f"; marbling {found.marbling} on the mean"
    return f"{found.damaged} of {found.bags} bags damaged{f': {kinds}' if kinds else ''}{score}"


def limit_words(limit: int, rule: str = "3-501.16") -> str:
    """The cooler's upper limit in thousandths of a °C, in both scales and with where it is from.

    `rule`: of the FDA Food Code, named where the limit is the code's own.
    """
    fahrenheit = Decimal(limit) * 9 / 5000 + 32
    source = f"FDA Food Code {rule}" if limit == LIMIT else "the shop's own limit"
    return f"{_short(Decimal(limit) / 1000)} °C ({_short(fahrenheit)} °F; {source})"


def _short(number: Decimal) -> str:
    text = f"{number:.1f}"
    return text.removesuffix(".0")
