"""What pieces were like: measured with a ruler, and as their portions came out."""

from django.conf import settings
from django.db import models

from rooms.catalog.models import UNITS, Piece
from rooms.common.db.append_only import AppendOnly
from rooms.common.db.fields import PlainDecimalField


class Measured(AppendOnly):
    """One piece's weight, length, and widest and highest place; lengths in mm."""

    key = models.UUIDField(unique=True)
    piece = models.ForeignKey(Piece, on_delete=models.PROTECT, related_name="measured")
    part = models.CharField(max_length=20, blank=True)
    """Which of its muscles; empty for the whole piece."""
    weight_value = PlainDecimalField()
    weight_unit = models.CharField(max_length=2, choices=UNITS)
    length = PlainDecimalField()
    width = PlainDecimalField()
    height = PlainDecimalField()
    at = models.DateTimeField()
    by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+"
    )

    class Meta:
        ordering = ("-id",)
        verbose_name_plural = "measured"

    def __str__(self) -> str:
        return f"{self.piece}, {self.weight_value} {self.weight_unit}"


class CameOut(models.Model):
    """How the portions of one test came out against the shape that ships: a row a test, written
    anew when the test is corrected."""

    test = models.UUIDField(unique=True)
    piece = models.ForeignKey(Piece, on_delete=models.PROTECT, related_name="came_out")
    part = models.CharField(max_length=20, blank=True)
    scale = PlainDecimalField(null=True)
    """The weight of a length, 1 as the shape says; None where the length was measured."""
    tilt = PlainDecimalField()
    """The change of that from end to end."""
    portions = models.PositiveSmallIntegerField()
    at = models.DateTimeField()

    class Meta:
        ordering = ("-at",)
        verbose_name_plural = "came out"

    def __str__(self) -> str:
        return f"{self.piece}: {self.portions} portions"
