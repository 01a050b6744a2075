"""Which characters a name may have."""

JOINERS = "\u200c\u200d"
"""Zero-width (non-)joiner: parts of how Persian, Sinhala and other names are written."""


def is_plain(text: str) -> bool:
    """Return whether a text is of characters that are seen, and joiners between them."""
    seen = text.translate({ord(one): None for one in JOINERS})
    return seen.isprintable() and bool(seen) == bool(text)
