"""A day is planned: asked of the solver, and kept as it was answered."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.db import IntegrityError
from django.utils import timezone

from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.planner.models import DayPlan


@dataclass(frozen=True)
class Asked:
    """What somebody asks of a day, with its document and the solver's answer."""

    key: UUID
    day: date
    hands: int
    minutes: Decimal
    document: dict[str, Any]
    answer: dict[str, Any]
    pins: Mapping[str, str] = field(default_factory=dict)


def keep_plan(asked: Asked, by_id: int | None) -> DayPlan:
    """A row of its own; the same key again returns it."""
    row = DayPlan(
        key=asked.key,
        day=asked.day,
        hands=asked.hands,
        minutes=asked.minutes,
        document=asked.document,
        answer=asked.answer,
        pins=dict(asked.pins),
        made_at=timezone.now(),
        made_by_id=by_id,
    )
    try:
        with write():
            row.save(force_insert=True)
    except IntegrityError:
        return DayPlan.objects.get(key=asked.key)
    return row


KINDS = ("hour", "sure", "next", "products", "musts")


def keep_worth(plan_id: int, found: dict[str, Any]) -> DayPlan:
    """What a part of a plan is worth, beside what was worked out before."""
    with write():
        plan = DayPlan.objects.select_for_update().get(pk=plan_id)
        plan.worth = {**plan.worth, **{kind: found[kind] for kind in KINDS if kind in found}}
        plan.save(update_fields=["worth"])
    return plan


def give_to_block(plan_id: int) -> DayPlan:
    """The plan is what the block works by from now on; twice changes nothing.

    Raises BadInput when a newer plan of the day was made since.
    """
    with write():
        plan = DayPlan.objects.select_for_update().get(pk=plan_id)
        newest = DayPlan.objects.filter(day=plan.day).first()
        if newest is not None and newest.pk != plan.pk:
            raise BadInput("Plan: a newer one of this day was made since; look at it first.")
        if plan.given_at is None:
            plan.given_at = timezone.now()
            plan.save(update_fields=["given_at"])
    return plan
