"""Entering and changing people, and the shop's first manager."""

from itertools import count
from typing import Any

from django.contrib.auth.hashers import check_password, make_password
from django.utils import timezone
from django.utils.text import slugify

from rooms.common.db.seen import Saw, check_seen
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.staff.actions.events import Kind, note
from rooms.staff.models import Person, Turn

UNUSABLE = "!"
ENTERED = ("first_name", "username", "role", "is_under_18", "is_active")


def has_manager() -> bool:
    """Whether somebody can log in to the office as manager: one query."""
    return managers().exists()


def managers() -> Any:
    return Person.objects.filter(role=Person.Role.MANAGER, is_active=True).exclude(
        password__startswith=UNUSABLE
    )


def make_first_manager(name: str, username: str, password: str) -> Person:
    """Only while the shop has no manager with a password. Raises Refused afterwards."""
    with write():
        if has_manager():
            raise Refused("The shop has a manager already; log in, or ask them.")
        person = Person.objects.filter(username=username).first() or Person(username=username)
        person.first_name, person.role, person.is_active = name, Person.Role.MANAGER, True
        person.set_password(password)
        person.save()
    return person


def _free_name(name: str) -> str:
    """A user name for somebody who needs none: everybody has one of their own."""
    own = slugify(name)[:100] or "person"
    taken = set(Person.objects.filter(username__startswith=own).values_list("username", flat=True))
    return next(each for n in count(1) if (each := own if n == 1 else f"{own}-{n}") not in taken)


def _is_so(now: Person, wanted: Person, pin: str, password: str) -> bool:
    """Whether all that was entered holds already."""
    if any(getattr(now, name) != getattr(wanted, name) for name in ENTERED):
        return False
    return (not pin or check_password(pin, now.pin)) and (
        not password or now.check_password(password)
    )


def save_person(
    person: Person, by: Person, *, pin: str = "", password: str = "", seen: str | None = None
) -> Person:
    """Keep a person as entered. The last manager with a password stays one. The same again changes nothing.

    A new PIN or password replaces the old; empty leaves it. Somebody made inactive, or with a new PIN, has
    stepped away from every block: whoever stands there by the old one. `seen`: the person as the page had them; Overtaken where somebody changed them
    since.
    """
    with write():
        if person.pk is not None and seen is not None:
            now = Person.objects.get(pk=person.pk)
            if _is_so(now, person, pin, password):
                return now
            check_seen(Saw(lambda: now, seen))
        if pin:
            person.pin = make_password(pin)
        if password:
            person.set_password(password)
        elif not person.password:
            person.set_unusable_password()
        if not person.username:
            person.username = _free_name(person.first_name)
        person._history_user = by
        person.save()
        if not has_manager():
            raise BadInput(
                f"Role: {person} is the only manager with a password; make another one first."
            )
        if pin or not person.is_active:
            Turn.objects.filter(person=person, until=None).update(until=timezone.now())
        _note_new(person, by, pin, password)
    return person


def _note_new(person: Person, by: Person, pin: str, password: str) -> None:
    for kind, is_new in ((Kind.PIN, pin), (Kind.PASSWORD, password)):
        if is_new:
            note(kind, person_id=person.pk, by_id=by.pk)
