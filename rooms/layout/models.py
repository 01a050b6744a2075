"""Pieces that somebody measured with a ruler."""

from django.conf import settings
from django.db import models

from rooms.catalog.models import UNITS, Piece
from rooms.common.append_only import AppendOnly
from rooms.common.fields import PlainDecimalField


class Measured(AppendOnly):
    """One piece's weight, length, and widest and highest place; lengths in mm."""

    key = models.UUIDField(unique=True)
    piece = models.ForeignKey(Piece, on_delete=models.PROTECT, related_name="measured")
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
