"""Keeping how the portions of one test came out, for the shape of the pieces to come."""

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.utils import timezone

from cutting.layout.follow import Fit
from cutting.quantities import working
from rooms.layout.models import CameOut


@dataclass(frozen=True)
class Came:
    """`fit`: of the test, on top of `base`, by which its layout was made."""

    fit: Fit
    base: Fit
    portions: int
    is_measured: bool


FEWEST = 3
"""Portions, before a test says anything of its piece's shape."""


def keep_came_out(
    test: UUID, piece_id: int, part: str, came: Came | None, at: Any = None
) -> CameOut | None:
    """One row a test: written anew each time, gone where too little is known."""
    if came is None or came.portions < FEWEST:
        CameOut.objects.filter(test=test).delete()
        return None
    with working():
        scale = None if came.is_measured else came.fit.scale * came.base.scale
        tilt = came.fit.tilt + came.base.tilt
    values = {
        "piece_id": piece_id,
        "part": part,
        "scale": None if scale is None else round(scale, 4),
        "tilt": round(tilt, 4),
        "portions": came.portions,
        "at": at or timezone.now(),
    }
    return CameOut.objects.update_or_create(test=test, defaults=values)[0]
