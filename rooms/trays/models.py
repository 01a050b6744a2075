"""Trays as things with an identity, a place and a life; their labels; the printer's queue."""

import uuid
from decimal import Decimal
from typing import Any

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.urls import reverse
from simple_history.models import HistoricalRecords

from cutting.labels.codes import StoreCode
from cutting.labels.tray_life import Life
from cutting.quantities import Unit, UnitPrice, Weight
from drawings.label import Stock
from rooms.bench.models import CuttingTest, Output
from rooms.catalog.models import UNITS
from rooms.common.db.append_only import AppendOnly
from rooms.common.db.choices import WordChoices
from rooms.common.db.fields import PlainDecimalField
from rooms.grinder.models import Batch, Packed, TubIn
from rooms.pricebook.models import Product, TraySize

PERSON = settings.AUTH_USER_MODEL
LIVES = [(one.value, one.value.replace("_", " ")) for one in Life]


class LabelRules(models.Model):
    """The one row of how the shop labels."""

    id = models.PositiveSmallIntegerField(primary_key=True, default=1, editable=False)
    place = models.CharField(max_length=100, blank=True)
    """The shop's place as it stands on the label: 9 CFR 317.2(g)."""
    link = models.CharField(max_length=100, blank=True)
    """The public address behind the QR; empty for no QR."""
    store_code = models.CharField(
        max_length=9,
        choices=[("", "none"), *((one.value, one.value) for one in StoreCode)],
        blank=True,
    )
    stock = models.CharField(
        max_length=6,
        choices=[(one.value, one.value) for one in Stock],
        default=Stock.LARGE.value,
    )
    keeps_days = models.PositiveSmallIntegerField(default=3)
    keeps_ground_days = models.PositiveSmallIntegerField(default=1)
    """Days after packing that a tray is sold, where its product has none of its own."""
    tells_origin = models.BooleanField(default=True)
    """Whether the country of origin rule applies to the shop: a retailer as 7 CFR 65.240 defines it."""
    markdown_days = models.PositiveSmallIntegerField(default=0)
    """Days before its last day that a tray is marked down; 0 on the day itself."""
    markdown_off = PlainDecimalField(default=Decimal("0.30"))
    """The share of its price that comes off."""

    history = HistoricalRecords()

    class Meta:
        verbose_name_plural = "label rules"
        constraints = [models.CheckConstraint(condition=Q(id=1), name="one_set_of_label_rules")]

    def __str__(self) -> str:
        return "how the shop labels"


class ProductLabel(models.Model):
    """What the labels of one product need beside the price book."""

    product = models.OneToOneField(Product, on_delete=models.PROTECT, related_name="label")
    item = models.CharField(max_length=5, blank=True)
    gtin = models.CharField(max_length=14, blank=True)
    keeps_days = models.PositiveSmallIntegerField(null=True)
    serving = PlainDecimalField(null=True)
    """Grams of a serving; None where none is told."""

    history = HistoricalRecords()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=("item",), condition=~Q(item=""), name="an_item_once"),
            models.UniqueConstraint(fields=("gtin",), condition=~Q(gtin=""), name="a_gtin_once"),
        ]

    def __str__(self) -> str:
        return f"label of {self.product}"


class TrayTare(AppendOnly):
    """What an empty tray set weighs, as it was measured; the last counts."""

    size = models.ForeignKey(TraySize, on_delete=models.PROTECT, related_name="tares")
    value = PlainDecimalField()
    unit = models.CharField(max_length=2, choices=UNITS)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.size}: {self.value} {self.unit}"

    @property
    def weight(self) -> Weight:
        return Weight(self.value, Unit(self.unit))


class TrayQuerySet(models.QuerySet["Tray"]):
    def standing(self) -> "TrayQuerySet":
        """Those that were trays at all."""
        return self.exclude(life=Life.UNDONE)

    def for_sale(self) -> "TrayQuerySet":
        return self.filter(life__in=[Life.PACKED, Life.IN_CASE, Life.MARKED_DOWN])


class Tray(models.Model):
    """One tray. What stands on its label never changes; `life` is its last event's."""

    SERIAL = 20
    """Letters of the longest serial."""

    id = models.UUIDField(primary_key=True, editable=False)
    number = models.PositiveIntegerField(unique=True)
    serial = models.CharField(max_length=SERIAL, unique=True)
    """Not to be guessed: what the QR carries."""
    product = models.ForeignKey(Product, on_delete=models.PROTECT, related_name="trays")
    output = models.ForeignKey(Output, null=True, on_delete=models.PROTECT, related_name="trays")
    batch = models.ForeignKey(Batch, null=True, on_delete=models.PROTECT, related_name="trays")
    packed = models.ForeignKey(Packed, null=True, on_delete=models.PROTECT, related_name="+")
    """Its row in the log of its batch."""
    again_of = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="again")
    """The tray whose meat was packed again."""
    from_test = models.ForeignKey(
        CuttingTest, null=True, on_delete=models.PROTECT, related_name="trays"
    )
    from_batch = models.ForeignKey(
        Batch, null=True, on_delete=models.PROTECT, related_name="from_it"
    )
    """What it is of in the end, also where it was packed again."""
    lots = models.JSONField(default=list)
    no_lot_reason = models.CharField(max_length=200, blank=True)
    """Why it was packed without a lot on record."""
    code = models.CharField(max_length=13, blank=True, db_index=True)
    """The store's own number on its label, as the register reads it."""
    size = models.ForeignKey(TraySize, on_delete=models.PROTECT, related_name="+")
    set_cost = PlainDecimalField(default=Decimal(0))
    gross = PlainDecimalField()
    tare = PlainDecimalField()
    net = PlainDecimalField()
    unit = models.CharField(max_length=2, choices=UNITS)
    division = PlainDecimalField()
    is_typed = models.BooleanField(default=True)
    scale = models.CharField(max_length=20, blank=True)
    pieces = models.PositiveSmallIntegerField(null=True)
    amount = PlainDecimalField()
    per = models.CharField(max_length=2, choices=UNITS)
    total = PlainDecimalField()
    packed_at = models.DateTimeField(db_index=True)
    packed_on = models.DateField()
    sell_by = models.DateField(db_index=True)
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    life = models.CharField(max_length=11, choices=LIVES, default=Life.PACKED)
    document = models.JSONField()
    """Its label, as docs/formats/label.md has it, with the shop's `facts`."""
    mark = models.ForeignKey("MarkDown", null=True, on_delete=models.PROTECT, related_name="+")
    """The marking down that stands; None while it has its first price."""

    objects = TrayQuerySet.as_manager()

    class Meta:
        ordering = ("-number",)

    def __str__(self) -> str:
        return f"tray {self.number}"

    def get_absolute_url(self) -> str:
        return reverse("trays:tray", args=[self.pk])

    @property
    def weight(self) -> Weight:
        return Weight(self.net, Unit(self.unit))

    @property
    def told(self) -> str:
        """What was done to its meat and what it holds, as its label tells it; empty for plain meat."""
        allergens = ", ".join(self.document.get("allergens", ()))
        words = (
            "mechanically tenderized" if self.document.get("tenderized") else "",
            "cubed" if self.document.get("cubed") else "",
            "seasoned" if self.document.get("ingredients") else "",
            f"contains {allergens}" if allergens else "",
        )
        return ", ".join(one for one in words if one)

    @property
    def state(self) -> Life:
        return Life(self.life)

    @property
    def price(self) -> UnitPrice:
        """As it is sold now."""
        own = self.mark or self
        return UnitPrice(own.amount, Unit(own.per))

    @property
    def price_now(self) -> Decimal:
        """What it costs at the register now."""
        return (self.mark or self).total

    @property
    def label_now(self) -> Any:
        """The document of the label that is on it now."""
        return (self.mark or self).document


class MarkDown(AppendOnly):
    """A tray is sold for less: its new price, what the tray costs by it, the label over the old."""

    tray = models.ForeignKey(Tray, on_delete=models.PROTECT, related_name="marks")
    was_amount = PlainDecimalField()
    was_total = PlainDecimalField()
    amount = PlainDecimalField()
    per = models.CharField(max_length=2, choices=UNITS)
    total = PlainDecimalField()
    document = models.JSONField()
    code = models.CharField(max_length=13, blank=True, db_index=True)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.tray}: {self.total} instead of {self.was_total}"


class TrayEvent(AppendOnly):
    """Something became of a tray, once, by somebody."""

    key = models.UUIDField(unique=True)
    tray = models.ForeignKey(Tray, on_delete=models.PROTECT, related_name="events")
    was = models.CharField(max_length=11, choices=LIVES)
    life = models.CharField(max_length=11, choices=LIVES)
    reason = models.CharField(max_length=200, blank=True)
    was_mark = models.ForeignKey(MarkDown, null=True, on_delete=models.PROTECT, related_name="+")
    mark = models.ForeignKey(MarkDown, null=True, on_delete=models.PROTECT, related_name="+")
    """The marking down that stood before, and since."""
    entry = models.ForeignKey(TubIn, null=True, on_delete=models.PROTECT, related_name="of_tray")
    """What went into a tub by it."""
    undoes = models.OneToOneField(
        "self", null=True, on_delete=models.PROTECT, related_name="undone_by"
    )
    """The event that this one takes back."""
    at = models.DateTimeField(db_index=True)
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.tray} {self.life}"


class PrintJob(models.Model):
    """A label for the printer: printed once, in the order of its number."""

    class Kind(WordChoices):
        TRAY = "tray", "tray label"
        TAG = "tag", "shelf tag"
        CASE = "case", "label of a case"
        CARD = "card", "card for the counter"

    class State(WordChoices):
        WAITING = "waiting", "waiting"
        PRINTED = "printed", "printed"
        DROPPED = "dropped", "taken off the queue"
        FAILED = "failed", "cannot be drawn"

    key = models.UUIDField(unique=True, default=uuid.uuid4)
    """What the printer knows it by: sent twice it is printed once."""
    kind = models.CharField(max_length=4, choices=Kind)
    tray = models.ForeignKey(Tray, null=True, on_delete=models.PROTECT, related_name="jobs")
    product = models.ForeignKey(Product, null=True, on_delete=models.PROTECT, related_name="+")
    """Of a tag or a card: its price is that of the day it is printed."""
    title = models.CharField(max_length=120)
    document = models.JSONField()
    stock = models.CharField(max_length=6)
    copy = models.PositiveSmallIntegerField(default=0)
    """0 for the first; a reprint says so."""
    state = models.CharField(max_length=8, choices=State, default=State.WAITING)
    made_at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    claimed_at = models.DateTimeField(null=True)
    """Somebody is sending it."""
    printed_at = models.DateTimeField(null=True)
    said = models.CharField(max_length=200, blank=True)
    """What the printer answered last."""

    class Meta:
        ordering = ("id",)
        indexes = [
            models.Index(fields=("id",), condition=Q(state="waiting"), name="waiting_labels"),
        ]

    def __str__(self) -> Any:
        return f"{self.kind} {self.title}"
