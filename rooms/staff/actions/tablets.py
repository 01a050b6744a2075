"""Enrolling a tablet, and withdrawing it."""

import secrets
from typing import Any
from uuid import UUID

from django.utils import timezone

from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.common.plain_text import is_plain
from rooms.staff.actions.events import Kind, note
from rooms.staff.block import hashed
from rooms.staff.models import Tablet, Turn

LONGEST_NAME = 40


@write()
def enrol(name: str, by_id: int | None) -> tuple[Tablet, str]:
    """A new tablet and the secret for its cookie, which is shown to nobody and kept hashed."""
    name = " ".join(name.split())
    if not name or len(name) > LONGEST_NAME or not is_plain(name):
        raise BadInput(f"Tablet: 1 to {LONGEST_NAME} plain characters are right, such as Block 1.")
    secret = secrets.token_urlsafe(32)
    tablet = Tablet(
        name=name, secret=hashed(secret), enrolled_at=timezone.now(), enrolled_by_id=by_id
    )
    tablet._history_user = tablet.enrolled_by
    tablet.save(force_insert=True)
    note(Kind.TABLET, by_id=by_id, words=tablet.name)
    return tablet, secret


def withdraw(tablet_id: UUID, by: Any) -> Tablet:
    """From now on the tablet opens nothing; whoever stood there has stepped away."""
    with write():
        tablet = Tablet.objects.filter(pk=tablet_id).first()
        if tablet is None:
            raise BadInput("Tablet: there is no such tablet.")
        if tablet.withdrawn_at is None:
            tablet.withdrawn_at = timezone.now()
            tablet._history_user = by
            tablet.save()
            Turn.objects.filter(tablet=tablet, until=None).update(until=tablet.withdrawn_at)
            note(Kind.WITHDRAWN, by_id=getattr(by, "pk", None), words=tablet.name)
    return tablet
