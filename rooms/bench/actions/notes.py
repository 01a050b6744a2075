"""Notes: lines that are only ever added, so two people never overwrite each other."""

from django.utils import timezone

from rooms.bench.actions.revision import touch
from rooms.bench.models import CuttingTest, Note
from rooms.common.db.keys import own_key
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput

LONGEST_NOTE = 500


def add_note(test: CuttingTest, key: str, text: str, by_id: int | None) -> None:
    """Add one line. The same key again changes nothing."""
    text = " ".join(text.split())
    if not text:
        raise BadInput("Note: it is empty; write a few words.")
    if len(text) > LONGEST_NOTE:
        raise BadInput(f"Note: {len(text)} characters; at most {LONGEST_NOTE} are right.")
    unique = own_key(key, "Note")
    sent = Sent(unique, "note", text, {"test_id": test.pk, "text": text})
    with write(key=sent, recorded=kept_by(Note, unique, "test_id", "text")) as door:
        if door.first is None:
            Note.objects.create(key=unique, test=test, text=text, at=timezone.now(), by_id=by_id)
            touch(test)
