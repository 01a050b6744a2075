"""The layout that a test is cut by."""

import json
from dataclasses import dataclass, field
from typing import Any
from uuid import UUID

from django.utils import timezone

from cutting.errors import BadValue
from cutting.layout.aims import Aim, lay_out_for
from cutting.layout.follow import Asked, Fit, asked_for
from cutting.layout.kept import asked_of, plain_asked, plain_task
from cutting.layout.solver import NoLayout
from cutting.layout.task import Task
from rooms.bench.actions.revision import touch
from rooms.bench.models import CuttingTest, Laid, LaidPortion, Weighing
from rooms.bench.queries.laid import Standing, pile_of, standing
from rooms.bench.queries.rows import TestRows, must_be_open, must_load
from rooms.common.db.loading import Adding
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput
from rooms.layout.actions.keep_came_out import Came, keep_came_out


@dataclass(frozen=True)
class Laying:
    """A layout as its page asks for it. `base`: how the shop's shape differs from the shipped."""

    key: UUID
    task: Task
    aim: Aim
    part: str = ""
    is_measured: bool = False
    base: Fit = field(default_factory=Fit)


def lay(test_id: UUID, laying: Laying, by_id: int | None, at: Any = None) -> Laid:
    """Cut a test by a layout from now on. The same key again changes nothing.

    Raises BadInput when nothing fits, or when no pile of the test takes a product.
    """
    values = {
        "test": test_id,
        "task": plain_task(laying.task),
        "aim": laying.aim,
        "part": laying.part,
    }
    sent = Sent(laying.key, "layout", "a layout", values)
    with write(key=sent, recorded=kept_by(Laid, laying.key)) as door:
        rows = must_load(test_id)
        if door.first is not None:
            return door.first
        must_be_open(rows.test, "nothing was laid out")
        return lay_rows(rows, laying, by_id, at)


def lay_rows(rows: TestRows, laying: Laying, by_id: int | None, at: Any = None) -> Laid:
    """As `lay`, of rows that are loaded, in a transaction."""
    test = rows.test
    missing = [one.name for one in laying.task.products if pile_of(rows, one.name) is None]
    if missing:
        raise BadInput(
            f"Layout: no pile for {', '.join(dict.fromkeys(missing))}; choose the plan that makes it."
        )
    try:
        lay_out_for(laying.task, laying.aim)
    except (BadValue, NoLayout) as bad:
        raise BadInput(f"Layout: {bad}.") from bad
    now = at or timezone.now()
    Laid.objects.filter(test=test, taken_off_at=None).update(taken_off_at=now)
    laid = Laid.objects.create(
        key=laying.key,
        test=test,
        task=json.dumps(plain_task(laying.task)),
        aim=laying.aim.value,
        part=laying.part,
        is_measured=laying.is_measured,
        base_scale=laying.base.scale,
        base_tilt=laying.base.tilt,
        after=max((weighing.pk for weighing in rows.weighings), default=0),
        weight_then=test.weight_value,
        at=now,
        by_id=by_id,
    )
    CuttingTest.objects.filter(pk=test.pk).update(has_layout=True)
    test.has_layout = True
    touch(test)
    found = Standing(laid, rows, {})
    say_next(found, found.following.next)
    return laid


def take_layout_off(test_id: UUID, by_id: int | None) -> CuttingTest:
    """The test is cut without a layout again; twice changes nothing."""
    with write():
        rows = must_load(test_id)
        if not rows.test.has_layout:
            return rows.test
        must_be_open(rows.test, "the layout stays")
        Laid.objects.filter(test=rows.test, taken_off_at=None).update(taken_off_at=timezone.now())
        CuttingTest.objects.filter(pk=test_id).update(has_layout=False)
        touch(rows.test)
    return rows.test


ADD_PORTION = Adding(LaidPortion)


def keep_asked(rows: TestRows, weighing: Weighing) -> dict[int, Asked]:
    """Keep what a weighing that was just taken was asked for: part of taking it. What every
    weighing of the test was asked for, by its id."""
    found = standing(rows)
    if found is None:
        return {}
    if weighing.output_id not in found.names:
        return found.asked
    if found.laid.asked_of != [each.pk for each in found.weighings]:
        return found.asked  # said of an older state: it says nothing of this one
    coming = tuple(asked_of(data) for data in found.laid.asked)
    asked = asked_for(coming, found.names[weighing.output_id], weighing.portions or 1)
    if asked is None:
        return found.asked
    ADD_PORTION(LaidPortion(weighing=weighing, asked=plain_asked(asked)))
    return {**found.asked, weighing.pk: asked}


def lay_again(rows: TestRows) -> None:
    """Say what comes next, after whatever changed the weighings of a test."""
    found = standing(rows)
    if found is None:
        return
    coming = found.following.next  # worked out before the turn is taken
    with write():
        say_next(found, coming)


def say_next(found: Standing, coming: tuple[Asked, ...]) -> None:
    Laid.objects.filter(pk=found.laid.pk).update(
        asked=[plain_asked(one) for one in coming],
        asked_of=[weighing.pk for weighing in found.weighings],
    )


def keep_shape(rows: TestRows) -> None:
    """Keep how a finished test's portions came out, for the pieces to come."""
    found = standing(rows)
    if found is None:
        return
    stands, laid = found.following, found.laid
    came = Came(
        stands.fit,
        found.base,
        sum(one.portions for one in stands.seen),
        laid.is_measured,
    )
    keep_came_out(
        rows.test.pk,
        rows.test.piece_id,
        laid.part,
        came if not rows.test.is_open else None,
        rows.test.finished_at,
    )
