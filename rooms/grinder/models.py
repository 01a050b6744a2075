"""The grinder: tubs of trim with what went in and out, batches with their log. Rows are only added, what is
taken back too; a batch's own row goes from ground to finished, or is taken back."""

import uuid
from decimal import Decimal
from typing import Any

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.urls import reverse
from simple_history.models import HistoricalRecords

from cutting.costing.schools import CostingSchool
from cutting.grinding.blend import Kind, Rule
from cutting.grinding.checks import CLEANING, SETTING_UP
from cutting.grinding.judging import How
from cutting.quantities import Unit, Weight, working
from rooms.bench.models import CuttingTest, Output
from rooms.catalog.models import UNITS, Species
from rooms.common.db.append_only import AppendOnly
from rooms.common.db.choices import WordChoices
from rooms.common.db.fields import LotKeyField, PlainDecimalField
from rooms.cooler.models import Bag
from rooms.pricebook.models import Product
from wording.pencil import SCHOOL_NAMES

PERSON = settings.AUTH_USER_MODEL
KINDS = [
    (Kind.LEAN.value, "lean trim"),
    (Kind.ENDS.value, "ends of whole muscle"),
    (Kind.HARD_FAT.value, "hard fat"),
]


def cleaning() -> list[str]:
    return list(CLEANING)


def setting_up() -> list[str]:
    return list(SETTING_UP)


def patty_sizes() -> list[str]:
    return ["4", "6", "8"]


class GrinderRules(models.Model):
    """The one row of the grinder's house rules; what it was before is in its history. A shop may only
    tighten what the law says."""

    class FromCase(WordChoices):
        NEVER = "never", "never"
        KNOWN = "known", "only with the lot of its tray"
        ASKED = "asked", "an unknown lot is kept as a question"

    class Nutrition(WordChoices):
        EXEMPT = "exempt", "the small shop's exemption"
        FACTS = "facts", "facts on the label"

    id = models.PositiveSmallIntegerField(primary_key=True, default=1, editable=False)
    keeps_days = models.PositiveSmallIntegerField(default=2)
    """Days after its oldest trim was cut that a tub is used up or thrown away."""
    warmest = models.IntegerField(default=4444)
    """Thousandths of a °C: meat warmer than that (40 °F) is not ground."""
    allowance = PlainDecimalField(default=Decimal("0.02"))
    """What a label allows over its stated fat, as a share."""
    near = PlainDecimalField(default=Decimal("0.01"))
    """How much leaner than asked a blend may be, as a share; fatter it is not."""
    most_fat = models.JSONField(default=dict)
    """The shop's own most fat of a name, as a share: {"ground beef": "0.27"}."""
    from_case = models.CharField(max_length=5, choices=FromCase, default=FromCase.ASKED)
    takes_sent_back = models.BooleanField(default=False)
    """Whether pieces that were sent back may go into a tub."""
    nutrition = models.CharField(max_length=6, choices=Nutrition, default=Nutrition.EXEMPT)
    cleaning = models.JSONField(default=cleaning)
    setting_up = models.JSONField(default=setting_up)
    """What is looked at, point by point."""
    patties = models.JSONField(default=patty_sizes)
    """Ounces of usual patties."""
    in_box = models.PositiveSmallIntegerField(default=24)

    history = HistoricalRecords()

    class Meta:
        verbose_name_plural = "grinder rules"
        constraints = [models.CheckConstraint(condition=Q(id=1), name="one_set_of_grinder_rules")]

    def __str__(self) -> str:
        return "the grinder's house rules"


class Seasoning(models.Model):
    """A seasoning of the house list, by percent of the meat."""

    name = models.CharField(max_length=60, unique=True)
    share = PlainDecimalField()
    """Of the meat's weight."""
    ingredients = models.CharField(max_length=400)
    """As on its bag, the most by weight first."""
    allergens = models.JSONField(default=list)
    cost = PlainDecimalField(default=Decimal(0))
    per = models.CharField(max_length=2, choices=UNITS)
    is_dropped = models.BooleanField(default=False)

    history = HistoricalRecords()

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name


class NutritionFacts(models.Model):
    """Nutrition facts of a ground product at a stated fat, as the shop entered them."""

    product = models.ForeignKey(Product, on_delete=models.PROTECT, related_name="+")
    fat = PlainDecimalField()
    serving = PlainDecimalField()
    """Grams."""
    amounts = models.JSONField()
    """{"calories": "240", "total_fat": "17", …}, see cutting.grinding.nutrition."""
    source = models.CharField(max_length=200)

    history = HistoricalRecords()

    class Meta:
        ordering = ("product", "fat")
        verbose_name_plural = "nutrition facts"
        constraints = [
            models.UniqueConstraint(fields=("product", "fat"), name="one_set_of_facts_a_fat")
        ]

    def __str__(self) -> str:
        return f"{self.product}, {self.fat}"


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


class Standing(models.QuerySet[Any]):
    """Rows that may be taken back."""

    def standing(self) -> "Standing":
        return self.filter(taken_back=None)


class CleanDown(AppendOnly):
    """The grinder was taken apart, cleaned and sanitized, or set up and looked over."""

    class What(WordChoices):
        CLEANED = "cleaned", "cleaned and sanitized"
        SET_UP = "set_up", "set up"

    key = models.UUIDField(unique=True)
    what = models.CharField(max_length=8, choices=What)
    points = models.JSONField(default=list)
    """What was looked at, as it was confirmed."""
    at = models.DateTimeField(db_index=True)
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    objects = Standing.as_manager()

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


class BatchQuerySet(models.QuerySet["Batch"]):
    def standing(self) -> "BatchQuerySet":
        """Without those that were begun by mistake."""
        return self.filter(undone_at=None)

    def in_grinder(self) -> "BatchQuerySet":
        return self.standing().filter(finished_at=None)


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
    cost = PlainDecimalField(default=Decimal(0))
    """Of all its meat and seasoning, in the shop's money."""
    seasoning = models.ForeignKey(Seasoning, null=True, on_delete=models.PROTECT, related_name="+")
    seasoned_with = PlainDecimalField(default=Decimal(0))
    """Weight of the seasoning, in its unit, beside the meat."""
    undone_at = models.DateTimeField(null=True)
    undone_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    """It was begun by mistake: nothing was ground, its meat lies in the tubs again."""

    objects = BatchQuerySet.as_manager()

    class Meta:
        ordering = ("-number",)
        verbose_name_plural = "batches"

    def __str__(self) -> str:
        return f"G-{self.number}"

    def get_absolute_url(self) -> str:
        return reverse("grinder:batch", args=[self.pk])

    @property
    def wanted(self) -> Weight:
        return Weight(self.weight, Unit(self.unit))

    @property
    def went_in(self) -> Decimal:
        """Meat and seasoning, in its unit."""
        with working():
            return Decimal(self.weight + self.seasoned_with)

    @property
    def cost_per_unit(self) -> Decimal:
        with working():
            return Decimal(self.cost / self.went_in)


class Came(AppendOnly):
    """What came out of a batch, as it was said; the last word counts and stands in the batch."""

    batch = models.ForeignKey(Batch, on_delete=models.PROTECT, related_name="came")
    got = PlainDecimalField()
    machine = PlainDecimalField()
    celsius = models.IntegerField()
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)
        verbose_name_plural = "came"

    def __str__(self) -> str:
        return f"{self.got} of {self.batch}"


class OutQuerySet(Standing):
    def standing(self) -> "OutQuerySet":
        """Not taken back, nor of a batch that was."""
        return self.filter(taken_back=None, batch__undone_at=None)


class TubIn(AppendOnly):
    """Something went into a tub: weight in the tub's unit, the lots it is of, what it costs a unit."""

    class Source(WordChoices):
        TEST = "test", "from the block"
        BOUGHT = "bought", "bought with a stated lean"
        CASE = "case", "from the case"
        BACK = "back", "sent back"
        CARRY = "carry", "carried over"

    key = models.UUIDField(unique=True)
    tub = models.ForeignKey(TrimTub, on_delete=models.PROTECT, related_name="ins")
    source = models.CharField(max_length=6, choices=Source)
    weight = PlainDecimalField()
    output = models.ForeignKey(Output, null=True, on_delete=models.PROTECT, related_name="+")
    bag = models.ForeignKey(Bag, null=True, on_delete=models.PROTECT, related_name="+")
    batch = models.ForeignKey(Batch, null=True, on_delete=models.PROTECT, related_name="+")
    """What was carried over is of this one."""
    from_test = models.ForeignKey(
        CuttingTest, null=True, on_delete=models.PROTECT, related_name="into_tubs"
    )
    from_batch = models.ForeignKey(
        Batch, null=True, on_delete=models.PROTECT, related_name="into_tubs"
    )
    """What it is of, from the block, the grinder, or the case by its tray; empty until somebody knows."""
    lots = models.JSONField(default=list)
    """[{"lot", "supplier", "establishment", "piece", "packed_on"}]; what nobody knows stays empty."""
    cost = PlainDecimalField(default=Decimal(0))
    school = models.CharField(max_length=20, blank=True)
    """The school of costing that `cost` is by; empty for what was paid or valued."""
    lean = PlainDecimalField(null=True)
    """Its own, as a share, where it is stated or known of its batch; it counts until the tub is judged
    again."""
    again = models.PositiveSmallIntegerField(default=0)
    """How often its pile was put in and taken back before."""
    day = models.DateField()
    """When it was cut or packed."""
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    objects = Standing.as_manager()
    is_question = False
    """Whether nobody knows its lot; told by `rules.lots.with_answers`, as are its lots in words."""
    lots_in_words: list[str]

    class Meta:
        ordering = ("id",)
        constraints = [
            models.UniqueConstraint(
                fields=("output", "again"),
                condition=Q(output__isnull=False),
                name="a_pile_goes_in_once",
            )
        ]

    def __str__(self) -> str:
        return f"{self.weight} into {self.tub}"

    def get_absolute_url(self) -> str:
        return reverse("grinder:tub", args=[self.tub_id])

    @property
    def origin(self) -> str:
        """“from the block, test 12, Knuckle”."""
        words = [self.get_source_display()]
        if self.output is not None:
            words += [f"test {self.output.test.number}", self.output.test.piece_name]
        elif self.bag is not None and self.bag.piece is not None:
            words.append(self.bag.piece.shown_name)
        elif self.batch is not None:
            words.append(str(self.batch))
        return ", ".join(words)

    @property
    def costed(self) -> str:
        """“ by by-product credit”; empty for what was paid or valued."""
        return f" by {SCHOOL_NAMES[CostingSchool(self.school)].lower()}" if self.school else ""


class LotAnswer(AppendOnly):
    """Somebody found out of which lots something is that went in with an unknown one."""

    key = models.UUIDField(unique=True)
    entry = models.ForeignKey(TubIn, on_delete=models.PROTECT, related_name="answers")
    lots = models.JSONField()
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"lots of {self.entry}"


class TubLot(AppendOnly):
    """A lot that went into a tub, so that it is found again."""

    entry = models.ForeignKey(TubIn, on_delete=models.PROTECT, related_name="lot_rows")
    lot = models.CharField(max_length=60, db_index=True)
    lot_key = LotKeyField(default="")

    def __str__(self) -> str:
        return self.lot


class Judged(AppendOnly):
    """How lean somebody, or a tester, says a tub is."""

    tub = models.ForeignKey(TrimTub, on_delete=models.PROTECT, related_name="judged")
    how = models.CharField(max_length=6, choices=[(one.value, one.value) for one in How])
    lean = PlainDecimalField()
    reading = models.CharField(max_length=40, blank=True)
    """Of the fat tester, where it was read and not typed."""
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)
        verbose_name_plural = "judged"

    def __str__(self) -> str:
        return f"{self.tub}: {self.lean}"


class Warmth(AppendOnly):
    """How warm the meat in a tub is, in thousandths of a °C."""

    tub = models.ForeignKey(TrimTub, on_delete=models.PROTECT, related_name="warmths")
    celsius = models.IntegerField()
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.tub}: {self.celsius / 1000:.1f} °C"


class TubOut(AppendOnly):
    """Something left a tub: into a batch, or thrown away with its reason."""

    key = models.UUIDField(unique=True)
    tub = models.ForeignKey(TrimTub, on_delete=models.PROTECT, related_name="outs")
    weight = PlainDecimalField()
    batch = models.ForeignKey(Batch, null=True, on_delete=models.PROTECT, related_name="takes")
    reason = models.CharField(max_length=200, blank=True)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    objects = OutQuerySet.as_manager()

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.weight} out of {self.tub}"


class Packed(AppendOnly):
    """Trays of a batch, by weight; how many patties or links lie in them."""

    class Shape(WordChoices):
        LOOSE = "loose", "ground"
        PATTIES = "patties", "patties"
        LINKS = "links", "links"

    key = models.UUIDField(unique=True)
    batch = models.ForeignKey(Batch, on_delete=models.PROTECT, related_name="packed")
    trays = models.PositiveSmallIntegerField()
    weight = PlainDecimalField()
    shape = models.CharField(max_length=7, choices=Shape, default=Shape.LOOSE)
    pieces = models.PositiveIntegerField(null=True)
    is_labelled = models.BooleanField(default=False)
    """It is a tray with a label of its own, and is taken back there."""
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    objects = Standing.as_manager()

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
    reading = models.CharField(max_length=40, blank=True)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    objects = Standing.as_manager()

    class Meta:
        ordering = ("id",)
        verbose_name_plural = "tested"

    def __str__(self) -> str:
        return f"{self.batch}: {self.fat}"


class Sample(models.Model):
    """A sample that the fat tester showed, counted once: for a tub or for a batch."""

    reading = models.CharField(max_length=40)
    judged = models.OneToOneField(
        Judged, null=True, on_delete=models.PROTECT, related_name="sample"
    )
    tested = models.OneToOneField(
        Tested, null=True, on_delete=models.PROTECT, related_name="sample"
    )
    freed_at = models.DateTimeField(null=True)
    """When what was read by it was taken back: it may be read again, for another batch too."""

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=("reading",), condition=Q(freed_at=None), name="a_sample_counts_once"
            )
        ]

    def __str__(self) -> str:
        return self.reading

    @property
    def of(self) -> str:
        """What it was read for, in words."""
        return str(self.tested.batch if self.tested is not None else self.judged.tub)


class Relabeled(AppendOnly):
    """The label of a batch tells another fat from now on, because the tester found more."""

    key = models.UUIDField(unique=True)
    batch = models.ForeignKey(Batch, on_delete=models.PROTECT, related_name="relabeled")
    was = PlainDecimalField(null=True)
    stated = PlainDecimalField()
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)
        verbose_name_plural = "relabeled"

    def __str__(self) -> str:
        return f"{self.batch}: {self.stated}"


def _taken_back(what: Any) -> Any:
    return models.OneToOneField(
        what, null=True, on_delete=models.PROTECT, related_name="taken_back"
    )


class TakenBack(AppendOnly):
    """One of these was a mistake: it counts no more and stays in the record."""

    key = models.UUIDField(unique=True)
    entry = _taken_back(TubIn)
    out = _taken_back(TubOut)
    packed = _taken_back(Packed)
    tested = _taken_back(Tested)
    clean = _taken_back(CleanDown)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)
        verbose_name_plural = "taken back"

    def __str__(self) -> str:
        return f"taken back {self.at}"
