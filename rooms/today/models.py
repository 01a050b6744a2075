"""What the case should hold, by the day of the week. The rest of Today is of the other rooms."""

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
        constraints = [
            models.UniqueConstraint(fields=("product", "weekday"), name="wanted_once_a_day")
        ]

    def __str__(self) -> str:
        return f"{self.product}, {self.get_weekday_display()}: {self.least} to {self.most}"
