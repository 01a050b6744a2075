"""What the cooler knows of the bags that are opened together, and of their place in the order."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.utils import timezone

from cutting.cooler.ageing import TooYoung, Urgency, Window, due, too_young
from cutting.cooler.quality import Damage
from cutting.quantities import ZERO, Unit, UnitPrice, working
from rooms.bench.models import Output
from rooms.catalog.models import Cut, Piece, Plan, PlanOutput
from rooms.common.errors import BadInput, Refused
from rooms.cooler.models import Bag
from rooms.cooler.queries.days import core_bags
from rooms.cooler.queries.held import refuse_held
from rooms.cooler.queries.windows import windows
from wording.cooler import due_words, young_words

MOST = 40


@dataclass(frozen=True)
class OfBags:
    """One or several bags of one piece as one test: their sums, and what they share."""

    ids: tuple[UUID, ...]
    piece: Piece
    weight: Decimal
    unit: str
    price: Decimal
    per: str
    freight: Decimal
    discount: Decimal
    supplier: str
    lot: str
    packed_on: date
    aged_from: date
    """Where the age of the youngest meat in them counts from: what lay open did not age."""
    age: int
    was_frozen: bool
    damage: list[str]
    marbling: int | None
    claims: str
    past: str
    """Why it is decided before it is cut; empty while every bag is within its end."""

    @property
    def paid(self) -> UnitPrice:
        return UnitPrice(self.price, Unit(self.per))

    def initial(self) -> dict[str, object]:
        """For the form that opens a piece."""
        return {
            "weight": f"{self.weight:f}",
            "unit": self.unit,
            "price": f"{self.price:f}",
            "freight": f"{self.freight:f}",
            "discount": f"{self.discount:f}",
            "supplier": self.supplier,
            "lot": self.lot,
            "packed_on": self.packed_on.isoformat(),
        }


def of_bags(ids: Sequence[str]) -> OfBags:
    """The bags as one opening: two queries. Refuses what does not go together, and a lot that is held."""
    try:
        wanted = list(dict.fromkeys(UUID(one) for one in ids))
    except ValueError:
        raise BadInput("Bag: it is not known; choose one of the cooler.") from None
    if not 0 < len(wanted) <= MOST:
        raise BadInput(f"Bags: {len(wanted)}; 1 to {MOST} are right.")
    found = Bag.objects.filter(pk__in=wanted).select_related("piece", "delivery").in_bulk()
    bags = [found[one] for one in wanted if one in found]
    if len(bags) < len(wanted):
        raise BadInput("Bag: it is not known; choose one of the cooler.")
    refuse_held(bag.lot for bag in bags)
    _go_together(bags)
    first = bags[0]
    with working():
        weight = sum((bag.weight_value for bag in bags), ZERO)
        freight = sum((bag.freight for bag in bags), ZERO)
        discount = sum((bag.discount for bag in bags), ZERO)
    today = timezone.localdate()
    aged_from = max(bag.aged.counted_from(today) for bag in bags)
    return OfBags(
        ids=tuple(bag.pk for bag in bags),
        piece=first.piece,
        weight=weight,
        unit=first.weight_unit,
        price=first.price_amount,
        per=first.price_per,
        freight=freight,
        discount=discount,
        supplier=first.delivery.supplier,
        lot=", ".join(_each(bag.lot for bag in bags))[:300],
        packed_on=min(bag.packed_on for bag in bags),
        aged_from=aged_from,
        age=(today - aged_from).days,
        was_frozen=any(bag.was_frozen for bag in bags),
        damage=[kind.value for kind in Damage if any(kind.value in bag.damage for bag in bags)],
        marbling=min((bag.marbling for bag in bags if bag.marbling), default=None),
        claims=first.claims if len({bag.claims for bag in bags}) == 1 else "",
        past=_past(bags),
    )


def too_young_in(
    piece: Piece, outputs: Iterable[PlanOutput | Output], packed_on: date | None
) -> list[TooYoung]:
    """What of a piece is too young today, by its window and the plan's cuts: two queries. Nothing
    can be said without its day of packing."""
    if packed_on is None:
        return []
    wanted = {output.cut_id for output in outputs if output.cut_id}
    ages = dict(Cut.objects.filter(pk__in=wanted).values_list("pk", "least_age_days"))
    return _too_young(windows([piece])[piece.pk], outputs, ages, packed_on)


def _too_young(
    window: Window,
    outputs: Iterable[PlanOutput | Output],
    ages: Mapping[int, int | None],
    packed_on: date,
) -> list[TooYoung]:
    """`ages`: the least age of each cut, by its id."""
    least = {o.name: age for o in outputs if o.cut_id and (age := ages.get(o.cut_id))}
    return too_young(packed_on, timezone.localdate(), window, least)


@dataclass(frozen=True)
class Guard:
    """What is too young for a plan, and the plans of the piece that suit the day."""

    young: list[str]
    suits: list[Plan]


def guard(piece: Piece, plan: Plan | None, packed_on: date | None) -> Guard:
    """For the page that opens a piece: three queries for any number of plans."""
    if packed_on is None or plan is None:
        return Guard([], [])
    plans = {each.pk: each for each in Plan.in_house_order(piece.plans)}
    outputs: dict[int, list[PlanOutput]] = {pk: [] for pk in plans}
    ages: dict[int, int | None] = {}
    for output in PlanOutput.objects.filter(plan__in=plans).select_related("cut"):
        outputs[output.plan_id].append(output)
        if output.cut is not None:
            ages[output.cut.pk] = output.cut.least_age_days
    window = windows([piece])[piece.pk]
    young = _too_young(window, outputs[plan.pk], ages, packed_on)
    if not young:
        return Guard([], [])
    suits = [
        each
        for pk, each in plans.items()
        if pk != plan.pk and not _too_young(window, outputs[pk], ages, packed_on)
    ]
    return Guard([young_words(one) for one in young], suits)


def _past(bags: list[Bag]) -> str:
    today = timezone.localdate()
    past = [core for core in core_bags(bags).values() if due(core, today).urgency is Urgency.PAST]
    return due_words(past[0], today)[0] if past else ""


def _each(texts: Any) -> list[str]:
    return [text for text in dict.fromkeys(texts) if text]


def _go_together(bags: list[Bag]) -> None:
    for bag in bags:
        if bag.state != Bag.State.IN:
            raise Refused(
                f"A bag of {bag.weight_value} {bag.weight_unit} is"
                f" {bag.get_state_display()} already."
            )
        if bag.delivery.is_open:
            raise Refused(
                f"Delivery {bag.delivery.number} is not closed: its temperature and freight are not"
                " known yet. Close it first."
            )
        if bag.piece_id is None:
            raise Refused(f"Product code {bag.gtin} is not named yet; say what piece it is.")
        if bag.price_amount is None:
            raise Refused("A bag has no price yet; close its delivery first.")
    for name, words in (
        ("piece_id", "pieces"),
        ("weight_unit", "units"),
        ("price_amount", "prices"),
        ("price_per", "prices"),
    ):
        if len({getattr(bag, name) for bag in bags}) > 1:
            raise Refused(f"These bags have different {words}: open each as a test of its own.")


def in_which_order(ids: Sequence[UUID]) -> str:
    """Whether bags of the same piece were more pressing, in words: two queries."""
    chosen = Bag.objects.free().filter(pk__in=ids, piece__isnull=False).first()
    if chosen is None:
        return "not in the order"
    same = Bag.objects.free().filter(piece=chosen.piece_id).in_order(timezone.localdate())
    order = list(same.values_list("pk", flat=True))
    last = max(place for place, pk in enumerate(order) if pk in set(ids))
    before = sum(pk not in set(ids) for pk in order[:last])
    return (
        f"{before} of the same piece stood before it in the order"
        if before
        else "first in the order"
    )
