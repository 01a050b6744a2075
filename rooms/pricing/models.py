"""Reviews of prices after the invoice moved. A review changes nothing until it is accepted."""

import uuid
from decimal import Decimal

from django.conf import settings
from django.db import models
from django.urls import reverse

from cutting.prices.repricing import Method
from cutting.quantities import Unit, UnitPrice
from rooms.catalog.models import UNITS, Piece
from rooms.common.db.fields import PlainDecimalField
from rooms.pricebook.models import Price, Product, Version

METHODS = [(Method.FULL.value, "worked out in full"), (Method.FACTOR.value, "by the cost factor")]


class Review(models.Model):
    """New costs of some pieces, and what they do to every product that rests on them."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    source = models.CharField(max_length=100)
    """In words: "entered", "delivery 12", "from a file"."""
    method = models.CharField(max_length=10, choices=METHODS, default=Method.FULL.value)
    made_at = models.DateTimeField()
    made_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+"
    )
    closed_at = models.DateTimeField(null=True)
    revision = models.PositiveIntegerField(default=1)
    """Grows with every tick and every other method: what is accepted is what a page showed."""
    version = models.OneToOneField(Version, null=True, on_delete=models.PROTECT)
    """The last version that its prices went into; None while nothing was accepted."""

    class Meta:
        ordering = ("-made_at",)

    def __str__(self) -> str:
        return f"review, {self.source}"

    def get_absolute_url(self) -> str:
        return reverse("pricing:review", args=[self.pk])

    @property
    def is_open(self) -> bool:
        return self.closed_at is None


class NewCost(models.Model):
    """What a piece costs from now on."""

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="costs")
    piece = models.ForeignKey(Piece, on_delete=models.PROTECT, related_name="+")
    amount = PlainDecimalField()
    per = models.CharField(max_length=2, choices=UNITS)

    class Meta:
        ordering = ("piece",)
        constraints = [
            models.UniqueConstraint(fields=("review", "piece"), name="one_new_cost_a_piece")
        ]

    def __str__(self) -> str:
        return f"{self.piece} {self.amount}"

    @property
    def price(self) -> UnitPrice:
        return UnitPrice(self.amount, Unit(self.per))


class ReviewLine(models.Model):
    """One product as the review shows it. Sorted by what it loses.

    Everything that stands on the page is kept: what is accepted is what was shown.
    """

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="lines")
    product = models.ForeignKey(Product, on_delete=models.PROTECT, related_name="+")
    price = models.ForeignKey(Price, on_delete=models.PROTECT, related_name="+")
    """The price that held when the review was made."""
    cost = models.ForeignKey(NewCost, on_delete=models.CASCADE, related_name="+")
    paid_then = PlainDecimalField(null=True)
    """What a unit of its piece cost when the price was made, in the unit of the new cost; None for lines
    older than this column."""
    by_factor = PlainDecimalField()
    in_full = PlainDecimalField(null=True)
    proposed = PlainDecimalField()
    margin_before = PlainDecimalField(null=True)
    """Of sales, at the cost the price was made with."""
    margin_now = PlainDecimalField(null=True)
    """If nothing changes."""
    margin_proposed = PlainDecimalField(null=True)
    why = models.CharField(max_length=200, blank=True)
    """Why the floor had to step in."""
    sticker = PlainDecimalField(null=True)
    comfort = models.CharField(max_length=200, blank=True)
    pencil = models.JSONField(default=list)
    """The working: [words, numbers] a step."""
    is_ticked = models.BooleanField(default=False)
    version = models.ForeignKey(Version, null=True, on_delete=models.PROTECT, related_name="+")
    """The version its price went into; None while it was not accepted."""

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.product} {self.proposed}"

    def new_cost(self, method: str) -> Decimal:
        """By the chosen method; by the factor where there is no basis to work from."""
        full = method == Method.FULL.value and self.in_full is not None
        return self.in_full if full else self.by_factor
