"""The cooler: deliveries, bags, their events, windows and the temperature they lie in.

Nothing is deleted: a bag leaves by an event.
"""

import uuid
from datetime import date
from typing import Any

from django.conf import settings
from django.db import models
from django.db.models import Case, F, Q, Value, When
from django.urls import reverse
from simple_history.models import HistoricalRecords

from cutting.cooler import ageing
from cutting.cooler.quality import Damage, Quality
from cutting.cooler.receiving import InvoiceLine
from cutting.quantities import Unit, UnitPrice, Weight
from rooms.catalog.models import UNITS, Piece
from rooms.common.db.append_only import AppendOnly
from rooms.common.db.choices import WordChoices
from rooms.common.db.fields import LotKeyField, PlainDecimalField
from wording.cooler import quality_words

PERSON = settings.AUTH_USER_MODEL
UNNAMED = -1
"""Where a bag whose code is not named yet stands in the order: first."""


class Seal(WordChoices):
    TIGHT = "tight", "tight"
    SUSPECT = "suspect", "suspect"
    LEAKING = "leaking", "leaking"


class Delivery(models.Model):
    """One arrival of many bags. It stays open until it is checked against its invoice."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    number = models.PositiveIntegerField(unique=True)
    supplier = models.CharField(max_length=100)
    establishment = models.CharField(max_length=20, blank=True)
    invoice = models.CharField(max_length=40, blank=True)
    received_at = models.DateTimeField()
    received_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    freight = PlainDecimalField()
    discount = PlainDecimalField()
    arrival = models.IntegerField(null=True)
    """Temperature on arrival in thousandths of a °C."""
    arrival_reason = models.CharField(max_length=300, blank=True)
    invoice_bags = models.PositiveIntegerField(null=True)
    invoice_weight = PlainDecimalField(null=True)
    invoice_unit = models.CharField(max_length=2, choices=UNITS, blank=True)
    """Of its weight and of the delivery's sums, once it is closed."""
    invoice_amount = PlainDecimalField(null=True)
    difference_reason = models.CharField(max_length=300, blank=True)
    closed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-number",)

    def __str__(self) -> str:
        return f"delivery {self.number}, {self.supplier}"

    def get_absolute_url(self) -> str:
        return reverse("cooler:delivery", args=[self.pk])

    @property
    def is_open(self) -> bool:
        return self.closed_at is None

    @property
    def arrival_celsius(self) -> str:
        return "–" if self.arrival is None else f"{self.arrival / 1000:.1f}"


class DeliveryFile(AppendOnly):
    """A file of catch weights that was read, so that it is read only once."""

    digest = models.CharField(max_length=64, unique=True)
    delivery = models.ForeignKey(Delivery, on_delete=models.PROTECT, related_name="files")
    name = models.CharField(max_length=200)
    at = models.DateTimeField()

    def __str__(self) -> str:
        return self.name


class ProductCode(models.Model):
    """What a supplier's case code (GTIN) stands for. Without a piece it is a question."""

    gtin = models.CharField(max_length=14, unique=True)
    piece = models.ForeignKey(Piece, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("gtin",)

    def __str__(self) -> str:
        return self.gtin


class BagQuerySet(models.QuerySet):
    def in_cooler(self) -> Any:
        return self.filter(state=Bag.State.IN)

    def as_delivered(self) -> Any:
        """Those that came from a supplier: no parts packed again, no pieces cut here."""
        return self.filter(part_of=None, cut_of=None)

    def free(self) -> Any:
        """In the cooler, and of no lot that is held."""
        return self.in_cooler().exclude(lot_key__in=LotHold.objects.standing().values("lot_key"))

    def with_piece(self) -> Any:
        """With what a list shows of the piece, and its window, in the same query."""
        return self.select_related("piece__window").defer(*Piece.guide_by("piece"))

    def in_order(self, today: date) -> Any:
        """As they are taken, each with its `urgency`: what `ageing.due` and `ageing.in_order` say,
        asked of the database. Unnamed codes come first, with an urgency of UNNAMED."""
        past, now, soon, best, ready, young = ageing.Urgency
        urgency = Case(
            When(ends_on=None, then=Value(UNNAMED)),
            When(ends_on__lt=today, then=Value(past.value)),
            When(Q(ends_on=today) | Q(seal=Seal.LEAKING), then=Value(now.value)),
            When(Q(best_to__lt=today) | Q(seal=Seal.SUSPECT), then=Value(soon.value)),
            When(old_enough_on__gt=today, then=Value(young.value)),
            When(best_from__lte=today, then=Value(best.value)),
            default=Value(ready.value),
            output_field=models.SmallIntegerField(),
        )
        on = Case(
            When(urgency=now.value, then=Value(today)),
            default=F("ends_on"),
            output_field=models.DateField(),
        )
        rows = self.annotate(urgency=urgency).annotate(due_on=on)
        return rows.order_by("urgency", "due_on", "packed_on", "came_at", "id")


class Bag(models.Model):
    """One bag or case with its catch weight, traced from its delivery to its tests."""

    class State(WordChoices):
        IN = "in", "in the cooler"
        OPENED = "opened", "opened"
        BACK = "back", "sent back"
        OUT = "out", "thrown away"
        UNDONE = "undone", "taken back to the sheet"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    delivery = models.ForeignKey(Delivery, on_delete=models.PROTECT, related_name="bags")
    piece = models.ForeignKey(Piece, null=True, on_delete=models.PROTECT, related_name="bags")
    gtin = models.CharField(max_length=14, blank=True)
    serial = models.CharField(max_length=40, blank=True)
    lot = models.CharField(max_length=60, blank=True)
    lot_key = LotKeyField(blank=True, default="")
    grade = models.CharField(max_length=30, blank=True)
    country = models.CharField(max_length=60, blank=True)
    born = models.CharField(max_length=2, blank=True)
    raised = models.CharField(max_length=2, blank=True)
    slaughtered = models.CharField(max_length=2, blank=True)
    """Countries of its life as the supplier's papers say, by ISO 3166-1: 7 CFR 65. All three or none."""
    pieces_inside = models.PositiveSmallIntegerField(default=1)
    weight_value = PlainDecimalField()
    weight_unit = models.CharField(max_length=2, choices=UNITS)
    price_amount = PlainDecimalField(null=True)
    price_per = models.CharField(max_length=2, choices=UNITS, default="lb")
    freight = PlainDecimalField()
    discount = PlainDecimalField()
    own_value = PlainDecimalField(null=True)
    own_unit = models.CharField(max_length=2, choices=UNITS, blank=True)
    packed_on = models.DateField()
    use_by = models.DateField(null=True)
    was_frozen = models.BooleanField(default=False)
    damage = models.JSONField(default=list, blank=True)
    """Keys of `cutting.cooler.quality.Damage`."""
    marbling = models.PositiveSmallIntegerField(null=True)
    claims = models.CharField(max_length=100, blank=True)
    """Breed, feed, farm, as the delivery carries it."""
    seal = models.CharField(max_length=10, choices=Seal, default=Seal.TIGHT)
    state = models.CharField(max_length=10, choices=State, default=State.IN)
    came_at = models.DateTimeField()
    left_at = models.DateTimeField(null=True)
    old_enough_on = models.DateField(null=True, editable=False)
    best_from = models.DateField(null=True, editable=False)
    best_to = models.DateField(null=True, editable=False)
    ends_on = models.DateField(null=True, editable=False)
    lost_days = models.PositiveSmallIntegerField(null=True, editable=False)
    """Its days as the core gives them (`queries.days`); None until it is named."""
    part_of = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="parts")
    cut_of = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="pieces")
    """The bag that a piece was cut from here."""
    age_before = models.PositiveSmallIntegerField(default=0)
    """Days of age that its meat had when it was packed."""
    is_unsealed = models.BooleanField(default=False)
    """It lies open, so it does not age on."""
    sealed_on = models.DateField(null=True)
    """When it was sealed, where that was after its packing day."""

    objects = BagQuerySet.as_manager()

    class Meta:
        ordering = ("packed_on", "came_at", "id")
        indexes = [
            models.Index(fields=("packed_on",), condition=Q(state="in"), name="bags_in_cooler"),
            models.Index(fields=("gtin", "serial"), name="bag_serials"),
        ]
        constraints = [
            models.UniqueConstraint(
                fields=("gtin", "serial"),
                condition=~Q(serial="") & ~Q(state="back"),
                name="one_bag_a_serial",
            ),
            models.CheckConstraint(
                condition=Q(state="in", left_at=None) | (~Q(state="in") & Q(left_at__isnull=False)),
                name="a_bag_that_left_says_when",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.piece.shown_name if self.piece_id else self.gtin} {self.weight_value}"

    def get_absolute_url(self) -> str:
        return reverse("cooler:bag", args=[self.pk])

    @property
    def quality(self) -> Quality:
        return Quality(frozenset(Damage(kind) for kind in self.damage), self.marbling)

    @property
    def quality_words(self) -> list[str]:
        return quality_words(self.quality, self.claims)

    @property
    def weight(self) -> Weight:
        return Weight(self.weight_value, Unit(self.weight_unit))

    @property
    def whole_id(self) -> uuid.UUID | None:
        """The bag that it is a part of or was cut from."""
        return self.part_of_id or self.cut_of_id

    @property
    def aged(self) -> ageing.Aged:
        return ageing.Aged(self.packed_on, self.age_before, self.sealed_on, self.is_unsealed)

    @property
    def line(self) -> InvoiceLine | None:
        """The bag as billed; None without a price."""
        if self.price_amount is None:
            return None
        return InvoiceLine(self.weight, UnitPrice(self.price_amount, Unit(self.price_per)))


class BagEvent(AppendOnly):
    """Something that happened to a bag: who, when, what."""

    bag = models.ForeignKey(Bag, on_delete=models.PROTECT, related_name="events")
    kind = models.CharField(max_length=20)
    words = models.CharField(max_length=300)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return self.words


class HoldQuerySet(models.QuerySet["LotHold"]):
    def standing(self) -> "HoldQuerySet":
        """Those that nobody lifted."""
        return self.filter(lifted=None)


class LotHold(AppendOnly):
    """A lot is held: nothing of it is opened, ground, packed, labeled or sold until it is lifted."""

    key = models.UUIDField(unique=True)
    lot = models.CharField(max_length=60)
    """As it was written by whoever held it."""
    lot_key = LotKeyField()
    reason = models.CharField(max_length=200)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    objects = HoldQuerySet.as_manager()

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"lot {self.lot} held"


class HoldLifted(AppendOnly):
    """A held lot is free again, and why."""

    key = models.UUIDField(unique=True)
    hold = models.OneToOneField(LotHold, on_delete=models.PROTECT, related_name="lifted")
    reason = models.CharField(max_length=200)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    def __str__(self) -> str:
        return f"{self.hold}, lifted"


class AgeWindow(models.Model):
    """The shop's own window of a piece; without one the defaults of its species hold."""

    piece = models.OneToOneField(Piece, on_delete=models.CASCADE, related_name="window")
    least = models.PositiveSmallIntegerField()
    best_from = models.PositiveSmallIntegerField()
    best_to = models.PositiveSmallIntegerField()
    end = models.PositiveSmallIntegerField()

    history = HistoricalRecords()

    def __str__(self) -> str:
        return f"{self.piece}: {self.least}, {self.best_from} to {self.best_to}, {self.end}"

    @property
    def window(self) -> ageing.Window:
        return ageing.Window(self.least, self.best_from, self.best_to, self.end)


class Reading(AppendOnly):
    """The cooler's temperature in thousandths of a °C; null when the sensor was lost."""

    at = models.DateTimeField(unique=True)
    stamp = models.BigIntegerField(db_index=True, editable=False)
    """Seconds since 1970, so that any database can put readings into buckets."""
    value = models.IntegerField(null=True)
    is_manual = models.BooleanField(default=False)
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("at",)

    def __str__(self) -> str:
        return f"{self.at} {self.value}"

    def save(self, *args: Any, **kwargs: Any) -> None:
        self.stamp = int(self.at.timestamp())
        super().save(*args, **kwargs)


class Excursion(models.Model):
    """A stretch above the limit, kept up as readings arrive. `ended_at` None while it lasts."""

    started_at = models.DateTimeField()
    last_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    peak = models.IntegerField()

    class Meta:
        ordering = ("-started_at",)
        indexes = [models.Index(fields=("started_at",))]

    def __str__(self) -> str:
        return f"{self.started_at}, {self.peak}"

    @property
    def minutes(self) -> int:
        return int(((self.ended_at or self.last_at) - self.started_at).total_seconds() // 60)

    @property
    def peak_celsius(self) -> str:
        return f"{self.peak / 1000:.1f}"
