"""Amounts as people type them: “CHF 9.99”, “kr 9.99”, “$9.99”, “9.99 €”. One reader for all of them."""

import re

import pycountry

from cutting.errors import BadValue
from rooms.shop.queries.current import house

SIGNS = {
    "AUD": ("$", "a$", "au$"),
    "BRL": ("r$",),
    "CAD": ("$", "c$", "ca$"),
    "CHF": ("fr", "fr.", "sfr", "sfr."),
    "CNY": ("¥",),
    "CZK": ("kč", "kc"),
    "DKK": ("kr", "kr.", "dkr"),
    "EUR": ("€",),
    "GBP": ("£",),
    "INR": ("₹", "rs", "rs."),
    "MXN": ("$", "mx$"),
    "NOK": ("kr", "kr.", "nkr"),
    "NZD": ("$", "nz$"),
    "PLN": ("zł", "zl"),
    "SEK": ("kr", "kr.", "skr"),
    "USD": ("$", "us$"),
    "ZAR": ("r",),
}
"""How currencies are written beside their code of ISO 4217; common practice, no published source."""
AROUND = re.compile(
    r"^(?P<before>\D*?)(?P<amount>[-+]?\.?\d(?:[\d.,\s']*\d)?)(?P<after>\D*)$", re.DOTALL
)
LONGEST_SHOWN = 20


def bare_amount(text: str, name: str, currency: str = "") -> str:
    """The amount without the sign or the code of the shop's currency, whatever stands before or behind it.

    Raises BadValue for another currency; what is no currency stays, for whoever reads the number.
    """
    own = currency or house().currency
    found = AROUND.match(text.strip())
    if found is None:
        return text
    amount = found["amount"]
    for place in ("before", "after"):
        word = found[place].strip()
        if not word:
            continue
        if word.casefold() in (own.casefold(), *SIGNS.get(own, ())):
            continue
        if is_currency(word):
            wrong = f"“{text[:LONGEST_SHOWN]}” is no amount in {own}"
            raise BadValue(name, wrong, f"{own}, or none, is right")
        return text
    return amount.strip()


def is_currency(word: str) -> bool:
    """Whether a word is the sign or the code of any currency."""
    folded = word.casefold()
    signs = {sign for some in SIGNS.values() for sign in some}
    return folded in signs or pycountry.currencies.get(alpha_3=word.upper()) is not None
