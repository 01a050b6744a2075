"""What the case should hold, and the plans of a day as they were solved."""

from decimal import Decimal

from django.conf import settings
from django.db import models
from simple_history.models import HistoricalRecords

from rooms.catalog.models import Piece
from rooms.common.db.choices import WordChoices
from rooms.common.db.fields import PlainDecimalField

PERSON = settings.AUTH_USER_MODEL


class BuyingTerms(models.Model):
    """How a piece is bought: so many in a case, and what one alone costs more a unit of weight."""

    piece = models.OneToOneField(Piece, on_delete=models.CASCADE, related_name="terms")
    in_case = models.PositiveSmallIntegerField(default=1)
    more = PlainDecimalField(default=Decimal(0))

    history = HistoricalRecords()

    class Meta:
        verbose_name_plural = "buying terms"

    def __str__(self) -> str:
        return f"{self.piece}: {self.in_case} in a case"


class NextOrder(models.Model):
    """One order as it was worked out. It counts as coming once it is sent."""

    key = models.UUIDField(unique=True)
    arrives_on = models.DateField()
    lasts_until = models.DateField()
    """The delivery after it."""
    document = models.JSONField()
    answer = models.JSONField()
    made_at = models.DateTimeField()
    made_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    sent_at = models.DateTimeField(null=True)
    taken_back_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-id",)
        indexes = [models.Index(fields=("arrives_on",), name="orders_by_arrival")]

    def __str__(self) -> str:
        return f"order for {self.arrives_on}"

    @property
    def is_coming(self) -> bool:
        return self.sent_at is not None and self.taken_back_at is None


class DayPlan(models.Model):
    """One day as it was asked and solved. The last one of a day counts; those before stay."""

    key = models.UUIDField(unique=True)
    day = models.DateField()
    hands = models.PositiveSmallIntegerField()
    minutes = PlainDecimalField()
    """Of all hands together."""
    document = models.JSONField()
    """What was asked, as docs/formats/day.md has it; ids are those of bags and plans, names those
    of products."""
    answer = models.JSONField()
    worth = models.JSONField(default=dict)
    """What was worked out since: an hour, each product, each must."""
    pins = models.JSONField(default=dict)
    """Bags that somebody set: the id of a plan, or nothing for “not today”."""
    made_at = models.DateTimeField()
    made_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    given_at = models.DateTimeField(null=True)
    """When it was given to the block."""

    class Meta:
        ordering = ("-id",)
        indexes = [models.Index(fields=("day", "-made_at"), name="plans_of_a_day")]

    def __str__(self) -> str:
        return f"plan for {self.day}"


class Kept(models.Model):
    """An ad or a choice of what to buy under its name: the page's fields as they were typed."""

    class Kind(WordChoices):
        AD = "ad", "ad"
        BUY = "buy", "what to buy"

    kind = models.CharField(max_length=3, choices=Kind)
    name = models.CharField(max_length=60)
    fields = models.JSONField()
    said = models.JSONField(default=dict)
    """What its products and pieces were called, by field: they may be gone when it is opened."""
    revision = models.PositiveIntegerField(default=1)
    kept_at = models.DateTimeField()
    kept_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        db_table = "counter_kept"  # older than its place here: decision 43
        ordering = ("-kept_at", "-pk")
        constraints = [models.UniqueConstraint(fields=("kind", "name"), name="one_plan_a_name")]

    def __str__(self) -> str:
        return self.name
