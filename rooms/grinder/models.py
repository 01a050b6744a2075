"""The grinder: tubs of trim with what went in and out, batches with their log. Rows are only added; a
batch's own row goes from planned to ground to finished."""

import uuid
from decimal import Decimal

from django.conf import settings
from django.db import models
from django.db.models import Q

from cutting.grinding.blend import Kind, Rule
from cutting.grinding.judging import How
from cutting.quantities import Unit, Weight
from rooms.bench.models import Output
from rooms.catalog.models import UNITS, Species
from rooms.common.append_only import AppendOnly
from rooms.common.choices import WordChoices
from rooms.common.fields import PlainDecimalField
from rooms.cooler.models import Bag
from rooms.pricebook.models import Product

PERSON = settings.AUTH_USER_MODEL
KINDS = [
    (Kind.LEAN.value, "lean trim"),
    (Kind.ENDS.value, "ends of whole muscle"),
    (Kind.HARD_FAT.value, "hard fat"),
]


class TrimTub(models.Model):
    """A tub of one animal and kind. Weights of its rows are in its unit."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=40)
    species = models.CharField(max_length=10, choices=Species)
    kind = models.CharField(max_length=10, choices=KINDS)
    primal = models.CharField(max_length=40, blank=True)
    """The primal all of it is of; empty for mixed trim."""
    unit = models.CharField(max_length=2, choices=UNITS)
    started_at = models.DateTimeField()
    started_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    closed_at = models.DateTimeField(null=True)
    """When it was emptied and washed."""

    class Meta:
        ordering = ("started_at", "id")
        indexes = [
            models.Index(fields=("started_at",), condition=Q(closed_at=None), name="open_trim_tubs")
        ]

    def __str__(self) -> str:
        return self.name


class CleanDown(AppendOnly):
    """The grinder was taken apart, cleaned and sanitized, or set up and looked over."""

    class What(WordChoices):
        CLEANED = "cleaned", "cleaned and sanitized"
        SET_UP = "set_up", "set up"

    key = models.UUIDField(unique=True)
    what = models.CharField(max_length=8, choices=What)
    at = models.DateTimeField(db_index=True)
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("-at", "-id")

    def __str__(self) -> str:
        return f"{self.what} {self.at}"


class BlendPlan(AppendOnly):
    """A blend as it was asked and answered, until one of its batches is ground."""

    key = models.UUIDField(unique=True)
    document = models.JSONField()
    """As docs/formats/blend.md has it; names of tubs are their ids."""
    answer = models.JSONField()
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"blend {self.at}"


class Batch(models.Model):
    """One batch of ground meat. What was asked and answered is kept."""

    id = models.UUIDField(primary_key=True, editable=False)
    number = models.PositiveIntegerField(unique=True)
    product = models.ForeignKey(Product, null=True, on_delete=models.PROTECT, related_name="+")
    name = models.CharField(max_length=100)
    """What it is called, as on its label."""
    rule = models.CharField(max_length=12, choices=[(one.value, one.value) for one in Rule])
    species = models.CharField(max_length=10, choices=Species)
    weight = PlainDecimalField()
    unit = models.CharField(max_length=2, choices=UNITS)
    fat = PlainDecimalField()
    """By the tubs it was made of, as a share; its spread beside it."""
    fat_sd = PlainDecimalField()
    stated = PlainDecimalField(null=True)
    """The fat that its label states; None for none."""
    document = models.JSONField()
    answer = models.JSONField()
    cleaned = models.ForeignKey(CleanDown, on_delete=models.PROTECT, related_name="batches")
    """The clean-down that its lot begins with: batches of one are one lot."""
    set_up = models.ForeignKey(CleanDown, on_delete=models.PROTECT, related_name="+")
    begun_at = models.DateTimeField(db_index=True)
    begun_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    celsius_in = models.IntegerField()
    """Of the meat in thousandths of a °C, before grinding and after."""
    celsius_out = models.IntegerField(null=True)
    got = PlainDecimalField(null=True)
    """What came out, in its unit; `machine`: what stayed in the grinder."""
    machine = PlainDecimalField(null=True)
    finished_at = models.DateTimeField(null=True)
    finished_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("-number",)
        verbose_name_plural = "batches"

    def __str__(self) -> str:
        return f"G-{self.number}"

    @property
    def wanted(self) -> Weight:
        return Weight(self.weight, Unit(self.unit))


class TubIn(AppendOnly):
    """Something went into a tub: weight in the tub's unit, the lots it is of, what it costs a unit."""

    class Source(WordChoices):
        TEST = "test", "from the block"
        BOUGHT = "bought", "bought with a stated lean"
        CASE = "case", "from the case"
        CARRY = "carry", "carried over"

    key = models.UUIDField(unique=True)
    tub = models.ForeignKey(TrimTub, on_delete=models.PROTECT, related_name="ins")
    source = models.CharField(max_length=6, choices=Source)
    weight = PlainDecimalField()
    output = models.ForeignKey(Output, null=True, on_delete=models.PROTECT, related_name="+")
    bag = models.ForeignKey(Bag, null=True, on_delete=models.PROTECT, related_name="+")
    batch = models.ForeignKey(Batch, null=True, on_delete=models.PROTECT, related_name="+")
    """What was carried over is of this one."""
    lots = models.JSONField(default=list)
    """[{"lot", "supplier", "establishment", "piece", "packed_on"}]; what nobody knows stays empty."""
    cost = PlainDecimalField(default=Decimal(0))
    day = models.DateField()
    """When it was cut or packed."""
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)
        constraints = [
            models.UniqueConstraint(
                fields=("output",), condition=Q(output__isnull=False), name="a_pile_goes_in_once"
            )
        ]

    def __str__(self) -> str:
        return f"{self.weight} into {self.tub}"


class TubLot(AppendOnly):
    """A lot that went into a tub, so that it is found again."""

    entry = models.ForeignKey(TubIn, on_delete=models.PROTECT, related_name="lot_rows")
    lot = models.CharField(max_length=60, db_index=True)

    def __str__(self) -> str:
        return self.lot


class Judged(AppendOnly):
    """How lean somebody, or a tester, says a tub is."""

    tub = models.ForeignKey(TrimTub, on_delete=models.PROTECT, related_name="judged")
    how = models.CharField(max_length=6, choices=[(one.value, one.value) for one in How])
    lean = PlainDecimalField()
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)
        verbose_name_plural = "judged"

    def __str__(self) -> str:
        return f"{self.tub}: {self.lean}"


class TubOut(AppendOnly):
    """Something left a tub: into a batch, or thrown away with its reason."""

    key = models.UUIDField(unique=True)
    tub = models.ForeignKey(TrimTub, on_delete=models.PROTECT, related_name="outs")
    weight = PlainDecimalField()
    batch = models.ForeignKey(Batch, null=True, on_delete=models.PROTECT, related_name="takes")
    reason = models.CharField(max_length=200, blank=True)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.weight} out of {self.tub}"


class Packed(AppendOnly):
    """Trays of a batch, by weight."""

    key = models.UUIDField(unique=True)
    batch = models.ForeignKey(Batch, on_delete=models.PROTECT, related_name="packed")
    trays = models.PositiveSmallIntegerField()
    weight = PlainDecimalField()
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)
        verbose_name_plural = "packed"

    def __str__(self) -> str:
        return f"{self.trays} trays of {self.batch}"


class Tested(AppendOnly):
    """What a tester says of a ground batch's fat."""

    key = models.UUIDField(unique=True)
    batch = models.ForeignKey(Batch, on_delete=models.PROTECT, related_name="tested")
    fat = PlainDecimalField()
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)
        verbose_name_plural = "tested"

    def __str__(self) -> str:
        return f"{self.batch}: {self.fat}"
