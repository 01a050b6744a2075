"""What the page of packing shows: products with a price, what they can be packed from, the last trays."""

from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from django.utils import timezone

from cutting.labels.tray_life import Life
from cutting.meat import Target, why_not_packed
from cutting.quantities import ZERO, Unit, Weight, working
from rooms.bench.models import CuttingTest
from rooms.bench.queries.meat import WASTE, bags_of_tests, meat_of_pile
from rooms.bench.queries.pile_left import left_on_piles
from rooms.bench.queries.rows import load_all
from rooms.cooler.models import LotHold
from rooms.grinder.models import Batch
from rooms.grinder.queries.packed import left_to_pack
from rooms.pricebook.models import Product
from rooms.pricebook.queries.book import prices_on
from rooms.trays.models import PrintJob, ProductLabel, Tray, TrayTare
from rooms.trays.queries.labelling import BESIDE, keeps_days, label_rules
from rooms.trays.queries.meat import left_on_tray, meat_of_tray
from rooms.trays.queries.sources import target_of

LATELY = timedelta(days=3)
SHOWN = 12


@dataclass(frozen=True)
class ProductChoice:
    """A product that can be packed today, with its price."""

    product: Product
    price: Any


def products(today: date) -> list[ProductChoice]:
    """What is sold and has a price today, by animal and name: two queries."""
    rows = list(Product.objects.filter(is_sold=True).select_related("cut__muscle"))
    prices = prices_on(today, [one.pk for one in rows])
    return [ProductChoice(one, prices[one.pk]) for one in rows if one.pk in prices]


@dataclass(frozen=True)
class SourceChoice:
    """What a product can be packed from, and how much of it is left."""

    text: str
    words: str
    left: Weight
    ends: date
    """The last day of a tray that is packed of it today: the oldest goes first."""
    is_past: bool = False
    """That day has passed: it is shown, and thrown away."""


def sources(product: Product) -> list[SourceChoice]:
    """Piles of the last days, batches, trays at the block, with something left that may be packed as the
    product; the oldest end first. What may not be packed at all is not offered."""
    target = target_of(product)
    own = ProductLabel.objects.filter(product=product).first()
    days = timedelta(days=keeps_days(product, own, label_rules()))
    found = [*_piles(product, target, days), *_batches(product, days), *_trays(product, target)]
    today = timezone.localdate()
    found = [replace(one, is_past=one.ends < today) for one in found]
    return sorted(found, key=lambda one: (one.ends, one.words))


def _piles(product: Product, target: Target, days: timedelta) -> list[SourceChoice]:
    if target.is_ground:
        return []
    since = timezone.now() - LATELY
    tests = CuttingTest.objects.filter(started_at__gte=since, imported_at=None, voided_at=None)
    rows_of = load_all(list(tests.filter(species=product.cut.species)))
    left = left_on_piles(rows_of)
    bags = bags_of_tests([rows.test.pk for rows in rows_of])
    found = []
    for rows in rows_of:
        for output in rows.piles:
            if output.cut_id != product.cut_id or left[output.pk].value <= 0:
                continue
            output.cut = product.cut
            meat = meat_of_pile(rows, output, bags[rows.test.pk])
            if not why_not_packed(meat, target):
                words = f"{rows.test.piece_name}, test {rows.test.number}: {output.name}"
                last = min([(meat.since or timezone.localdate()) + days, *meat.ends])
                found.append(SourceChoice(f"test:{output.pk}", words, left[output.pk], last))
    return found


def _batches(product: Product, days: timedelta) -> list[SourceChoice]:
    since = timezone.now() - LATELY
    rows = Batch.objects.standing().filter(product=product, begun_at__gte=since)
    found = []
    for batch in rows.exclude(got=None).prefetch_related("packed__taken_back"):
        left = Weight(left_to_pack(batch, batch.packed.all()), Unit(batch.unit))
        if left.value > 0:
            last = timezone.localdate(batch.begun_at) + days
            found.append(SourceChoice(f"batch:{batch.pk}", f"{batch}, {batch.name}", left, last))
    return found


def _trays(product: Product, target: Target) -> list[SourceChoice]:
    rows = Tray.objects.filter(product__cut__species=product.cut.species, life=Life.TO_BLOCK)
    found = []
    for tray in rows.select_related("product__cut__muscle").prefetch_related("again"):
        left = left_on_tray(tray, tray.again.all())
        if left.value > 0 and not why_not_packed(meat_of_tray(tray), target, again=True):
            words = f"{tray} at the block"
            found.append(SourceChoice(f"tray:{tray.pk}", words, left, tray.sell_by))
    return found


def tares() -> dict[int, TrayTare]:
    """The tare of each tray set, by its id: one query."""
    return {one.size_id: one for one in TrayTare.objects.select_related("size")}


def last_trays(day: date) -> list[Tray]:
    """Of a day, the newest first: one query."""
    return list(Tray.objects.filter(packed_on=day).select_related("product")[:SHOWN])


def labels_beside(tray: Tray) -> list[str]:
    """Return what stands on a second label of a tray that was just packed: one query."""
    jobs = tray.jobs.filter(document__has_key=BESIDE)
    return [name for job in jobs for name in job.document[BESIDE]]


def holds_standing() -> list[LotHold]:
    """Lots that are held, the newest first: one query."""
    return list(LotHold.objects.standing().select_related("recall"))


def past_or_last(day: date) -> list[Tray]:
    """Trays for sale that are due to be marked down, or past their day: two queries."""
    last = day + timedelta(days=label_rules().markdown_days)
    rows = (
        Tray.objects.for_sale()
        .filter(sell_by__lte=last)
        .exclude(life=Life.MARKED_DOWN, sell_by__gte=day)
    )
    rows = rows.select_related("product")
    return list(rows.order_by("sell_by", "number")[:50])


@dataclass(frozen=True)
class Queue:
    """Labels that wait, and what the printer said last."""

    waiting: list[PrintJob]

    @property
    def words(self) -> str:
        """“10 labels wait: the roll is empty; put a new one in.”"""
        many = len(self.waiting)
        trouble = next((one.said for one in self.waiting if one.said), "")
        why = f": {trouble}" if trouble else ""
        return f"{many} labels wait{why}." if many > 1 else f"1 label waits{why}."


def queue() -> Queue:
    """One query."""
    return Queue(list(PrintJob.objects.filter(state=PrintJob.State.WAITING)[:50]))


@dataclass(frozen=True)
class Today:
    """How many trays of a day, how much they weigh and cost."""

    many: int
    total: Decimal


def of_day(day: date) -> Today:
    """One query."""
    rows = Tray.objects.standing().filter(packed_on=day).values_list("total", flat=True)
    with working():
        return Today(len(rows), sum(rows, ZERO))


@dataclass(frozen=True)
class PileTrays:
    """A pile of a test that is sold, its trays, and what is left of it."""

    output: Any
    product: Product
    trays: list[Tray]
    left: Weight

    @property
    def more(self) -> str:
        """What its trays weigh more than lies on it, after the sheet was corrected; empty as a rule."""
        if self.left.value >= 0:
            return ""
        return f"{abs(self.left.value):.2f} {self.left.unit.value}"


def trays_of_test(test_id: Any) -> list[PileTrays]:
    """Of every pile that is a product: six queries."""
    tests = list(CuttingTest.objects.filter(pk=test_id))
    trays = list(Tray.objects.standing().filter(output__test=test_id).order_by("number"))
    found = []
    rows_of = load_all(tests) if tests else []
    lies = left_on_piles(rows_of)
    for rows in rows_of:
        cuts = {output.cut_id for output in rows.piles if output.cut_id}
        products = Product.objects.filter(cut__in=cuts, is_sold=True, cut__is_ground=False)
        sold = {one.cut_id: one for one in products}
        for output in rows.piles:
            if output.cut_id not in sold or output.role in WASTE:
                continue
            own = [tray for tray in trays if tray.output_id == output.pk]
            left = lies[output.pk]
            if own or left.value > 0:
                found.append(PileTrays(output, sold[output.cut_id], own, left))
    return found
