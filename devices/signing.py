"""A reading's signature: that it came from the shop's scale, in this order, at this time.

HMAC-SHA256 (RFC 2104, FIPS 198-1) over the fields below, one a line, with the key that bridge and
shop share. A page can show and forward a reading; it cannot make one.
"""

from __future__ import annotations

import hashlib
import hmac
from collections.abc import Mapping

FIELDS = ("scale", "run", "sequence", "at", "weight", "unit", "division", "state", "tare")


def sign(key: str, message: Mapping[str, object]) -> str:
    """64 hexadecimal digits. A missing field counts as empty."""
    text = "\n".join(str(message.get(name, "")) for name in FIELDS)
    return hmac.new(key.encode(), text.encode(), hashlib.sha256).hexdigest()


def is_signed(key: str, message: Mapping[str, object]) -> bool:
    """Whether `message["signature"]` is right. Never with an empty key."""
    given = str(message.get("signature", ""))
    return bool(key) and given.isascii() and hmac.compare_digest(given, sign(key, message))
