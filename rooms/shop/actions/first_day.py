"""How far the first day has come: looked through, put aside, taken up again, over."""

from django.utils import timezone

from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.shop.actions.change import Changer, change
from rooms.shop.models import FirstDayMark
from rooms.shop.queries.current import house
from rooms.shop.queries.progress import ALL, standing

Kind = FirstDayMark.Kind


def note(step: str, kind: str, by_id: int | None) -> None:
    """Mark a step. The same mark twice is one."""
    if step not in ALL:
        raise BadInput(f"Step: “{step}”; one of those shown is right.")
    with write():
        if standing().get(step) != kind:
            FirstDayMark.objects.create(step=step, kind=kind, at=timezone.now(), by_id=by_id)


def end(by_id: int | None) -> None:
    """Nobody is led any more. What was put aside stays under the settings."""
    if not house().is_set_up:
        change({"is_set_up": True}, Changer(by_id))
