"""How long a name stays locked after wrong PINs or passwords: each wrong one doubles it.

django-axes counts and locks; this says how long, under which name, and in which words.
"""

from datetime import timedelta
from typing import Any

from axes.models import AccessFailureLog
from axes.utils import reset
from django.conf import settings
from django.http import HttpRequest
from django.utils import timezone

from rooms.staff.models import Person, Turn

FIRST, LONGEST = timedelta(seconds=30), timedelta(minutes=15)
LOOKS_BACK = timedelta(hours=12)


def name_of(request: HttpRequest, credentials: Any = None) -> str:
    """The name axes counts under: "pin 3" at the block, the user name in the office."""
    credentials = credentials or {}
    if credentials.get("pin_of") is not None:
        return f"pin {credentials['pin_of']}"
    return credentials.get("username") or request.POST.get("username", "")


def delay(request: HttpRequest) -> timedelta:
    """30 s at the fifth wrong one, doubled at each further one, at most a quarter of an hour."""
    wrong = failures(getattr(request, "counted_as", "") or name_of(request))
    beyond = wrong - settings.AXES_FAILURE_LIMIT
    return LONGEST if beyond < 0 else min(FIRST * 2 ** min(beyond, 8), LONGEST)


def failures(name: str) -> int:
    """Wrong ones under this name since the last right one, at most half a day back."""
    since = timezone.now() - LOOKS_BACK
    if name.startswith("pin ") and name[4:].isdecimal():
        last = Turn.objects.filter(person=name[4:]).values_list("since", flat=True).first()
    else:
        last = Person.objects.filter(username=name).values_list("last_login", flat=True).first()
    since = max(since, last) if last else since
    return AccessFailureLog.objects.filter(username=name, attempt_time__gt=since).count()


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
