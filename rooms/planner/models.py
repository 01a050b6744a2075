"""What the case should hold, and the plans of a day as they were solved."""

from decimal import Decimal

from django.conf import settings
from django.db import models
from simple_history.models import HistoricalRecords

from cutting.quantities import Unit, Weight, round_half_up, working
from rooms.catalog.models import UNITS, Piece
from rooms.common.db.choices import WordChoices
from rooms.common.db.fields import PlainDecimalField
from rooms.pricebook.models import Product

PERSON = settings.AUTH_USER_MODEL

WEEKDAYS = [
    (0, "Monday"),
    (1, "Tuesday"),
    (2, "Wednesday"),
    (3, "Thursday"),
    (4, "Friday"),
    (5, "Saturday"),
    (6, "Sunday"),
]


class Wanted(models.Model):
    """Least and most of a product in the case on a day of the week, in the product's unit."""

    product = models.ForeignKey(Product, on_delete=models.CASCADE, related_name="wanted")
    weekday = models.PositiveSmallIntegerField(choices=WEEKDAYS)
    least = PlainDecimalField()
    most = PlainDecimalField()

    history = HistoricalRecords()

    class Meta:
        ordering = ("weekday", "product__name")
        db_table = "today_wanted"
        constraints = [
            models.UniqueConstraint(fields=("product", "weekday"), name="wanted_once_a_day")
        ]

    def __str__(self) -> str:
        return f"{self.product}, {self.get_weekday_display()}: {self.least} to {self.most}"


class Factor(models.Model):
    """A season, a holiday or an ad: how much more than usual sells from one day to another."""

    class Kind(WordChoices):
        SEASON = "season", "season"
        HOLIDAY = "holiday", "holiday"
        AD = "ad", "ad"

    kind = models.CharField(max_length=8, choices=Kind)
    name = models.CharField(max_length=60)
    product = models.ForeignKey(Product, null=True, on_delete=models.CASCADE, related_name="+")
    """None for everything on the list."""
    first = models.DateField()
    last = models.DateField()
    percent = PlainDecimalField()
    """Of the usual; 100 changes nothing."""
    set_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    set_at = models.DateTimeField()
    taken_off_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("first", "id")
        indexes = [models.Index(fields=("last",), name="factors_by_end")]

    def __str__(self) -> str:
        return f"{self.name}, {self.percent} %"


class StandingOrder(models.Model):
    """What a restaurant has on a day of every week: portions cut ahead, by its own specification."""

    customer = models.CharField(max_length=60)
    product = models.ForeignKey(Product, on_delete=models.PROTECT, related_name="standing")
    spec = models.CharField(max_length=120, blank=True)
    count = models.PositiveSmallIntegerField()
    portion_value = PlainDecimalField()
    portion_unit = models.CharField(max_length=2, choices=UNITS)
    weekday = models.PositiveSmallIntegerField(choices=WEEKDAYS)
    since = models.DateField()
    until = models.DateField(null=True)
    """The last day it holds; None until it is stopped."""
    set_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("weekday", "customer", "id")
        indexes = [models.Index(fields=("weekday",), name="orders_by_weekday")]

    def __str__(self) -> str:
        return f"{self.customer}: {self.count} × {self.product}"

    @property
    def weight(self) -> Weight:
        """Of all portions, in the product's unit, to a thousandth of it."""
        portion, unit = Weight(self.portion_value, Unit(self.portion_unit)), Unit(self.product.per)
        with working():
            return Weight(round_half_up(portion.to(unit) * self.count, 3), unit)


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


class Sold(models.Model):
    """What a till sold of a product on a day, or in an hour of it, in the product's unit."""

    product = models.ForeignKey(Product, on_delete=models.PROTECT, related_name="sold")
    day = models.DateField()
    hour = models.PositiveSmallIntegerField(null=True)
    """None where the till says only the day."""
    weight = PlainDecimalField()
    money = PlainDecimalField(null=True)
    taken_at = models.DateTimeField()
    taken_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("day", "hour", "id")
        verbose_name_plural = "sold"
        indexes = [models.Index(fields=("product", "day"), name="sold_by_day")]
        constraints = [
            models.UniqueConstraint(fields=("product", "day", "hour"), name="sold_once_an_hour"),
            models.UniqueConstraint(
                fields=("product", "day"), condition=models.Q(hour=None), name="sold_once_a_day"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.product}, {self.day}: {self.weight}"


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
        app_label = "counter"  # its table is older than its room; decision 43
        ordering = ("-kept_at", "-pk")
        constraints = [models.UniqueConstraint(fields=("kind", "name"), name="one_plan_a_name")]

    def __str__(self) -> str:
        return self.name
