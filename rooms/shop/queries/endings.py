"""Price endings as a shop writes them, as bands, and as the core's rule."""

from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from cutting.quantities import Band, Direction, EndingRule, parse_decimal

Bands = Iterable[dict[str, Any]]


def rule_of(bands: Bands, direction: str) -> EndingRule:
    """Raises BadValue, through the core, for bands that cannot be."""
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


def words_of(bands: Bands) -> str:
    """Bands as a shop writes them: "0.49 0.99 under 20; 0.99"."""
    parts = []
    for band in bands:
        text = " ".join(band["endings"])
        if band.get("every", "1") != "1":
            text += f" every {band['every']}"
        parts.append(text + (f" under {band['under']}" if "under" in band else ""))
    return "; ".join(parts)


def bands_of(words: str) -> list[dict[str, Any]]:
    """The other way. Raises BadValue for what is no rule."""
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
    for band in bands:
        for number in (*band["endings"], band.get("under", "1"), band.get("every", "1")):
            parse_decimal(number, "Endings")
    rule_of(bands, "up")
    return bands
