"""What the case should hold, and the plans of a day as they were solved."""

from django.conf import settings
from django.db import models

from rooms.common.fields import PlainDecimalField
from rooms.pricebook.models import Product

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

    class Meta:
        ordering = ("weekday", "product__name")
        db_table = "today_wanted"
        constraints = [
            models.UniqueConstraint(fields=("product", "weekday"), name="wanted_once_a_day")
        ]

    def __str__(self) -> str:
        return f"{self.product}, {self.get_weekday_display()}: {self.least} to {self.most}"


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
    made_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+"
    )
    given_at = models.DateTimeField(null=True)
    """When it was given to the block."""

    class Meta:
        ordering = ("-made_at", "-id")
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
    taken_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+"
    )

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
