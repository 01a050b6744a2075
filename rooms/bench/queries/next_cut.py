"""The next cut of a test that is cut by a layout, beside the scale."""

from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from urllib.parse import urlencode

from cutting.layout.follow import Asked, Following
from cutting.quantities import Unit, Weight
from cutting.sheet.cutting_test import still_on_block
from drawings.side_view import SideView, side_view
from rooms.bench.queries.laid import Standing, pile_of, standing
from rooms.bench.queries.rows import TestRows, target
from rooms.catalog.queries.shapes import shapes
from rooms.layout.queries.asking import is_metric
from wording.layout import Planned, change_words, counts_words, portion_words, thick_words

MOST_HIGH = 74.0
"""Pixels of the small drawing."""


@dataclass(frozen=True)
class NextCut:
    """What stands beside the scale. `thick` is empty where nothing more is to be cut."""

    thick: str
    name: str
    weight: str
    before: str
    """What comes off first: a face, a gap."""
    how: str
    changed: str
    to_come: str
    view: SideView | None
    caution: str


def next_cut(rows: TestRows) -> NextCut | None:
    """None for a test without a layout: no query. Else two."""
    found = standing(rows)
    if found is None:
        return None
    stands = found.following
    coming = stands.next[0] if stands.next else None
    return NextCut(
        thick=thick_words(coming.thick, is_metric=is_metric()) if coming else "",
        name=coming.name if coming else "",
        weight=_weight(coming.expected, stands) if coming else "",
        before=_before(coming, stands),
        how=_how(coming),
        changed=change_words(stands, _planned(found, stands), is_metric=is_metric()),
        to_come=counts_words(_counts(stands)) if coming else "",
        view=side_view(stands.layout, is_metric=is_metric(), most_high=MOST_HIGH)
        if stands.layout and stands.layout.parts
        else None,
        caution=_other_target(found),
    )


def lay_address(rows: TestRows) -> str:
    """Where a layout of what still lies on the block is asked for; empty for a piece whose shape
    is not known."""
    test = rows.test
    if test.piece.key not in shapes():
        return ""
    left = still_on_block(rows.weighed)
    asked = {"test": str(test.pk), "unit": test.weight_unit}
    if left > 0:
        asked["weight"] = f"{left.quantize(Decimal('0.01'))}"
    if test.plan is not None:
        asked["plan"] = test.plan.key
    return urlencode(asked)


def _weight(weight: Fraction, stands: Following) -> str:
    return portion_words(weight, stands.task.unit, is_metric=is_metric())


def _before(coming: Asked | None, stands: Following) -> str:
    if coming is None or coming.before <= stands.task.kerf:
        return ""
    off = thick_words(coming.before - stands.task.kerf, is_metric=is_metric())
    return f"a face of {off} first" if not stands.told else f"{off} off first"


def _how(coming: Asked | None) -> str:
    if coming is None or coming.of == 1:
        return ""
    return "the other part of that slice" if coming.continues else f"then into {coming.of}"


def _planned(found: Standing, stands: Following) -> Planned | None:
    """The slice that was laid out where the next is, and how many were to follow the told ones."""
    layout = found.plan.layout
    if not stands.next or layout is None:
        return None
    at, task = stands.task.at(stands.place), found.plan.task
    to_come = len(found.plan.next) - sum(one.portions for one in stands.told)
    for part in layout.slices:
        is_same = task.products[part.product or 0].name == stands.next[0].name
        if is_same and task.at(part.start) + task.at(part.end) > 2 * at:
            return Planned(task.at(part.end) - task.at(part.start), to_come)
    return None


def _counts(stands: Following) -> dict[str, int]:
    found: dict[str, int] = {}
    for one in stands.next:
        found[one.name] = found.get(one.name, 0) + 1
    return found


def _other_target(found: Standing) -> str:
    """A pile's target was chosen otherwise since: the layout still goes by its own."""
    for one in found.task.products:
        pile = pile_of(found.rows, one.name)
        aim = target(pile) if pile else None
        if aim is None or one.lightest is None or one.heaviest is None:
            continue
        low, high = (_grams(each) for each in (one.lightest, one.heaviest))
        if not low <= _grams(aim) <= high:
            return (
                f"{one.name} has another target now, {aim}; this layout goes by {one.lightest} to"
                f" {one.heaviest}. Lay it out again."
            )
    return ""


def _grams(weight: Weight) -> Decimal:
    return weight.to(Unit.G)
