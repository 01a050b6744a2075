"""What a manager may want to look into later is written down."""

from typing import Any

from django.http import HttpRequest
from django.utils import timezone

from rooms.common.db.writing import write
from rooms.staff.block import claimed_tablet
from rooms.staff.models import SecurityEvent, Tablet

Kind = SecurityEvent.Kind
LONGEST = 200


def note(
    kind: Kind,
    request: HttpRequest | None = None,
    *,
    person_id: int | None = None,
    by_id: int | None = None,
    words: str = "",
) -> SecurityEvent:
    """`words`: what stands beside it. The browser's tablet and address stand there by themselves."""
    tablet = claimed_tablet(request) if request is not None else ""
    address = request.META.get("REMOTE_ADDR", "") if request is not None else ""
    with write():
        return SecurityEvent.objects.create(
            kind=kind,
            at=timezone.now(),
            person_id=person_id,
            by_id=by_id,
            tablet=Tablet.objects.filter(pk=tablet).first() if tablet else None,
            address=address,
            words=words[:LONGEST],
        )


def note_refusal(request: HttpRequest, at: Any, words: str) -> None:
    """Once a minute for each person and page, however often it is asked."""
    path = request.path[:LONGEST]
    minute = timezone.now().replace(second=0, microsecond=0)
    known = SecurityEvent.objects.filter(
        kind=Kind.REFUSED, person_id=at.id, at__gte=minute, words__startswith=f"{path}: "
    )
    if not known.exists():
        note(Kind.REFUSED, request, person_id=at.id, words=f"{path}: {words}")
