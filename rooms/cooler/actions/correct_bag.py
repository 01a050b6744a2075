"""What a bag came with, put right: its lot, its dates, its grade, where it is from."""

from dataclasses import dataclass
from datetime import date, timedelta
from uuid import UUID

from django.utils import timezone

from rooms.common.db.lengths import too_long
from rooms.common.db.seen import Saw
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.event import note_event
from rooms.cooler.actions.pass_on import pass_on
from rooms.cooler.models import Bag
from rooms.cooler.queries.codes import country_named
from rooms.cooler.queries.days import keep_days
from rooms.cooler.queries.held import refuse_held
from rooms.cooler.queries.one_bag import known_bag

OLDEST = timedelta(days=400)
NAMES = {
    "lot": "lot",
    "packed_on": "packed on",
    "use_by": "use by",
    "grade": "grade",
    "country": "country of origin",
    "born": "born in",
    "raised": "raised in",
    "slaughtered": "slaughtered in",
}


@dataclass(frozen=True)
class BagFacts:
    """What the supplier's papers say of one bag. Countries of its life by their two letters, all or none."""

    lot: str
    packed_on: date
    use_by: date | None
    grade: str
    country: str
    born: str
    raised: str
    slaughtered: str


def correct_bag(bag_id: UUID, facts: BagFacts, seen: str, by_id: int | None) -> Bag:
    """Put right what a bag came with, whether it lies in the cooler or is opened.

    `seen`: the bag as the page showed it. Each change is an event with both values. The new lot may be held:
    the bag is then held with it; a bag of a held lot keeps its lot until the hold is lifted. Its parts and
    the pieces cut from it are put right with it; Refused for one of those.
    """
    saw = Saw(lambda: Bag.objects.filter(pk=bag_id).first(), seen)
    with write(saw=saw):
        bag = known_bag(bag_id, must_be_in=False)
        wanted = {name: getattr(facts, name) for name in NAMES}
        wanted["country"] = country_named(facts.country)
        changed = {name: new for name, new in wanted.items() if getattr(bag, name) != new}
        if not changed:
            return bag
        if bag.whole_id is not None:
            raise Refused(
                "This bag came from another one: correct that one. What is corrected there goes on to this one."
            )
        _check(bag, facts)
        if "lot" in changed:
            refuse_held([bag.lot])
        said = [
            f"{NAMES[name]} {new or '–'}, was {getattr(bag, name) or '–'}"
            for name, new in changed.items()
        ]
        for name, new in changed.items():
            setattr(bag, name, new)
        if wrong := too_long(bag):
            raise BadInput("Bag: " + "; ".join(wrong))
        bag.save(update_fields=[*changed, *(("lot_key",) if "lot" in changed else ())])
        keep_days(Bag.objects.filter(pk=bag.pk))
        note_event(bag, "corrected", f"corrected: {'; '.join(said)}"[:300], by_id)
        pass_on(bag, by_id)
    return bag


def _check(bag: Bag, facts: BagFacts) -> None:
    came = timezone.localdate(bag.came_at)
    if facts.packed_on > came:
        raise BadInput(
            f"Packed on: {facts.packed_on}; it came on {came}, that day or before is right."
        )
    if came - facts.packed_on > OLDEST:
        raise BadInput(
            f"Packed on: {facts.packed_on}; at most {OLDEST.days} days before it came on {came} is right."
        )
    if facts.use_by is not None and facts.use_by < facts.packed_on:
        raise BadInput(f"Use by: {facts.use_by}; {facts.packed_on} or later is right.")
    life = (facts.born, facts.raised, facts.slaughtered)
    if any(life) and not all(life):
        raise BadInput(
            "Country of origin: born, raised and slaughtered in; all three or none of them is right."
        )
