"""The own password beside a PIN."""

from typing import Any

from django.contrib.auth import authenticate
from django.http import HttpRequest

from rooms.common.errors import BadInput
from rooms.staff import lockout, sessions
from rooms.staff.actions.events import Kind, note
from rooms.staff.actions.turns import Locked
from rooms.staff.models import Person


def confirm_password(request: HttpRequest, at: Any, password: str) -> None:
    """Let whoever stands at this block do for ten minutes what asks for the password. Raises BadInput for a
    wrong one, Locked when the name waits."""
    person = Person.objects.get(pk=at.id)
    if not person.has_usable_password():
        raise BadInput(f"Password: {person} has none; a manager gives one under People.")
    credentials = {"username": person.username, "password": password}
    request.counted_as = lockout.name_of(request, credentials)
    found = authenticate(request, **credentials)
    if found is None or found.pk != person.pk:
        if getattr(request, "axes_locked_out", False):
            note(Kind.LOCKED, request, person_id=person.pk)
            raise Locked(f"{person}: {lockout.words(request)}")
        note(Kind.WRONG, request, person_id=person.pk, words="password beside the PIN")
        raise BadInput(f"Password: that is not {person}'s; try again.")
    lockout.forget(request.counted_as)
    sessions.confirm(request, at.turn)
    note(Kind.CONFIRMED, request, person_id=person.pk)
