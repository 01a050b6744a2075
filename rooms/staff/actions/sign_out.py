"""The end of somebody's office log-ins."""

from django.db.models import F

from rooms.common.db.writing import write
from rooms.staff.models import Person


def end_sessions(person_id: int) -> None:
    """From now on no cookie of before is anybody's: what they were signed for has another number."""
    with write():
        Person.objects.filter(pk=person_id).update(sign_outs=F("sign_outs") + 1)
