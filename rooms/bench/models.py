"""The block: cutting tests, their piles, every weighing. Weighings are only ever added."""

import uuid
from typing import Any

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.urls import reverse
from django.utils.functional import cached_property
from simple_history.models import HistoricalRecords

from cutting.quantities import Unit, Weight
from cutting.sheet import cutting_test as core
from cutting.sheet.time_spent import Mark
from cutting.sheet.tub import Entry, Kind
from rooms.catalog.models import ROLES, UNITS, Cut, Piece, Pile, Plan
from rooms.common.db.append_only import AppendOnly
from rooms.common.db.fields import LotKeyField, PlainDecimalField
from rooms.cooler.models import Bag

UNIT = {unit.value: unit for unit in Unit}
PERSON = settings.AUTH_USER_MODEL


BY_ONE_PLAN = Q(finished_at__isnull=False, approved_at__isnull=False, second_plan=None)
"""Approved tests of a piece that was cut by one plan: what the yields of a plan rest on."""


class CuttingTestQuerySet(models.QuerySet):
    def open(self) -> Any:
        return self.filter(finished_at=None, voided_at=None)

    def finished(self) -> Any:
        return self.exclude(finished_at=None)


class CuttingTest(models.Model):
    """One piece (or case) opened and weighed out. Names are kept as they were that day."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    number = models.PositiveIntegerField(unique=True)
    piece = models.ForeignKey(Piece, on_delete=models.PROTECT)
    plan = models.ForeignKey(Plan, null=True, on_delete=models.SET_NULL)
    second_plan = models.ForeignKey(
        Plan, null=True, on_delete=models.SET_NULL, related_name="second_in"
    )
    """The rest of the piece is cut by this one; None for one plan."""
    split = PlainDecimalField(null=True)
    """The share of the piece that is cut by `plan`, where there are two."""
    piece_name = models.CharField(max_length=100)
    item_number = models.CharField(max_length=20, blank=True)
    species = models.CharField(max_length=10)
    plan_name = models.CharField(max_length=220, blank=True)
    is_sawn = models.BooleanField(default=False)

    weight_value = PlainDecimalField()
    weight_unit = models.CharField(max_length=2, choices=UNITS)
    opened_value = PlainDecimalField(null=True)
    opened_unit = models.CharField(max_length=2, choices=UNITS, blank=True)
    price_amount = PlainDecimalField()
    price_per = models.CharField(max_length=2, choices=UNITS)
    freight = PlainDecimalField()
    discount = PlainDecimalField()
    division_value = PlainDecimalField()
    division_unit = models.CharField(max_length=2, choices=UNITS)
    labour_rate = PlainDecimalField(null=True)

    supplier = models.CharField(max_length=100, blank=True)
    lot = models.CharField(max_length=300, blank=True)
    """Those of its bags, where it is of several."""
    lot_key = LotKeyField(max_length=300, blank=True, default="")
    packed_on = models.DateField(null=True)

    too_young = models.JSONField(default=list, blank=True)
    """What was too young when it was opened, in words, each a line."""
    young_reason = models.CharField(max_length=200, blank=True)
    """Why it was cut all the same."""
    damage = models.JSONField(default=list, blank=True)
    """What was seen on its bags or at opening: keys of `cutting.cooler.quality.Damage`."""
    marbling = models.PositiveSmallIntegerField(null=True)
    claims = models.CharField(max_length=100, blank=True)
    """Breed, feed, farm, as the delivery carries it."""
    fat_level = models.CharField(max_length=10, blank=True)
    """How much fat is left on, where it was chosen for this test."""
    has_choices = models.BooleanField(default=False)
    """Whether there is any `Choice` of it, so that the many without one are not asked."""
    has_layout = models.BooleanField(default=False)
    """Whether it is cut by a `Laid`, so that the many without one are not asked."""
    percent_off = PlainDecimalField(null=True)
    """Off the list price, where it was typed as a percentage; `discount` is its money."""
    was_frozen = models.BooleanField(default=False)
    """Signs of freezing, on the bag or seen at opening: its products are sold as thawed."""

    started_from = models.CharField(max_length=40, blank=True)
    """Where its piles came from when it was no plan: "as test 12", or "blank"."""

    cutter = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    started_at = models.DateTimeField()
    finished_at = models.DateTimeField(null=True)
    approved_at = models.DateTimeField(null=True)
    approved_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    approval_reason = models.CharField(max_length=500, blank=True)

    reopened_at = models.DateTimeField(null=True)
    """When it was last taken back to the block: prices set before rest on other weights."""

    voided_at = models.DateTimeField(null=True)
    voided_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    void_reason = models.CharField(max_length=200, blank=True)
    void_bags = models.JSONField(default=list)
    """Ids of the bags it was opened from by mistake: they are in the cooler again."""

    imported_at = models.DateTimeField(null=True)
    """When it was taken in from a file; None for a test weighed here."""
    imported_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    cutter_name = models.CharField(max_length=100, blank=True)
    approver_name = models.CharField(max_length=100, blank=True)
    """Who cut and approved it elsewhere, where nobody of ours has that name."""

    revision = models.PositiveIntegerField(default=0)
    """Raised by every action on the test, never lowered: what a page has seen."""

    objects = CuttingTestQuerySet.as_manager()

    class Meta:
        ordering = ("-number",)
        indexes = [
            models.Index(fields=("-number",), condition=Q(finished_at=None), name="open_tests"),
            models.Index(fields=("-finished_at",), name="last_sheets"),
            models.Index(fields=("plan", "-number"), condition=BY_ONE_PLAN, name="tests_of_a_plan"),
        ]
        constraints = [
            models.CheckConstraint(
                condition=Q(approved_at=None) | Q(finished_at__isnull=False),
                name="only_a_finished_test_is_approved",
            )
        ]

    def __str__(self) -> str:
        return f"test {self.number}, {self.piece_name}"

    def get_absolute_url(self) -> str:
        return reverse("bench:test", args=[self.pk])

    @property
    def plans(self) -> list[Plan | None]:
        """The plan, and the one for the rest where there are two."""
        return [self.plan, self.second_plan] if self.second_plan_id else [self.plan]

    @property
    def is_open(self) -> bool:
        return self.finished_at is None and self.voided_at is None

    @property
    def who_cut(self) -> str:
        """One of ours, or somebody elsewhere by name."""
        return str(self.cutter) if self.cutter_id else self.cutter_name

    @property
    def who_approved(self) -> str:
        return str(self.approved_by) if self.approved_by_id else self.approver_name


class TestBag(AppendOnly):
    """A bag of the cooler that was opened for a test."""

    __test__ = False  # it is no test of pytest's

    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="bags")
    bag = models.OneToOneField(Bag, on_delete=models.PROTECT, related_name="opened_for")

    def __str__(self) -> str:
        return f"{self.bag} for {self.test}"


class PieceBagQuerySet(models.QuerySet["PieceBag"]):
    def standing(self) -> "PieceBagQuerySet":
        """Those that nobody took back."""
        return self.filter(undone_at=None)


class PieceBag(models.Model):
    """A whole piece that came off a test and went into the cooler as a bag."""

    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="piece_bags")
    output = models.ForeignKey("Output", on_delete=models.PROTECT, related_name="+")
    weighing = models.ForeignKey("Weighing", on_delete=models.PROTECT, related_name="piece_bags")
    """What it weighed; the one that counts, where that was corrected."""
    bag = models.OneToOneField(Bag, on_delete=models.PROTECT, related_name="cut_at")
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    undone_at = models.DateTimeField(null=True)
    undone_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    objects = PieceBagQuerySet.as_manager()

    class Meta:
        ordering = ("id",)
        constraints = [
            models.UniqueConstraint(
                fields=("weighing",),
                condition=Q(undone_at=None),
                name="a_piece_is_in_one_bag",
            )
        ]

    def __str__(self) -> str:
        return f"{self.bag} of {self.test}"


class Tub(models.Model):
    """A tub that takes the trim of several tests; it is weighed by the difference it makes."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=40)
    pile = models.CharField(max_length=10, choices=Pile, default=Pile.LEAN)
    start = PlainDecimalField()
    """What the scale showed with it before anything was added, tare put back on."""
    unit = models.CharField(max_length=2, choices=UNITS)
    started_at = models.DateTimeField()
    started_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    closed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-started_at",)

    def __str__(self) -> str:
        return self.name


class Correction(AppendOnly):
    """A manager's correction of a finished sheet. Its rows point here; nothing old is changed."""

    key = models.UUIDField(unique=True)
    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="corrections")
    number = models.PositiveSmallIntegerField()
    reason = models.CharField(max_length=500)
    before = models.JSONField(default=dict)
    """The test's own facts that it changed, as they were: {"price_amount": "7.49"}."""
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("number",)
        constraints = [
            models.UniqueConstraint(fields=("test", "number"), name="one_correction_a_number")
        ]

    def __str__(self) -> str:
        return f"correction {self.number}: {self.reason}"

    def get_absolute_url(self) -> str:
        return reverse("bench:sheet", args=[self.test_id])


class Output(models.Model):
    """One pile of a test, with the prices that held when it was cut."""

    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="outputs")
    position = models.PositiveSmallIntegerField()
    name = models.CharField(max_length=60)
    pile = models.CharField(max_length=10, choices=Pile)
    role = models.CharField(max_length=10, choices=ROLES)
    cut = models.ForeignKey(Cut, null=True, on_delete=models.PROTECT)
    piece = models.ForeignKey(Piece, null=True, on_delete=models.PROTECT, related_name="+")
    """The whole piece that it is, where it may be cut on."""
    share = PlainDecimalField(null=True)
    share_one = PlainDecimalField(null=True)
    share_rest = PlainDecimalField(null=True)
    """Its share by each of two plans; `share` follows from them and the split."""
    target_value = PlainDecimalField(null=True)
    target_unit = models.CharField(max_length=2, choices=UNITS, blank=True)
    is_counted = models.BooleanField(default=False)
    in_case = models.BooleanField(default=False)
    is_none = models.BooleanField(default=False)
    """Somebody said at finishing that the piece gave none of it."""
    price_per = models.CharField(max_length=2, choices=UNITS, default="lb")
    retail = PlainDecimalField(null=True)
    share_price = PlainDecimalField(null=True)
    """What sales-value shares rest on once this test has set the price: the price before that,
    or the first one it set. So a test's own prices never feed back into its costs."""
    credit = PlainDecimalField(null=True)
    replacement = PlainDecimalField(null=True)
    minutes = PlainDecimalField(null=True)
    thickness = models.CharField(max_length=20, blank=True)
    tray_size = models.PositiveSmallIntegerField(null=True)
    """Portions in a tray; None when no trays are formed."""
    merged_into = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="+")
    """The pile that has taken this one's weighings: it is no longer shown."""
    tub = models.ForeignKey(Tub, null=True, on_delete=models.PROTECT, related_name="piles")
    """The shared tub this pile goes into, by difference."""

    class Meta:
        ordering = ("test", "position")
        constraints = [
            models.UniqueConstraint(fields=("test", "position"), name="one_pile_a_place"),
            models.UniqueConstraint(fields=("test", "name"), name="one_pile_a_name"),
        ]

    def __str__(self) -> str:
        return self.name


class Choice(AppendOnly):
    """Something chosen for this test at the block, otherwise than the plan has it."""

    key = models.UUIDField(unique=True)
    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="choices")
    output = models.ForeignKey(Output, null=True, on_delete=models.PROTECT, related_name="+")
    name = models.CharField(max_length=20)
    was = models.CharField(max_length=40, blank=True)
    now = models.CharField(max_length=40, blank=True)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)

    def get_absolute_url(self) -> str:
        return reverse("bench:test", args=[self.test_id])

    def __str__(self) -> str:
        what = f"{self.output}, {self.name}" if self.output_id else self.name
        return f"{what}: {self.now or 'nothing'} instead of {self.was or 'nothing'}"


class WeighingQuerySet(models.QuerySet):
    def with_take_backs(self) -> Any:
        """Each as `rows.load` gives it: with its take-back and the pile it was moved to."""
        moved = Move.objects.filter(weighing=models.OuterRef("pk")).order_by("-pk")
        return self.annotate(
            back_id=models.F("taken_back__id"),
            back_correction=models.F("taken_back__correction_id"),
            moved_id=models.Subquery(moved.values("to_id")[:1]),
        )


class Weighing(AppendOnly):
    """What the scale showed when a pile was taken. `key` makes a repeated request harmless."""

    key = models.UUIDField(unique=True)
    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="weighings")
    output = models.ForeignKey(Output, on_delete=models.PROTECT, related_name="weighings")
    value = PlainDecimalField()
    unit = models.CharField(max_length=2, choices=UNITS)
    division = PlainDecimalField(null=True)
    portions = models.PositiveSmallIntegerField(null=True)
    is_typed = models.BooleanField(default=False)
    is_over = models.BooleanField(default=False)
    """Heavier than what was left of the piece, beyond what rounding explains."""
    taken_at = models.DateTimeField()
    taken_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    scale = models.CharField(max_length=20, blank=True)
    """The scale whose signature held; empty for a typed weight."""
    run = models.CharField(max_length=12, blank=True)
    sequence = models.BigIntegerField(null=True)
    tare = PlainDecimalField(null=True)
    before = PlainDecimalField(null=True)
    """For a weight by difference: what the scale showed before, tare put back on."""
    gross = PlainDecimalField(null=True)
    """For a weight by difference: what it showed then."""
    tub = models.ForeignKey(Tub, null=True, on_delete=models.PROTECT, related_name="weighings")
    """The tub it was taken into; where it lies now, the tub's ledger says."""
    instead_of = models.ForeignKey(
        "self", null=True, on_delete=models.PROTECT, related_name="corrected_by"
    )
    """The weighing whose place it took in a correction."""
    correction = models.ForeignKey(
        Correction, null=True, on_delete=models.PROTECT, related_name="weighings"
    )

    objects = WeighingQuerySet.as_manager()

    class Meta:
        ordering = ("id",)
        constraints = [
            models.UniqueConstraint(
                fields=("scale", "run", "sequence"),
                condition=Q(sequence__isnull=False),
                name="a_reading_is_taken_once",
            )
        ]

    def __str__(self) -> str:
        return f"{self.value} {self.unit}"

    def get_absolute_url(self) -> str:
        return reverse("bench:weighings", args=[self.test_id])

    @cached_property
    def reading(self) -> core.Weighing:
        """The core's weighing. Kept: the row never changes."""
        unit, division = UNIT[self.unit], self.division
        return core.Weighing(
            Weight(self.value, unit),
            None if division is None else Weight(division, unit),
            1 if self.before is None else 2,
        )


class UnplacedQuerySet(models.QuerySet["Unplaced"]):
    def waiting(self) -> "UnplacedQuerySet":
        """Those that nobody has placed yet."""
        return self.filter(placed=None)


class Unplaced(AppendOnly):
    """A weighing that came when it could not go where it was sent: it counts on no sheet until somebody
    places it. `why` says what stood against it."""

    key = models.UUIDField(unique=True)
    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="unplaced")
    output = models.ForeignKey(Output, on_delete=models.PROTECT, related_name="+")
    value = PlainDecimalField()
    unit = models.CharField(max_length=2, choices=UNITS)
    division = PlainDecimalField(null=True)
    portions = models.PositiveSmallIntegerField(null=True)
    is_typed = models.BooleanField(default=False)
    scale = models.CharField(max_length=20, blank=True)
    run = models.CharField(max_length=12, blank=True)
    sequence = models.BigIntegerField(null=True)
    tare = PlainDecimalField(null=True)
    why = models.CharField(max_length=300)
    taken_at = models.DateTimeField()
    taken_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    came_at = models.DateTimeField()

    objects = UnplacedQuerySet.as_manager()

    class Meta:
        ordering = ("id",)
        verbose_name_plural = "unplaced"
        constraints = [
            models.UniqueConstraint(
                fields=("scale", "run", "sequence"),
                condition=Q(sequence__isnull=False),
                name="an_unplaced_reading_once",
            )
        ]

    def __str__(self) -> str:
        return f"{self.value} {self.unit}"


class Placed(AppendOnly):
    """Where an unplaced weighing went: onto a pile as a weighing, or nowhere, with a reason."""

    key = models.UUIDField(unique=True)
    unplaced = models.OneToOneField(Unplaced, on_delete=models.PROTECT, related_name="placed")
    weighing = models.OneToOneField(
        Weighing, null=True, on_delete=models.PROTECT, related_name="placed_from"
    )
    reason = models.CharField(max_length=200, blank=True)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        verbose_name_plural = "placed"

    def __str__(self) -> str:
        return f"{self.unplaced} placed"


class Laid(models.Model):
    """A layout that a test is cut by. The last one that was not taken off counts."""

    key = models.UUIDField(unique=True)
    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="layouts")
    task = models.TextField()
    """What was asked of the core, as JSON: `cutting.layout.kept`."""
    aim = models.CharField(max_length=10)
    part = models.CharField(max_length=20, blank=True)
    is_measured = models.BooleanField(default=False)
    """Whether a tape has said how long the piece is."""
    base_scale = PlainDecimalField()
    base_tilt = PlainDecimalField()
    """How the shape it was laid out by differs from the one that ships."""
    after = models.BigIntegerField(default=0)
    """The last weighing before it: only later ones are cut by it."""
    weight_then = PlainDecimalField()
    """The weight paid for, then: what is put back later is off the far end."""
    asked = models.JSONField(default=list)
    """The portions to come, as they were said last."""
    asked_of = models.JSONField(default=list)
    """The weighings that rests on."""
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    taken_off_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-id",)
        verbose_name_plural = "laid"

    def __str__(self) -> str:
        return f"layout of {self.test}"


class LaidPortion(AppendOnly):
    """A weighing of a test with a layout, as it was asked for."""

    weighing = models.OneToOneField(Weighing, on_delete=models.PROTECT, related_name="laid")
    asked = models.JSONField()

    def __str__(self) -> str:
        return f"asked: {self.weighing_id}"


class TakeBack(AppendOnly):
    """A weighing taken back. The weighing stays readable; it no longer counts."""

    weighing = models.OneToOneField(Weighing, on_delete=models.PROTECT, related_name="taken_back")
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    correction = models.ForeignKey(
        Correction, null=True, on_delete=models.PROTECT, related_name="take_backs"
    )

    def __str__(self) -> str:
        return f"taken back: {self.weighing_id}"


class Move(AppendOnly):
    """A weighing put on another pile. The last one counts; the first pile stays readable."""

    weighing = models.ForeignKey(Weighing, on_delete=models.PROTECT, related_name="moves")
    to = models.ForeignKey(Output, on_delete=models.PROTECT, related_name="+")
    merged_from = models.ForeignKey(Output, null=True, on_delete=models.PROTECT, related_name="+")
    """The pile whose merging moved it."""
    undoes = models.OneToOneField(
        "self", null=True, on_delete=models.PROTECT, related_name="undone_by"
    )
    """The move of a merge that this one takes back."""
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.weighing} to {self.to}"


class TubEntry(AppendOnly):
    """One line of a tub's ledger; the core's `tub.Entry`. Weights are in the tub's unit."""

    tub = models.ForeignKey(Tub, on_delete=models.PROTECT, related_name="entries")
    number = models.PositiveIntegerField()
    kind = models.CharField(max_length=10, choices=[(kind.value, kind.value) for kind in Kind])
    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="+")
    weighing = models.ForeignKey(Weighing, on_delete=models.PROTECT, related_name="tub_entries")
    """The first weighing, where corrections took its place since."""
    change = PlainDecimalField()
    before = PlainDecimalField()
    gross = PlainDecimalField()
    is_seen = models.BooleanField(default=False)
    lots = models.JSONField(default=list)
    move = models.ForeignKey(Move, null=True, on_delete=models.PROTECT, related_name="tub_entries")
    """What moved it in or out."""
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("tub", "number")
        verbose_name_plural = "tub entries"
        constraints = [
            models.UniqueConstraint(fields=("tub", "number"), name="one_tub_entry_a_number")
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.change} {self.tub}"

    @property
    def core(self) -> Entry:
        return Entry(
            Kind(self.kind),
            self.test_id,
            self.weighing_id,
            self.change,
            self.before,
            self.gross,
            self.is_seen,
            tuple(self.lots),
        )


class Hold(AppendOnly):
    """A test takes a scale: from now on its readings are for that test's tablets."""

    scale = models.CharField(max_length=20)
    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="holds")
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)
        indexes = [models.Index(fields=("scale", "-id"))]

    def __str__(self) -> str:
        return f"{self.scale} for {self.test}"


class TimeMark(AppendOnly):
    """Start, pause, interruption, or back in the cooler: how the clock of a test ran."""

    key = models.UUIDField(unique=True)
    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="marks")
    mark = models.CharField(max_length=10, choices=[(mark.value, mark.value) for mark in Mark])
    step_key = models.SlugField(blank=True)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.mark} {self.at:%H:%M} UTC"


class Tare(models.Model):
    """A tub of known weight, chosen by its name."""

    name = models.CharField(max_length=40, unique=True)
    value = PlainDecimalField()
    unit = models.CharField(max_length=2, choices=UNITS)
    made_at = models.DateTimeField()
    is_dropped = models.BooleanField(default=False)

    history = HistoricalRecords()

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return f"{self.name} {self.value} {self.unit}"


class ScaleCheck(AppendOnly):
    """A scale tried with test weights. `lines`: load, shown, off, tolerance, holds, is_typed."""

    key = models.UUIDField(unique=True)
    scale = models.CharField(max_length=20)
    unit = models.CharField(max_length=2, choices=UNITS)
    division = PlainDecimalField()
    lines = models.JSONField()
    holds = models.BooleanField()
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("-at",)
        indexes = [models.Index(fields=("-at",))]

    def __str__(self) -> str:
        return f"{self.scale} {'holds' if self.holds else 'does not hold'}"

    def get_absolute_url(self) -> str:
        return reverse("bench:scale")


class Note(AppendOnly):
    """A line somebody wrote about a test."""

    key = models.UUIDField(unique=True)
    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="notes")
    text = models.CharField(max_length=500)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return self.text

    def get_absolute_url(self) -> str:
        return reverse("bench:test", args=[self.test_id])


class StepCheck(AppendOnly):
    """A step's check ticked, or the tick taken back. The last row of a step counts."""

    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="checks")
    step_key = models.SlugField()
    text = models.CharField(max_length=80)
    is_done = models.BooleanField()
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.text}: {'done' if self.is_done else 'taken back'}"
