"""Who is at the block: kept in the signed session cookie until log-in comes."""

from dataclasses import dataclass

from rooms.common.errors import BadInput
from rooms.staff.models import Person


@dataclass(frozen=True)
class AtTheBlock:
    id: int
    name: str
    role: str


def who(request) -> AtTheBlock | None:
    """The person this tablet's session named, without a query."""
    kept = request.session.get("cutter")
    return AtTheBlock(**kept) if kept else None


def by_id(request) -> int | None:
    """The id of who is at the block, for an action's record; None when nobody is named."""
    at = who(request)
    return at.id if at else None


def step_up(request, person_id: str) -> AtTheBlock:
    """Put a person at the block. Raises BadInput for somebody unknown."""
    person = Person.objects.filter(is_active=True, pk=person_id).first() \
        if person_id.isdecimal() and len(person_id) < 12 else None  # fmt: skip
    if person is None:
        raise BadInput("Cutter: nobody of that name works here; choose one of the names shown.")
    now = AtTheBlock(person.pk, str(person), person.get_role_display())
    request.session["cutter"] = {"id": now.id, "name": now.name, "role": now.role}
    return now
