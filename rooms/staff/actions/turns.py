"""Stepping up to the block with a PIN, and away from it."""

from django.contrib.auth import authenticate
from django.http import HttpRequest
from django.utils import timezone

from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.staff import lockout
from rooms.staff.actions.events import Kind, note
from rooms.staff.models import Person, Tablet, Turn


class Locked(Refused):
    """Too many wrong tries; the message says how long to wait."""

    status = 429


def step_up(request: HttpRequest, tablet: Tablet | None, person_id: int, pin: str) -> Turn:
    """Put a person at this tablet's block, ending the turn before.

    Raises Refused on a tablet that is not enrolled, BadInput for a wrong PIN, Locked when the
    name waits.
    """
    if tablet is None:
        raise Refused(
            "This tablet is not enrolled, or its enrolment was withdrawn. A manager enrols it"
            " under People."
        )
    person = Person.objects.filter(is_active=True, pk=person_id).first()
    if person is None:
        raise BadInput("Cutter: nobody of that name works here; choose one of the names shown.")
    request.counted_as = lockout.pin_name(request, person.pk)
    if authenticate(request, pin_of=person.pk, pin=pin) is None:
        if getattr(request, "axes_locked_out", False):
            note(Kind.LOCKED, request, person_id=person.pk)
            raise Locked(f"{person}: {lockout.words(request)}")
        if not person.pin:
            raise BadInput(f"{person} has no PIN yet; a manager gives one under People.")
        note(Kind.WRONG, request, person_id=person.pk, words="PIN")
        raise BadInput(f"PIN: that is not {person}'s; try again.")
    lockout.forget(request.counted_as)
    with write():
        Tablet.objects.select_for_update().get(pk=tablet.pk)  # one at a time at a tablet
        now = timezone.now()
        Turn.objects.filter(tablet=tablet, until=None).update(until=now)
        note(Kind.IN, request, person_id=person.pk)
        return Turn.objects.create(person=person, tablet=tablet, since=now)


@write()
def step_away(turn_id: str) -> None:
    """End a turn; nothing for an empty id. Ending it twice changes nothing."""
    if not turn_id:
        return
    Turn.objects.filter(pk=turn_id, until=None).update(until=timezone.now())
