"""Who is asking: a name and PIN on an enrolled tablet, or the office log-in. One query."""

import hashlib
import secrets
from dataclasses import dataclass
from datetime import timedelta
from typing import Any
from uuid import UUID

from django.contrib.auth import logout
from django.core.signing import BadSignature
from django.db import connection
from django.http import HttpRequest
from django.utils import timezone

from rooms.staff import sessions
from rooms.staff.actions.sign_out import end_sessions
from rooms.staff.models import Tablet, Turn
from rooms.staff.rights import Right

SHIFT = timedelta(hours=14)
"""A turn at the block ends by itself after this."""
TABLET_COOKIE, KNOWN_COOKIE = "tablet", "known"
TEN_YEARS = 10 * 365 * 24 * 3600
_TURN = """
SELECT person.id, person.first_name, person.username, person.role, person.is_under_18, tablet.name
FROM staff_turn turn
JOIN staff_person person ON person.id = turn.person_id AND person.is_active
JOIN staff_tablet tablet ON tablet.id = turn.tablet_id AND tablet.withdrawn_at IS NULL
WHERE turn.id = %s AND turn.tablet_id = %s AND turn.until IS NULL AND turn.since > %s
"""


@dataclass(frozen=True)
class AtTheBlock:
    """`turn`: the turn at a tablet's block; empty when it is the office log-in."""

    id: int
    name: str
    role: str
    is_under_18: bool = False
    tablet: str = ""
    turn: str = ""
    is_wall: bool = False
    """It is the screen on the wall, which shows and does nothing else."""

    @property
    def may(self) -> dict[str, bool]:
        """For templates: {"weigh": True, "approve": False, …}."""
        return {right.name.lower(): not self.refusal(right) for right in Right}

    def refusal(self, right: Right) -> str:
        if self.is_wall and right is not Right.LOOK:
            return "The screen on the wall only shows. Leave it for that."
        return right.refusal(self.name, self.role, in_office=not self.turn)


def who(request: HttpRequest) -> AtTheBlock | None:
    """The person asking, or None. Kept for the request."""
    if not hasattr(request, "at_the_block"):
        request.at_the_block = _who(request)
    return request.at_the_block


def _who(request: HttpRequest) -> AtTheBlock | None:
    turn = request.session.get("turn")
    if sessions.is_idle(request, at_block=bool(turn)):
        return None
    is_wall = bool(request.session.get(sessions.WALL))
    if turn:
        return _of_turn(turn, _claimed(request)[0], is_wall=is_wall)
    user = request.user
    if not user.is_authenticated:
        return None
    return AtTheBlock(user.pk, str(user), user.role, user.is_under_18, is_wall=is_wall)


def _of_turn(turn: str, tablet: str, *, is_wall: bool) -> AtTheBlock | None:
    since = timezone.now() - SHIFT
    params = [_hex(turn), _hex(tablet), connection.ops.adapt_datetimefield_value(since)]
    with connection.cursor() as cursor:
        cursor.execute(_TURN, params)
        row = cursor.fetchone()
    if row is None:
        return None
    pk, first, username, role, under_18, name = row
    return AtTheBlock(pk, first or username, role, bool(under_18), name, turn, is_wall)


def _hex(text: str) -> str:
    try:
        return UUID(text).hex
    except ValueError:
        return ""


def by_id(request: HttpRequest) -> int | None:
    """The id of who is asking, for an action's record; None when nobody is named."""
    at = who(request)
    return at.id if at else None


def taken_by(request: HttpRequest, turn: str) -> int | None:
    """Who took a weighing that waited on the tablet: the turn it was taken in, at this tablet.

    The turn may have ended since. Anything else counts for who is asking now.
    """
    at = who(request)
    if at is None or not at.turn or turn in ("", at.turn) or not _hex(turn):
        return by_id(request)
    found = Turn.objects.filter(pk=_hex(turn), tablet=_claimed(request)[0]).first()
    return found.person_id if found else by_id(request)


# --- the tablet ---------------------------------------------------------------------------


def _claimed(request: HttpRequest) -> tuple[str, str]:
    """Id and secret from the cookie, whose signature holds; empty otherwise."""
    value = request.get_signed_cookie(TABLET_COOKIE, default="", salt=TABLET_COOKIE)
    tablet, _, secret = value.partition(":")
    return tablet, secret


def claimed_tablet(request: HttpRequest) -> str:
    """The id of the tablet that a cookie of ours names, withdrawn or not; empty for none. No query."""
    return _hex(_claimed(request)[0])


def known_name(request: HttpRequest, username: str) -> str:
    """What a browser is counted under that this person signed in on before; empty for another. No query."""
    try:
        value = request.get_signed_cookie(KNOWN_COOKIE, default="", salt=KNOWN_COOKIE)
    except BadSignature:
        return ""
    known, _, of = value.partition(":")
    return f"known {known}" if known and of == username else ""


def know(response: Any, username: str, *, secure: bool) -> None:
    """Let the browser be known again: wrong tries elsewhere do not lock it."""
    response.set_signed_cookie(
        KNOWN_COOKIE,
        f"{secrets.token_hex(4)}:{username}",
        salt=KNOWN_COOKIE,
        max_age=TEN_YEARS,
        httponly=True,
        samesite="Lax",
        secure=secure,
    )


def hashed(secret: str) -> str:
    """The secret is 32 random bytes, so a plain hash is enough."""
    return hashlib.sha256(secret.encode()).hexdigest()


def tablet_of(request: HttpRequest) -> Tablet | None:
    """The enrolled tablet that asks, or None: one query."""
    tablet, secret = _claimed(request)
    if not _hex(tablet):
        return None
    found = Tablet.objects.filter(pk=tablet, withdrawn_at=None).first()
    return found if found and secrets.compare_digest(found.secret, hashed(secret)) else None


def remember(response: Any, tablet: Tablet, secret: str, *, secure: bool) -> None:
    """Give the browser its cookie."""
    response.set_signed_cookie(
        TABLET_COOKIE,
        f"{tablet.pk}:{secret}",
        salt=TABLET_COOKIE,
        max_age=TEN_YEARS,
        httponly=True,
        samesite="Lax",
        secure=secure,
    )


def stand(request: HttpRequest, turn: Turn) -> None:
    """This session is that turn and nothing else: an office log-in does not stay open behind it."""
    leave_office(request)
    request.session["turn"] = str(turn.pk)
    sessions.touch(request)
    request.__dict__.pop("at_the_block", None)


def leave_office(request: HttpRequest) -> None:
    """End this session, and with it every copy of its cookie: those of the same person elsewhere too."""
    if request.user.is_authenticated:
        end_sessions(request.user.pk)
    logout(request)
