"""The shop's own settings, and how far its first day has come."""

from typing import Any

from django.conf import settings
from django.db import models
from simple_history.models import HistoricalRecords

from cutting.costing.schools import CostingSchool
from cutting.sheet.choices import FAT_LEVELS
from rooms.common.db.append_only import AppendOnly
from rooms.common.db.choices import WordChoices
from rooms.common.db.fields import PlainDecimalField
from wording.dates import Clock, DayOrder

PERSON = settings.AUTH_USER_MODEL
SALES_UNITS = [("lb", "pounds"), ("kg", "kilograms")]
DIRECTIONS = [("up", "up"), ("down", "down"), ("nearest", "to the nearest")]
FAT_CHOICES = [("", "as the plan says"), *((level, level) for level in FAT_LEVELS)]


class Shop(models.Model):
    """The one row of settings. What it was before, who changed it and when is in its history."""

    class NamesFirst(WordChoices):
        US = "us", "US names, such as strip steak"
        COMMONWEALTH = "commonwealth", "Commonwealth names, such as sirloin steak"

    class PriceWay(WordChoices):
        PIECE = "piece", "the whole piece at one target"
        EACH = "each", "each product at its own target"

    class SteakTrim(WordChoices):
        WHOLE = "whole", "the whole piece before steaks are cut"
        EACH = "each", "steak by steak"

    class SilverSkin(WordChoices):
        NEVER = "never", "never into the grind"
        GRIND = "grind", "thin skin may go into the grind"

    class LegCap(WordChoices):
        GRILL = "grill", "a quick piece for the grill"
        GRIND = "grind", "to the grind"

    class Boning(WordChoices):
        OPEN = "open", "opened like a book, the gland in sight"
        TUNNEL = "tunnel", "by tunnel, the shoulder stays closed"

    id = models.PositiveSmallIntegerField(primary_key=True, default=1, editable=False)
    name = models.CharField(max_length=60)
    own_short_name = models.CharField(max_length=20, blank=True)
    currency = models.CharField(max_length=3)
    unit = models.CharField(max_length=2, choices=SALES_UNITS)
    names_first = models.CharField(max_length=12, choices=NamesFirst)
    time_zone = models.CharField(max_length=64)
    day_order = models.CharField(max_length=6, choices=[(one.value, one.value) for one in DayOrder])
    clock = models.CharField(max_length=2, choices=[(one.value, one.value) for one in Clock])
    labour_rate = PlainDecimalField()
    school = models.CharField(
        max_length=20, choices=[(one.value, one.value) for one in CostingSchool]
    )
    price_way = models.CharField(max_length=5, choices=PriceWay)
    target_margin = PlainDecimalField()
    floor_margin = PlainDecimalField(null=True)
    endings = models.JSONField()
    """Bands from low to high: [{"under": "20", "endings": ["0.49"]}, {"endings": ["0.99"]}]."""
    ending_direction = models.CharField(max_length=10, choices=DIRECTIONS)
    delivery_days = models.JSONField(default=list)
    """Days of the week, 0 is Monday."""
    origin_asked = models.JSONField(default=list)
    """Animals whose country of origin is asked for at receiving."""
    warmest = models.IntegerField()
    """The cooler's upper limit in thousandths of a °C; `coldest` the lower."""
    coldest = models.IntegerField()
    scales = models.JSONField()
    """Plates of the scales: [{"name", "label", "capacity", "unit", "division"}], the first first."""
    fat_level = models.CharField(max_length=10, choices=FAT_CHOICES, blank=True)
    steak_trim = models.CharField(max_length=6, choices=SteakTrim)
    silver_skin = models.CharField(max_length=6, choices=SilverSkin)
    leg_cap = models.CharField(max_length=6, choices=LegCap)
    boning = models.CharField(max_length=6, choices=Boning)
    lock_minutes = models.PositiveSmallIntegerField(default=30)
    """A tablet at the block asks for the PIN again after so long without a touch."""
    is_set_up = models.BooleanField(default=False)
    """The first day is over: nobody is led any more."""

    history = HistoricalRecords()

    class Meta:
        constraints = [models.CheckConstraint(condition=models.Q(id=1), name="one_shop")]

    def __str__(self) -> str:
        return self.name


class FirstDayMark(AppendOnly):
    """A step of the first day was looked through, or put aside, or taken up again."""

    class Kind(WordChoices):
        DONE = "done", "done"
        ASIDE = "aside", "put aside"
        AGAIN = "again", "taken up again"

    step = models.CharField(max_length=40)
    kind = models.CharField(max_length=5, choices=Kind)
    at = models.DateTimeField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)

    def __str__(self) -> Any:
        return f"{self.step} {self.kind}"
