"""How long a name stays locked after wrong PINs or passwords: each wrong one doubles it.

django-axes counts and locks; this says how long, under which name, and in which words. PINs and passwords are
counted apart, a PIN for each tablet, a password for each browser that was let in before, else for each
address: nobody can lock out others from a browser of their own.
"""

from datetime import timedelta
from typing import Any

from axes.models import AccessFailureLog, AccessLog
from axes.utils import reset
from django.conf import settings
from django.http import HttpRequest
from django.utils import timezone

from rooms.staff.block import claimed_tablet, known_name
from rooms.staff.models import Turn

FIRST, LONGEST = timedelta(seconds=30), timedelta(minutes=15)
LOOKS_BACK = timedelta(hours=12)
OFFICE, PIN, AT = "office ", "pin ", " at "
STRANGERS = timedelta(minutes=15)
MOST_STRANGERS = 40
"""Wrong passwords of one address, or for one name from browsers that nobody knows, in that time."""


def name_of(request: HttpRequest, credentials: Any = None) -> str:
    """The name axes counts under: “pin 3 at ⟨tablet⟩” at the block, “office bram at ⟨browser⟩”."""
    credentials = credentials or {}
    if credentials.get("pin_of") is not None:
        return pin_name(request, credentials["pin_of"])
    username = credentials.get("username") or request.POST.get("username", "")
    return f"{OFFICE}{username[:100]}{AT}{_browser(request, username)}"


def pin_name(request: HttpRequest, person_id: object) -> str:
    return f"{PIN}{person_id}{AT}{claimed_tablet(request)}"


def _browser(request: HttpRequest, username: str) -> str:
    known = known_name(request, username) or claimed_tablet(request)
    return known or f"address {_address(request)}"


def _address(request: HttpRequest) -> str:
    return str(request.META.get("REMOTE_ADDR", ""))


def delay(request: HttpRequest) -> timedelta:
    """30 s at the fifth wrong one, doubled at each further one, at most a quarter of an hour."""
    wrong = failures(getattr(request, "counted_as", "") or name_of(request))
    beyond = wrong - settings.AXES_FAILURE_LIMIT
    return LONGEST if beyond < 0 else min(FIRST * 2 ** min(beyond, 8), LONGEST)


def failures(name: str) -> int:
    """Wrong ones under this name since the last right one, at most half a day back."""
    since = timezone.now() - LOOKS_BACK
    last = _last_right(name)
    since = max(since, last) if last else since
    return AccessFailureLog.objects.filter(username=name, attempt_time__gt=since).count()


def _last_right(name: str) -> Any:
    if not name.startswith(PIN):
        rights = AccessLog.objects.filter(username=name).order_by("-attempt_time")
        return rights.values_list("attempt_time", flat=True).first()
    person, _, tablet = name.removeprefix(PIN).partition(AT)
    if not person.isdecimal() or not tablet:
        return None
    return Turn.objects.filter(person=person, tablet=tablet).values_list("since", flat=True).first()


def is_flooded(request: HttpRequest, username: str) -> bool:
    """Whether browsers that nobody knows have tried too often, from this address or for this name; nothing is
    hashed for one more. A browser that was let in before is not asked."""
    if known_name(request, username) or claimed_tablet(request):
        return False
    lately = AccessFailureLog.objects.filter(attempt_time__gt=timezone.now() - STRANGERS)
    of_address = lately.filter(ip_address=_address(request), username__startswith=OFFICE)
    of_name = lately.filter(username__startswith=f"{OFFICE}{username[:100]}{AT}address ")
    return any(rows.count() >= MOST_STRANGERS for rows in (of_address, of_name))


def forget(name: str) -> None:
    """The right PIN: the wrong ones before it no longer count."""
    reset(username=name)


def words(request: HttpRequest) -> str:
    """What a locked page says."""
    wait = delay(request).total_seconds()
    text = f"{wait:.0f} seconds" if wait < 100 else f"{wait / 60:.0f} minutes"
    return f"Too many wrong tries for this name. Wait {text}, then try again."


def as_it_is(request: HttpRequest, response: Any, credentials: Any) -> Any:
    """The view's own page already says that it is locked."""
    return response
