"""What happened to a bag, as its page tells it."""

from datetime import datetime

from django.utils import timezone

from rooms.cooler.models import Bag, BagEvent


def note_event(
    bag: Bag, kind: str, words: str, by_id: int | None, at: datetime | None = None
) -> None:
    BagEvent.objects.create(bag=bag, kind=kind, words=words, at=at or timezone.now(), by_id=by_id)
