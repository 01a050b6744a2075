"""The shop's settings as one typed object. What ships is what a shop begins with."""

from dataclasses import dataclass, field, fields
from decimal import Decimal
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings

from cutting.cooler.temperature import LEAST, LIMIT
from cutting.costing.schools import CostingSchool
from cutting.quantities import Unit
from rooms.shop.models import Shop
from wording.cooler import limit_words
from wording.dates import Clock, DayOrder

LONGEST_SHORT_NAME = 16


@dataclass(frozen=True)
class Plate:
    """A scale as its plate says. Its address and key stand in the environment, by its name."""

    name: str
    label: str
    capacity: str
    unit: str
    division: str


BLOCK = Plate("block", "Block scale", "30", "lb", "0.01")


@dataclass(frozen=True)
class House:
    """Everything the shop has decided for itself."""

    name: str = "The shop"
    own_short_name: str = ""
    currency: str = "USD"
    unit: Unit = Unit.LB
    names_first: str = Shop.NamesFirst.US
    time_zone: str = settings.TIME_ZONE
    day_order: DayOrder = DayOrder.DAY
    clock: Clock = Clock.H24
    labour_rate: Decimal = Decimal("24.00")
    school: CostingSchool = CostingSchool.SALES_VALUE
    price_way: str = Shop.PriceWay.PIECE
    target_margin: Decimal = Decimal("0.42")
    floor_margin: Decimal | None = None
    endings: tuple[dict[str, Any], ...] = (
        {"under": "20", "endings": ["0.49", "0.99"]},
        {"endings": ["0.99"]},
    )
    ending_direction: str = "nearest"
    delivery_days: tuple[int, ...] = (1, 4)
    origin_asked: tuple[str, ...] = ("lamb",)
    """In the United States lamb, 7 CFR 65."""
    warmest: int = LIMIT
    coldest: int = LEAST
    scales: tuple[Plate, ...] = field(default=(BLOCK,))
    fat_level: str = ""
    steak_trim: str = Shop.SteakTrim.WHOLE
    silver_skin: str = Shop.SilverSkin.NEVER
    leg_cap: str = Shop.LegCap.GRILL
    boning: str = Shop.Boning.OPEN
    lock_minutes: int = 30
    is_set_up: bool = False

    @classmethod
    def of(cls, row: Shop) -> "House":
        """Its settings. What a row holds was checked when it was written."""
        found = {each.name: getattr(row, each.name) for each in fields(cls)}
        return cls(
            **{
                **found,
                "unit": Unit(row.unit),
                "day_order": DayOrder(row.day_order),
                "clock": Clock(row.clock),
                "school": CostingSchool(row.school),
                "endings": tuple(row.endings),
                "delivery_days": tuple(row.delivery_days),
                "origin_asked": tuple(row.origin_asked),
                "scales": tuple(Plate(**plate) for plate in row.scales),
            }
        )

    @property
    def columns(self) -> dict[str, Any]:
        """As the columns of a row."""
        found = {each.name: getattr(self, each.name) for each in fields(self)}
        plates = [
            {each.name: getattr(one, each.name) for each in fields(one)} for one in self.scales
        ]
        lists = {name: list(found[name]) for name in ("endings", "delivery_days", "origin_asked")}
        words = {name: found[name].value for name in ("unit", "day_order", "clock", "school")}
        return {**found, **lists, **words, "scales": plates}

    @property
    def short_name(self) -> str:
        """What stands at the head of a page: its own, else it follows the name."""
        return self.own_short_name or short(self.name)

    @property
    def limit_words(self) -> str:
        """The cooler's upper limit: 5 °C (41 °F; FDA Food Code 3-501.16)."""
        return limit_words(self.warmest)

    @property
    def zone(self) -> ZoneInfo:
        return ZoneInfo(self.time_zone)

    @property
    def house_rules(self) -> dict[str, str]:
        """Where the trade disagrees, the house's way, by the words of the guides' data."""
        return {
            "steak-trim": self.steak_trim,
            "silver-skin": self.silver_skin,
            "leg-cap": self.leg_cap,
            "boning": self.boning,
        }


def short(name: str) -> str:
    """The first words of a name, as many as fit at the head of a page: at least one letter."""
    if len(name) <= LONGEST_SHORT_NAME:
        return name
    words, kept = name.split(), ""
    for word in words:
        longer = f"{kept} {word}".strip()
        if len(longer) > LONGEST_SHORT_NAME:
            break
        kept = longer
    return _whole_words(kept) or name[:LONGEST_SHORT_NAME].strip()


JOINING = frozenset({"and", "of", "the", "for", "at", "by", "in", "on", "y", "et", "und"})


def _whole_words(kept: str) -> str:
    """A name does not end in a word that joins it to the next: Porter, not Porter &."""
    words = kept.split()
    while words and (
        words[-1].lower() in JOINING or not any(letter.isalnum() for letter in words[-1])
    ):
        words.pop()
    return " ".join(words)
