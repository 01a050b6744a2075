"""Recalls and mock recalls of a lot, and the trays that were found."""

from decimal import Decimal

from django.db import models

from rooms.common.db.append_only import AppendOnly
from rooms.common.db.fields import LotKeyField
from rooms.cooler.models import LotHold
from rooms.trays.models import PERSON, Tray


class Recall(models.Model):
    """Everything of a lot is looked for: because it is held, or as a drill. `report`: what was found out
    when it was closed."""

    key = models.UUIDField(unique=True)
    lot = models.CharField(max_length=60)
    lot_key = LotKeyField()
    hold = models.OneToOneField(LotHold, null=True, on_delete=models.PROTECT, related_name="recall")
    """None for a drill."""
    started_at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    ended_at = models.DateTimeField(null=True)
    ended_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    report = models.JSONField(default=dict)

    class Meta:
        db_table = "trays_recall"  # older than its room: decision 43
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"{'recall' if self.hold_id else 'drill'} of lot {self.lot}"

    @property
    def minutes(self) -> int | None:
        """From the first touch to the last, the begun one counted; None while it lasts."""
        if self.ended_at is None:
            return None
        return int((self.ended_at - self.started_at).total_seconds() // 60) + 1

    @property
    def accounted(self) -> Decimal | None:
        """The share of the lot's weight that was accounted for when it ended."""
        return Decimal(self.report["accounted"]) if self.report else None

    @property
    def words(self) -> str:
        if self.hold is None:
            return "drill"
        return "let go" if hasattr(self.hold, "lifted") else "held"


class Found(AppendOnly):
    """A tray of a recall was found, and lies apart."""

    recall = models.ForeignKey(Recall, on_delete=models.PROTECT, related_name="found")
    tray = models.ForeignKey(Tray, on_delete=models.PROTECT, related_name="found")
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        db_table = "trays_found"  # older than its room: decision 43
        ordering = ("id",)
        verbose_name_plural = "found"
        constraints = [
            models.UniqueConstraint(fields=("recall", "tray"), name="a_tray_is_found_once")
        ]

    def __str__(self) -> str:
        return f"{self.tray} found"
