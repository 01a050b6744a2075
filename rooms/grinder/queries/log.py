"""The log: a batch with everything 9 CFR 320.1(b)(4) asks for, and finding it again by day, lot, name."""

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from typing import Any

from django.db.models import Q, QuerySet
from django.utils import timezone

from cutting.grinding.loss import Limits, limits_of, loss_of, patties
from cutting.grinding.names import label_words
from cutting.grinding.nutrition import NUTRIENTS, RULE, exemption
from cutting.grinding.seasoning import ingredients
from cutting.quantities import ZERO, Unit, Weight, working
from cutting.tracing.lots import lot_key
from rooms.grinder.models import (
    Batch,
    Came,
    GrinderRules,
    NutritionFacts,
    Packed,
    Relabeled,
    Tested,
    TubIn,
    TubLot,
    TubOut,
)
from rooms.grinder.queries.claims import mend_words, over_its_label, right_label
from rooms.grinder.queries.house import house_rules
from rooms.grinder.queries.lots import (
    Lot,
    entries_of,
    entries_of_batches,
    is_known,
    linked,
    lot_name,
    lot_words,
    once_each,
)
from rooms.grinder.queries.packed import packed_weight
from rooms.grinder.queries.seasoning import to_core as seasoning_of
from wording.pencil import money, percent

KEPT = timedelta(days=366)
"""A grind record is kept for a year: 9 CFR 320.3. Value from memory."""
YEAR = timedelta(days=365)
SHOWN, LOOKS_BACK = 60, 24


@dataclass(frozen=True)
class BatchView:
    """One batch of the log."""

    batch: Batch
    words: str
    run: str
    """Names the clean-down that it begins with: batches of one are traced as one."""
    linked: list[Batch]
    takes: list[TubOut]
    entries: list[TubIn]
    lots: list[Lot]
    packed: list[Packed]
    tested: list[Tested]
    came: list[Came]
    """What was said of what came out, the last last."""
    carried: TubIn | None
    cost: str
    usual: Limits | None
    """What grinding loses as a rule; None with too few batches."""
    rules: GrinderRules
    nutrition: str
    ingredients: str
    over_label: str = ""
    """Why nothing of it is labeled as it is; empty where it may be."""
    right_label: Decimal | None = None
    """The fat that its label could state instead."""
    mend: str = ""
    """What leaner meat would bring it back to its label."""
    relabeled: tuple[Relabeled, ...] = ()

    @property
    def unknown(self) -> list[TubIn]:
        """What went in without a lot: questions that somebody has to answer."""
        return [one for one in self.entries if not is_known(one.lots)]

    @property
    def standing(self) -> list[Packed]:
        """Trays that were not taken back."""
        return [one for one in self.packed if not hasattr(one, "taken_back")]

    @property
    def corrected(self) -> list[Came]:
        """What was said before the last word."""
        return self.came[:-1]

    @property
    def trays(self) -> int:
        return sum(one.trays for one in self.standing)

    @property
    def packed_weight(self) -> Decimal:
        return packed_weight(self.batch, self.packed)

    @property
    def pieces(self) -> list[str]:
        """“24 patties, 4.01 oz each”."""
        unit, found = Unit(self.batch.unit), []
        for one in self.standing:
            if one.pieces:
                with working():
                    ounces = Weight(one.weight, unit).to(Unit.OZ) / one.pieces
                found.append(f"{one.pieces} {one.get_shape_display()}, {ounces:.2f} oz each")
        return found

    @property
    def celsius_in(self) -> str:
        return f"{self.batch.celsius_in / 1000:.1f}"

    @property
    def celsius_out(self) -> str:
        out = self.batch.celsius_out
        return "" if out is None else f"{out / 1000:.1f}"

    @property
    def loss(self) -> str:
        """What neither came out nor stayed in the grinder; empty while it is ground."""
        batch = self.batch
        if batch.got is None or batch.machine is None:
            return ""
        share = loss_of(batch.went_in, batch.got, batch.machine)
        with working():
            lost = share * batch.went_in
        words = f"{lost:.2f} {batch.unit}, {percent(share)}"
        if self.usual is None:
            return words
        says = "as usual" if self.usual.holds(share) else "not as usual: look for the reason"
        return f"{words}; {percent(self.usual.usual)} in the mean, {says}"

    @property
    def patties(self) -> str:
        """How many of a usual weight what came out makes, and full boxes of them."""
        if self.batch.got is None:
            return ""
        ounces, box = Weight(self.batch.got, Unit(self.batch.unit)).to(Unit.OZ), self.rules.in_box
        made = [(each, patties(ounces, Decimal(each), box)) for each in self.rules.patties]
        return " · ".join(
            f"{one.count} of {each} oz{_boxes(one.boxes, box)}, {one.left:.1f} oz left"
            for each, one in made
        )


def _boxes(full: int, box: int) -> str:
    """“, 2 boxes of 24”; empty for none."""
    return f", {full} box{'es' if full > 1 else ''} of {box}" if full else ""


def batch_view(batch: Batch) -> BatchView:
    """At most sixteen queries."""
    fat = batch.stated if batch.stated is not None else batch.fat
    entries, rules = entries_of(batch), house_rules()
    over = over_its_label(batch)
    return BatchView(
        batch,
        label_words(batch.name, fat),
        lot_name(batch),
        [one for one in linked(batch) if one.pk != batch.pk],
        list(batch.takes.select_related("tub")),
        entries,
        once_each(entries),
        list(batch.packed.select_related("by", "taken_back")),
        list(batch.tested.standing().select_related("by")),
        list(batch.came.select_related("by")),
        TubIn.objects.standing().filter(batch=batch).select_related("tub").first(),
        money(batch.cost_per_unit),
        usual_loss(batch),
        rules,
        nutrition_words(batch, fat, rules),
        _ingredients(batch),
        over,
        right_label(batch) if over else None,
        mend_words(batch) if over else "",
        tuple(batch.relabeled.select_related("by")),
    )


def _ingredients(batch: Batch) -> str:
    """Of a seasoned batch; a single meat needs none."""
    if batch.seasoning is None:
        return ""
    return ingredients([(batch.species, batch.weight)], seasoning_of(batch.seasoning))


def nutrition_words(batch: Batch, fat: Decimal, rules: GrinderRules) -> str:
    """What the label must say of nutrition: the facts, or why the shop need not state them. One query;
    none without a product."""
    if batch.product is None:
        return ""
    if rules.nutrition == GrinderRules.Nutrition.FACTS:
        facts = NutritionFacts.objects.filter(product=batch.product_id)
        same = [one for one in facts if one.fat == fat]
        if not same:
            return f"Nutrition facts at {percent(fat)} fat are missing: enter them ({RULE})"
        return facts_in_words(same[0])
    since = batch.begun_at - YEAR
    ground = Batch.objects.standing().filter(
        product=batch.product_id, begun_at__gt=since, begun_at__lte=batch.begun_at
    )
    pounds = ZERO
    with working():
        for weight, unit in ground.values_list("weight", "unit"):
            pounds += Weight(weight, Unit(unit)).to(Unit.LB)
    return exemption(batch.product.name.lower(), pounds).words


def facts_in_words(facts: NutritionFacts) -> str:
    """“A serving of 112 g: calories 240 kcal, …”, as on the label."""
    amounts = facts.amounts
    told = [f"{name.lower()} {amounts[key]} {unit}" for key, (name, unit) in NUTRIENTS.items()]
    return f"A serving of {facts.serving:f} g: {', '.join(told)}"


def usual_loss(batch: Batch) -> Limits | None:
    """Of the batches before it: one query."""
    rows = Batch.objects.standing().filter(number__lt=batch.number).exclude(got=None)
    last = list(rows.values_list("weight", "seasoned_with", "got", "machine")[:LOOKS_BACK])
    with working():
        losses = [loss_of(meat + more, got, rest) for meat, more, got, rest in reversed(last)]
    return limits_of(losses)


def found(text: str, day: date | None) -> list[Batch]:
    """Batches by the lot of something in them, by name or number, and by day; the newest first: at
    most four queries."""
    rows: QuerySet[Any] = Batch.objects.select_related("cleaned", "begun_by")
    words = text.strip()
    if words:
        number = words.upper().removeprefix("G-")
        asked = Q(name__icontains=words) | Q(pk__in=_of_lot(words))
        if number.isascii() and number.isdecimal() and len(number) < 9:
            asked |= Q(number=int(number))
        rows = rows.filter(asked)
    if day is not None:
        rows = rows.filter(_between(day, day))
    return list(rows[:SHOWN])


def _between(first: date, last: date) -> Q:
    """Begun on one of these days."""
    start = timezone.make_aware(datetime.combine(first, time()))
    end = timezone.make_aware(datetime.combine(last + timedelta(days=1), time()))
    return Q(begun_at__gte=start, begun_at__lt=end)


@dataclass(frozen=True)
class Record:
    """One batch as an inspector reads it: 9 CFR 320.1(b)(4)."""

    batch: Batch
    lot: str
    materials: list[str]
    lots: list[Lot]
    is_question: bool
    """Whether something in it has a lot that nobody knows."""
    celsius: str

    @property
    def sources(self) -> list[str]:
        """Its lots in words, and that there is one nobody knows."""
        words = [lot_words(lot) for lot in self.lots]
        return [*words, "something in it has no known lot"] if self.is_question else words

    def row(self) -> list[str]:
        """For a table; one line a batch."""
        batch = self.batch
        return [
            str(batch),
            f"{timezone.localtime(batch.begun_at):%Y-%m-%d %H:%M}",
            str(batch.begun_by or ""),
            batch.name,
            f"{batch.weight:f}",
            batch.unit,
            self.lot,
            "; ".join(self.materials),
            "; ".join(self.sources),
            f"{timezone.localtime(batch.cleaned.at):%Y-%m-%d %H:%M}",
            str(batch.cleaned.by or ""),
            f"{timezone.localtime(batch.set_up.at):%Y-%m-%d %H:%M}",
            str(batch.set_up.by or ""),
            self.celsius,
            "taken back" if batch.undone_at else "",
        ]


COLUMNS = [
    "batch",
    "ground",
    "by",
    "name",
    "weight",
    "unit",
    "lot",
    "materials",
    "supplier lots, suppliers, establishments, packed",
    "cleaned",
    "by",
    "set up",
    "by",
    "meat in and out, C",
    "remark",
]


def records(first: date, last: date) -> list[Record]:
    """Every batch of these days with its materials and lots, the oldest first: five queries."""
    rows = Batch.objects.filter(_between(first, last)).order_by("number")
    rows = rows.select_related("begun_by", "cleaned__by", "set_up__by", "seasoning")
    batches = list(rows.prefetch_related("takes__tub"))
    entries = entries_of_batches(batches)
    return [_record(batch, entries[batch.pk]) for batch in batches]


def _record(batch: Batch, entries: list[TubIn]) -> Record:
    materials = [
        f"{take.weight.normalize():f} {take.tub.unit} {take.tub.name}"
        f" ({take.tub.get_kind_display()})"
        for take in batch.takes.all()
    ]
    if batch.seasoning is not None:
        materials.append(f"{batch.seasoned_with:f} {batch.unit} {batch.seasoning}")
    materials += [
        words
        for words, is_in in (
            ("bench trim", any(one.source == TubIn.Source.TEST for one in entries)),
            ("carry-over", any(one.source == TubIn.Source.CARRY for one in entries)),
        )
        if is_in
    ]
    out = "" if batch.celsius_out is None else f", {batch.celsius_out / 1000:.1f}"
    celsius = f"{batch.celsius_in / 1000:.1f}{out}"
    is_question = not all(is_known(one.lots) for one in entries)
    return Record(batch, lot_name(batch), materials, once_each(entries), is_question, celsius)


def _of_lot(lot: str) -> set[object]:
    """Batches that took of a tub after something of the lot, however written, had gone into it: two
    queries."""
    entries = TubLot.objects.filter(lot_key=lot_key(lot), entry__taken_back=None).values_list(
        "entry__tub", "entry__at"
    )
    first: dict[object, datetime] = {}
    for tub, at in entries:
        first[tub] = min(first.get(tub, at), at)
    takes = TubOut.objects.filter(tub__in=first, batch__isnull=False).values_list(
        "tub", "batch", "at"
    )
    return {batch for tub, batch, at in takes if at >= first[tub]}
