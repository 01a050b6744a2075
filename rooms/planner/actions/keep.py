"""Keep an ad or a choice of what to buy under a name, and take it off the list."""

from dataclasses import dataclass

from django.utils import timezone

from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.planner.models import Kept
from rooms.shop.queries.dates import said_moment

LONGEST = Kept._meta.get_field("name").max_length
MOST_FIELDS = 60
LONGEST_FIELD = 120


@dataclass(frozen=True)
class Keeping:
    """What is kept. `over`: the revision of the plan of that name that the page has seen and
    that this one takes the place of."""

    kind: Kept.Kind
    name: str
    fields: dict[str, str]
    said: dict[str, str]
    over: str = ""


@write()
def keep(one: Keeping, by_id: int | None) -> Kept:
    """The plan under its name. The same plan again changes nothing.

    Refused when somebody keeps another one under that name, unless the page has seen that one.
    """
    name = " ".join(one.name.split())
    if not 0 < len(name) <= LONGEST:
        wrong = f"{len(name)} letters" if name else "it is empty"
        raise BadInput(f"Name: {wrong}; 1 to {LONGEST} letters are right.")
    if len(one.fields) > MOST_FIELDS or any(len(v) > LONGEST_FIELD for v in one.fields.values()):
        raise BadInput(f"Fields: at most {MOST_FIELDS} of {LONGEST_FIELD} letters are right.")
    new = {"fields": one.fields, "said": one.said, "kept_at": timezone.now(), "kept_by_id": by_id}
    kept = Kept.objects.select_for_update(of=("self",)).filter(kind=one.kind, name=name).first()
    if kept is None:
        return Kept.objects.create(kind=one.kind, name=name, **new)
    if kept.fields == one.fields:
        return kept
    if one.over != str(kept.revision):
        who, at = kept.kept_by or "nobody named", said_moment(kept.kept_at)
        raise Refused(
            f"“{name}” was kept by {who}, {at}, with other numbers. Nothing was lost:"
            " give yours another name, or keep it over that one."
        )
    for field, value in new.items():
        setattr(kept, field, value)
    kept.revision += 1
    kept.save()
    return kept


@write()
def take_off(kind: Kept.Kind, pk: int) -> None:
    """Off the list. A repeat changes nothing."""
    Kept.objects.filter(kind=kind, pk=pk).delete()
