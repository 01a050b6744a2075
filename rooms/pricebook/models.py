"""What the shop sells and at which price. A price is never changed: a new one follows it."""

from django.conf import settings
from django.db import models
from django.db.models import F, Window
from django.db.models.functions import RowNumber

from rooms.catalog.models import UNITS, Cut
from rooms.common.fields import PlainDecimalField


class Product(models.Model):
    """A cut as the shop sells it, or values it as a by-product."""

    cut = models.OneToOneField(Cut, on_delete=models.PROTECT, related_name="product")
    name = models.CharField(max_length=100)
    per = models.CharField(max_length=2, choices=UNITS, default="lb")
    transfer = PlainDecimalField(null=True)
    """What the shop would pay itself for it: its value as a by-product."""
    ready_cut = PlainDecimalField(null=True)
    """What the supplier asks for it ready-cut."""
    target_margin = PlainDecimalField(null=True)
    floor_margin = PlainDecimalField(null=True)
    tray_weight = PlainDecimalField(null=True)
    tray_unit = models.CharField(max_length=2, choices=UNITS, default="lb")
    is_sold = models.BooleanField(default=True)

    class Meta:
        ordering = ("cut__species", "name")

    def __str__(self):
        return self.name


class PriceQuerySet(models.QuerySet):
    def latest_two(self):
        """The current price of each product and the one before it, ranked 1 and 2."""
        return self.annotate(
            rank=Window(RowNumber(), partition_by=F("product_id"), order_by=F("id").desc())
        ).filter(rank__lte=2)

    def current(self):
        return self.annotate(
            rank=Window(RowNumber(), partition_by=F("product_id"), order_by=F("id").desc())
        ).filter(rank=1)


class Price(models.Model):
    """One dated price of a product, with the test it came from where there was one."""

    product = models.ForeignKey(Product, on_delete=models.PROTECT, related_name="prices")
    amount = PlainDecimalField()
    made_at = models.DateTimeField()
    made_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+"
    )
    from_test = models.UUIDField(null=True, db_index=True)
    from_test_number = models.PositiveIntegerField(null=True)
    school = models.CharField(max_length=20, blank=True)
    cost = PlainDecimalField(null=True)

    objects = PriceQuerySet.as_manager()

    class Meta:
        ordering = ("-id",)
        indexes = [models.Index(fields=("product", "-id"))]

    def __str__(self):
        return f"{self.product} {self.amount}"
