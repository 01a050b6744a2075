"""Codes on labels and in files: products (GTIN, by biip) and countries (ISO 3166, by pycountry)."""

from biip import ParseError
from biip.gtin import Gtin
from pycountry import countries

from rooms.common.errors import BadInput


def gtin_14(text: str) -> str:
    """A product code with its 14 digits: one of 8, 12 or 13 digits is the same code.

    Raises BadInput for another length or a wrong check digit.
    """
    try:
        return Gtin.parse(text).as_gtin_14()
    except ParseError:
        raise BadInput(
            f"product code: “{text[:20]}”; 8, 12, 13 or 14 digits, the last of them the check"
            " digit, are right"
        ) from None


def is_gtin(text: str) -> bool:
    """14 digits with the right check digit."""
    try:
        return gtin_14(text) == text
    except BadInput:
        return False


def country_named(text: str) -> str:
    """A country by its name, whichever of its ISO 3166 codes or names it was given by.

    A text that is none is left as it is: a shop may write a region.
    """
    text = " ".join(text.split())
    try:
        found = countries.lookup(text.zfill(3) if text.isdecimal() else text)
    except LookupError:
        return text
    return str(getattr(found, "common_name", found.name))


LIKELY = ("US", "CA", "MX", "NZ", "AU")
"""Countries that meat in an American case mostly comes from: common practice, no published source."""


def countries_by_letters() -> dict[str, str]:
    """Return the name of every country by its two letters."""
    return {one.alpha_2: str(getattr(one, "common_name", one.name)) for one in countries}


def letters_of(country: str) -> str:
    """Return the two letters of ISO 3166-1; empty for a name that is none."""
    try:
        return str(countries.lookup(country).alpha_2) if country else ""
    except LookupError:
        return ""
