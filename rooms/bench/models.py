"""The block: cutting tests, their piles, every weighing. Weighings are only ever added."""

import uuid

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.utils.functional import cached_property

from cutting import cutting_test as core
from cutting.quantities import Unit, Weight
from rooms.catalog.models import ROLES, UNITS, Cut, Piece, Pile, Plan
from rooms.common.append_only import AppendOnly
from rooms.common.fields import PlainDecimalField
from rooms.cooler.models import Bag

UNIT = {unit.value: unit for unit in Unit}
PERSON = settings.AUTH_USER_MODEL


class CuttingTestQuerySet(models.QuerySet):
    def open(self):
        return self.filter(finished_at=None)

    def finished(self):
        return self.exclude(finished_at=None)


class CuttingTest(models.Model):
    """One piece (or case) opened and weighed out. Names are kept as they were that day."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    number = models.PositiveIntegerField(unique=True)
    piece = models.ForeignKey(Piece, on_delete=models.PROTECT)
    plan = models.ForeignKey(Plan, null=True, on_delete=models.SET_NULL)
    piece_name = models.CharField(max_length=100)
    item_number = models.CharField(max_length=20, blank=True)
    species = models.CharField(max_length=10)
    plan_name = models.CharField(max_length=100, blank=True)
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
    lot = models.CharField(max_length=60, blank=True)
    packed_on = models.DateField(null=True)

    cutter = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    started_at = models.DateTimeField()
    finished_at = models.DateTimeField(null=True)
    approved_at = models.DateTimeField(null=True)
    approved_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    approval_reason = models.CharField(max_length=500, blank=True)

    objects = CuttingTestQuerySet.as_manager()

    class Meta:
        ordering = ("-number",)
        indexes = [
            models.Index(fields=("-number",), condition=Q(finished_at=None), name="open_tests"),
            models.Index(fields=("-finished_at",), name="last_sheets"),
        ]
        constraints = [
            models.CheckConstraint(
                condition=Q(approved_at=None) | Q(finished_at__isnull=False),
                name="only_a_finished_test_is_approved",
            )
        ]

    def __str__(self):
        return f"test {self.number}, {self.piece_name}"

    @property
    def is_open(self):
        return self.finished_at is None


class TestBag(AppendOnly):
    """A bag of the cooler that was opened for a test."""

    __test__ = False  # it is no test of pytest's

    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="bags")
    bag = models.OneToOneField(Bag, on_delete=models.PROTECT, related_name="opened_for")

    def __str__(self):
        return f"{self.bag} for {self.test}"


class Output(models.Model):
    """One pile of a test, with the prices that held when it was cut."""

    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="outputs")
    position = models.PositiveSmallIntegerField()
    name = models.CharField(max_length=60)
    pile = models.CharField(max_length=10, choices=Pile)
    role = models.CharField(max_length=10, choices=ROLES)
    cut = models.ForeignKey(Cut, null=True, on_delete=models.PROTECT)
    share = PlainDecimalField(null=True)
    target_value = PlainDecimalField(null=True)
    target_unit = models.CharField(max_length=2, choices=UNITS, blank=True)
    is_counted = models.BooleanField(default=False)
    in_case = models.BooleanField(default=False)
    price_per = models.CharField(max_length=2, choices=UNITS, default="lb")
    retail = PlainDecimalField(null=True)
    share_price = PlainDecimalField(null=True)
    """What sales-value shares rest on once this test has set the price: the price before that,
    or the first one it set. So a test's own prices never feed back into its costs."""
    credit = PlainDecimalField(null=True)
    replacement = PlainDecimalField(null=True)
    minutes = PlainDecimalField(null=True)

    class Meta:
        ordering = ("test", "position")
        constraints = [
            models.UniqueConstraint(fields=("test", "position"), name="one_pile_a_place"),
            models.UniqueConstraint(fields=("test", "name"), name="one_pile_a_name"),
        ]

    def __str__(self):
        return self.name


class WeighingQuerySet(models.QuerySet):
    def with_take_backs(self):
        """Each with `back_id`: the take-back that points to it, or None."""
        return self.annotate(back_id=models.F("taken_back__id"))


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

    objects = WeighingQuerySet.as_manager()

    class Meta:
        ordering = ("id",)

    def __str__(self):
        return f"{self.value} {self.unit}"

    @cached_property
    def reading(self) -> core.Weighing:
        """The core's weighing. Kept: the row never changes."""
        unit, division = UNIT[self.unit], self.division
        return core.Weighing(
            Weight(self.value, unit), None if division is None else Weight(division, unit)
        )


class TakeBack(AppendOnly):
    """A weighing taken back. The weighing stays readable; it no longer counts."""

    weighing = models.OneToOneField(Weighing, on_delete=models.PROTECT, related_name="taken_back")
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    def __str__(self):
        return f"taken back: {self.weighing_id}"


class Note(AppendOnly):
    """A line somebody wrote about a test."""

    key = models.UUIDField(unique=True)
    test = models.ForeignKey(CuttingTest, on_delete=models.PROTECT, related_name="notes")
    text = models.CharField(max_length=500)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)

    def __str__(self):
        return self.text


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

    def __str__(self):
        return f"{self.text}: {'done' if self.is_done else 'taken back'}"
