"""Currencies and time zones to choose from."""

from functools import lru_cache
from zoneinfo import available_timezones

import pycountry

FIRST = ("USD", "CAD", "EUR", "GBP", "AUD", "NZD")
NO_CENTS = frozenset(
    [
        "BIF",
        "CLP",
        "DJF",
        "GNF",
        "ISK",
        "JPY",
        "KMF",
        "KRW",
        "PYG",
        "RWF",
        "UGX",
        "UYI",
        "VND",
        "VUV",
        "XAF",
        "XOF",
        "XPF",
        "BHD",
        "IQD",
        "JOD",
        "KWD",
        "LYD",
        "OMR",
        "TND",
        "CLF",
        "UYW",
    ]
)
"""Currencies with no or with three decimals (ISO 4217, value from memory): prices have two."""
NO_MONEY = frozenset(
    ["XAU", "XAG", "XPD", "XPT", "XDR", "XBA", "XBB", "XBC", "XBD", "XSU", "XTS", "XUA", "XXX"]
)
REGIONS = (
    "Africa",
    "America",
    "Antarctica",
    "Asia",
    "Atlantic",
    "Australia",
    "Europe",
    "Indian",
    "Pacific",
)


@lru_cache(maxsize=1)
def currencies() -> list[tuple[str, str]]:
    """Code and words, the common ones first."""
    found = {
        one.alpha_3: f"{one.alpha_3}, {one.name}"
        for one in pycountry.currencies
        if one.alpha_3 not in NO_CENTS | NO_MONEY
    }
    order = [*FIRST, *sorted(set(found) - set(FIRST))]
    return [(code, found[code]) for code in order]


@lru_cache(maxsize=1)
def zones() -> list[tuple[str, list[tuple[str, str]]]]:
    """Time zones by region: the name that is kept, and the place in it."""
    groups: dict[str, list[tuple[str, str]]] = {region: [] for region in REGIONS}
    for name in sorted(available_timezones()):
        region, _, place = name.partition("/")
        if place and region in groups:
            groups[region].append((name, place.replace("_", " ").replace("/", ", ")))
    return [*groups.items(), ("Elsewhere", [("UTC", "UTC")])]


def is_zone(name: str) -> bool:
    return any(name == one for _, group in zones() for one, _ in group)
