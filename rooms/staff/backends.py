"""A name and a PIN, on an enrolled tablet only. The lock-out is django-axes'."""

from collections.abc import Callable
from typing import Any

from django.contrib.auth.hashers import check_password, make_password
from django.http import HttpRequest

from rooms.common.db.writing import write
from rooms.staff.models import Person


def _kept_anew(person: Person) -> Callable[[str], None]:
    """For a PIN that was hashed as it was done before."""

    def keep(pin: str) -> None:
        with write():
            Person.objects.filter(pk=person.pk).update(pin=make_password(pin))

    return keep


class PinBackend:
    """`authenticate(request, pin_of=pk, pin="3141")`. It opens no office session."""

    def authenticate(self, request: HttpRequest, pin_of: Any = None, pin: Any = None) -> Any:
        if pin_of is None or pin is None:
            return None
        person = Person.objects.filter(pk=pin_of, is_active=True).exclude(pin="").first()
        if person is None:
            make_password(pin)  # as long as a wrong one takes
            return None
        return person if check_password(pin, person.pin, _kept_anew(person)) else None

    def get_user(self, pk: Any) -> Any:
        return None
