"""The shop's price endings, loads and trays as the core's values."""

from decimal import Decimal
from functools import lru_cache
from typing import Any

from django.conf import settings

from cutting.prices.margins import Loads
from cutting.quantities import Band, Direction, EndingRule, Unit, Weight
from rooms.pricebook.models import Ending, Product


@lru_cache(maxsize=1)
def endings() -> EndingRule:
    """The shop's rule, where neither product nor family has one."""
    return rule_of(settings.SHOP["endings"], settings.SHOP["ending_direction"])


def rule_of(bands: list[dict[str, Any]], direction: str) -> EndingRule:
    return EndingRule(
        tuple(
            Band(
                Decimal(band["under"]) if "under" in band else None,
                tuple(Decimal(ending) for ending in band["endings"]),
                Decimal(band.get("every", "1")),
            )
            for band in bands
        ),
        Direction(direction),
    )


def endings_of(product: Product | None) -> EndingRule:
    """Its own rule, else its family's, else the shop's. Both must be loaded with the product."""
    if product is None:
        return endings()
    own: Ending | None = product.ending or (product.family.ending if product.family_id else None)
    return endings() if own is None else rule_of(own.bands, own.direction)


def tray_of(product: Product) -> Decimal | None:
    """A usual tray in the product's unit of sale."""
    if product.tray_weight is None:
        return None
    return Weight(product.tray_weight, Unit(product.tray_unit)).to(Unit(product.per))


def loads_of(product: Product | None) -> Loads:
    """What one unit carries beside the meat, as far as the product carries it."""
    if product is None:
        return Loads()
    is_packed = product.carries_packaging and product.tray_id
    return Loads.of(
        shrink=product.shrink,
        minutes=product.minutes if product.carries_labour else None,
        rate=Decimal(settings.SHOP["labour_rate"]),
        packing=product.tray.cost if is_packed else None,
        tray=tray_of(product) if is_packed else None,
    )


def words_of(bands: list[dict[str, Any]]) -> str:
    """Bands as a shop writes them: "0.49 0.99 under 20; 0.99"."""
    parts = []
    for band in bands:
        text = " ".join(band["endings"])
        if band.get("every", "1") != "1":
            text += f" every {band['every']}"
        parts.append(text + (f" under {band['under']}" if "under" in band else ""))
    return "; ".join(parts)


def bands_of(words: str) -> list[dict[str, Any]]:
    """The other way. Raises BadValue, through the core, for bands that cannot be."""
    bands: list[dict[str, Any]] = []
    for part in words.split(";"):
        tokens = part.split()
        band: dict[str, Any] = {"endings": []}
        while tokens:
            token = tokens.pop(0)
            if token in ("under", "every") and tokens:
                band[token] = tokens.pop(0)
            else:
                band["endings"].append(token)
        bands.append(band)
    return bands
