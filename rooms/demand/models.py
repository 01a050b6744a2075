"""What the case needs: the wanted list, seasons, holidays and ads, standing orders, what a till sold.

The tables are older than the room, and keep their names: decision 43.
"""

from django.conf import settings
from django.db import models
from simple_history.models import HistoricalRecords

from cutting.quantities import Unit, Weight, round_half_up, working
from rooms.catalog.models import UNITS
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

    history = HistoricalRecords(table_name="planner_historicalwanted")

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
        db_table = "planner_factor"
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
        db_table = "planner_standingorder"
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
        db_table = "planner_sold"
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
