"""What is changed of one bag: its facts, days, weight and price; and how it leaves and comes back."""

from collections.abc import Collection, Sequence
from dataclasses import asdict, dataclass
from datetime import date, datetime, timedelta
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.utils import timezone

from cutting.cooler.ageing import Window
from cutting.cooler.quality import Damage
from cutting.quantities import Weight
from rooms.catalog.models import Piece
from rooms.common.db.lengths import too_long
from rooms.common.db.seen import Saw, check_unchanged
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.days import keep_days
from rooms.cooler.actions.events import note_event
from rooms.cooler.actions.parts import pass_on
from rooms.cooler.models import AgeWindow, Bag, BagEvent, Seal
from rooms.cooler.queries.codes import country_named
from rooms.cooler.queries.held import refuse_held
from rooms.cooler.queries.one_bag import known_bag, stands_in_cooler
from rooms.cooler.queries.one_delivery import claim_of, open_delivery
from rooms.cooler.queries.windows import usual
from rooms.staff.models import Person

LEAVING = {Bag.State.BACK: "sent back to the supplier", Bag.State.OUT: "thrown away"}
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


def set_quality(
    bag_id: UUID,
    damage: Collection[str],
    marbling: int | None,
    claims: str,
    by_id: int | None,
    at: datetime | None = None,
) -> Bag:
    """What the bag looks like now. Saying the same twice changes nothing. Refused for other claims than those of
    the bag it came from."""
    with write():
        bag = known_bag(bag_id, must_be_in=False)
        if bag.whole_id is not None and claims != bag.claims:
            raise Refused(
                "Claims: this bag came from another one and has its claims. Correct that one; it goes on to this."
            )
        seen = [kind.value for kind in Damage if kind.value in damage]
        if (bag.damage, bag.marbling, bag.claims) != (seen, marbling, claims):
            bag.damage, bag.marbling, bag.claims = seen, marbling, claims
            bag.save(update_fields=["damage", "marbling", "claims"])
            said = ", ".join(bag.quality_words) or "no damage, not scored"
            note_event(bag, "quality", said[:300], by_id, at)
            pass_on(bag, by_id)
    return bag


def set_seen(
    ids: Sequence[UUID],
    damage: Collection[str],
    marbling: int | None,
    by_id: int | None,
    at: datetime | None = None,
) -> None:
    """What is seen as bags are opened is added to what stands on them: one query, and two for each
    bag that changes."""
    for bag in Bag.objects.filter(pk__in=ids):
        if set(damage) <= set(bag.damage) and marbling in (None, bag.marbling):
            continue
        score = bag.marbling if marbling is None else marbling
        set_quality(bag.pk, {*bag.damage, *damage}, score, bag.claims, by_id, at)


def set_seal(bag_id: UUID, seal: str, by_id: int | None, at: datetime | None = None) -> Bag:
    """What the seal looks like now. Saying the same twice changes nothing."""
    if seal not in Seal.values:
        raise BadInput(f"Seal: “{seal}”; {', '.join(Seal.values)} are right.")
    with write():
        bag = known_bag(bag_id)
        if bag.is_unsealed:
            raise Refused("Seal: this piece is not sealed; record first that it was sealed again.")
        if bag.seal != seal:
            bag.seal = seal
            bag.save(update_fields=["seal"])
            note_event(bag, "seal", f"seal {seal}", by_id, at)
    return bag


@write()
def set_window(
    piece: Piece, window: Window, by_id: int | None = None, seen: int | None = None
) -> None:
    """Keep the shop's window; the one that ships for the piece takes the shop's back. The same again changes
    nothing.

    Raises Overtaken where somebody changed it since the page knew the history of the windows as far as `seen`.
    """
    columns = asdict(window)
    row = AgeWindow.objects.filter(piece=piece).first()
    is_usual = window == usual(piece)
    if (is_usual and row is None) or (row is not None and row.window == window):
        return
    check_unchanged(AgeWindow, seen, columns, piece=piece)
    row = row or AgeWindow(piece=piece)
    row._history_user = Person.objects.filter(pk=by_id).first()
    if is_usual:
        row.delete()
    else:
        for name, days in columns.items():
            setattr(row, name, days)
        row.save()
    keep_days(Bag.objects.in_cooler().filter(piece=piece))


def was_frozen(ids: Sequence[UUID], by_id: int | None, at: Any = None) -> None:
    """Mark these bags as frozen once; those that are marked already stay as they are."""
    for bag in Bag.objects.filter(pk__in=ids, was_frozen=False).select_related("piece"):
        bag.was_frozen = True
        bag.save(update_fields=["was_frozen"])
        note_event(bag, "frozen", "signs of freezing, seen at opening", by_id, at)
        pass_on(bag, by_id)


def weigh_again(bag_id: UUID, own: Weight, by_id: int | None) -> Bag:
    """The bag on the shop's own scale, unopened: the base of a short-weight claim."""
    with write():
        bag = known_bag(bag_id)
        bag.own_value, bag.own_unit = own.value, own.unit.value
        bag.save(update_fields=["own_value", "own_unit"])
        words = f"own scale says {own.value} {own.unit}"
        if (short := claim_of(bag)) is not None:
            words += f", {short.missing:.2f} short"
        note_event(bag, "weighed", words, by_id)
    return bag


def price_bags(delivery_id: UUID, amount: Decimal, per: str, by_id: int | None) -> int:
    """Put a price on the bags of an open delivery that have none. Returns how many."""
    if per not in ("lb", "kg"):
        raise BadInput(f"Unit: “{per}”; lb or kg is right.")
    if not 0 < amount <= 10000:
        raise BadInput(f"Price: {amount}; above 0 is right.")
    with write():
        delivery = open_delivery(delivery_id)
        bags = list(delivery.bags.filter(price_amount=None))
        delivery.bags.filter(price_amount=None).update(price_amount=amount, price_per=per)
        BagEvent.objects.bulk_create(
            [
                BagEvent(
                    bag=bag,
                    kind="priced",
                    words=f"price {amount} a {per}",
                    at=timezone.now(),
                    by_id=by_id,
                )
                for bag in bags
            ]
        )
    return len(bags)


def leave(
    bag_id: UUID, state: str, reason: str, by_id: int | None, at: datetime | None = None
) -> Bag:
    """A bag is sent back or thrown away; it needs a reason."""
    if state not in LEAVING:
        raise BadInput(f"State: “{state}”; back or out is right.")
    reason = " ".join(reason.split())[:250]
    if not reason:
        raise BadInput("Reason: it is empty; write why the bag leaves.")
    with write():
        bag = known_bag(bag_id)
        goes_out(bag, state, at)
        note_event(bag, state, f"{LEAVING[Bag.State(state)]}: {reason}", by_id, at)
    return bag


def goes_out(bag: Bag, state: str, at: datetime | None) -> None:
    bag.state, bag.left_at = state, at or timezone.now()
    bag.save(update_fields=["state", "left_at"])


def open_for_grinding(bag_id: UUID, by_id: int | None) -> Bag:
    """A bag of bought trim leaves the cooler for a tub of the grinder, without a test.

    Raises Refused where it is not there any more, past its end, or held.
    """
    with write():
        bag = known_bag(bag_id)
        if bag.state != Bag.State.IN:
            raise Refused("This bag is not in the cooler any more; look at the page again.")
        refuse_held([bag.lot])
        if bag.ends_on is not None and bag.ends_on < timezone.localdate():
            raise Refused("This bag is past its end; decide about it first.")
        goes_out(bag, Bag.State.OPENED, None)
        note_event(bag, "ground", "poured into a tub of the grinder", by_id, None)
    return bag


def return_to_cooler(bag_id: UUID, why: str, by_id: int | None) -> None:
    """A bag that left by mistake is in the cooler again, with the days of what it lived through since."""
    with write():
        bag = Bag.objects.select_for_update().get(pk=bag_id)
        bag.state, bag.left_at = Bag.State.IN, None
        bag.save(update_fields=["state", "left_at"])
        keep_days(Bag.objects.filter(pk=bag_id))
        note_event(bag, "back", f"{why}; back in the cooler"[:300], by_id, None)


def take_out(
    bag_ids: list[Any], words: str, by_id: int | None, at: datetime | None = None
) -> list[Bag]:
    """Bags are opened for a test. All or none; a bag that is out already is refused.

    Four queries for any number of them. Raises Refused for a lot that is held.
    """
    found = Bag.objects.select_for_update(of=("self",)).select_related("piece", "delivery")
    found = found.in_bulk(bag_ids)
    if len(found) < len(set(bag_ids)):
        raise BadInput("Bag: it is not known; choose one of the cooler.")
    bags, when = [found[bag_id] for bag_id in bag_ids], at or timezone.now()
    refuse_held(bag.lot for bag in bags)
    for bag in bags:
        stands_in_cooler(bag)
        if bag.piece_id is None:
            raise Refused(f"Product code {bag.gtin} is not named yet; say what piece it is.")
        bag.state, bag.left_at = Bag.State.OPENED, when
    Bag.objects.bulk_update(bags, ["state", "left_at"])
    BagEvent.objects.bulk_create(
        BagEvent(bag=bag, kind="opened", words=words, at=when, by_id=by_id) for bag in bags
    )
    return bags
