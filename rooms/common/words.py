"""Comparing words."""

import unicodedata


def fold(text: str) -> str:
    """Lower case without accents, for searching: "Filet mignon" and "FILET" meet."""
    split = unicodedata.normalize("NFKD", text.casefold())
    return "".join(letter for letter in split if not unicodedata.combining(letter))
