"""What is said at the block and under a sheet."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

from cutting.costing.sheet import Sheet
from cutting.quantities import HUNDRED, Unit, round_half_up
from cutting.sheet.portioning import Hint
from cutting.sheet.time_spent import Mark
from cutting.sheet.trays import Tray
from wording.pencil import money, percent, pounds, profit_shown

CLOCK = {
    None: "not started",
    Mark.START: "running",
    Mark.PAUSE: "paused",
    Mark.INTERRUPT: "interrupted",
    Mark.COOLED: "in the cooler",
}
"""How the clock of a test stands."""


def left_words(left: int | None) -> str:
    """How many portions are still to come; nothing when nothing can be said."""
    if left is None:
        return ""
    return f"about {left} more" if left else "as many as the plan gives"


def hint_words(hint: Hint) -> str:
    """How the next portion should differ from the last ones."""
    count = "the last one is" if hint.rests_on == 1 else f"the last {hint.rests_on} are"
    if hint.is_right:
        return f"{count} right: cut the same again"
    off = round_half_up(abs(hint.off), 0 if hint.unit is Unit.G else 1)
    how, where = ("heavy", "thinner") if hint.off > 0 else ("light", "thicker")
    by = "" if hint.thinner is None else f"{abs(hint.thinner)} in "
    return f"{count} {off} {hint.unit} {how}: cut {by}{where}"


def tray_words(trays: Sequence[Tray], unit: str) -> str:
    """The tray that is filling, or the last full one."""
    if not trays:
        return ""
    tray = trays[-1]
    sticker = f", sticker {money(tray.sticker)}" if tray.sticker is not None else ""
    count = "full" if tray.is_full else f"{tray.count} of {tray.size}"
    return f"tray {tray.number}: {count}, {pounds(tray.weight, unit)} {unit}{sticker}"


def profit_words(sheet: Sheet) -> tuple[str, str]:
    """The cost at its post, and the profit or loss beyond it; no profit without all prices."""
    cost = f"cost {money(sheet.figures.cost)}"
    if sheet.margin is None:
        return cost, ""
    gp = profit_shown(sheet.margin.retail, sheet.figures.cost)
    of_sales = percent(sheet.margin.gp_percent / HUNDRED)
    if gp < 0:
        return cost, f"loss {money(-gp)} = {of_sales} of sales"
    return cost, f"gross profit {money(gp)} = {of_sales}"


def no_dollars(sheet: Sheet) -> str:
    """Why a sheet has no dollar rail; nothing when it has one."""
    if sheet.margin is not None:
        return ""
    bare = [o.name for o in sheet.test.outputs if o.goes_to_case and o.retail is None]
    if not bare:
        return "No dollar rail: nothing goes to the case."
    return f"No dollar rail yet, for want of a price: {', '.join(bare)}. Set prices to see it."


def opening_words(too_young: Sequence[str], reason: str, *, was_frozen: bool) -> list[str]:
    """What is said of a piece that was opened too young, or that had been frozen."""
    said = []
    if was_frozen:
        said.append(
            "Previously frozen: everything cut from it is sold as such, on a shorter clock."
        )
    if too_young:
        said.append(f"Cut too young. {'; '.join(too_young)}. Why: {reason}.")
    return said


def chosen_words(fat_level: str, percent_off: Decimal | None) -> list[str]:
    """What was chosen for the whole test."""
    fat = {"": [], "none": ["no fat left on"]}.get(fat_level, [f"{fat_level} of fat left on"])
    if percent_off is None:
        return fat
    return [*fat, f"{percent_off.normalize():f} % off the list price at opening"]
