"""The key a form or a capture brings along, so that sending it twice records once."""

from uuid import UUID

from rooms.common.errors import BadInput


def own_key(text: str, field: str = "Key") -> UUID:
    """Raises BadInput, which names the field, when the key is missing or no UUID."""
    try:
        return UUID(text)
    except ValueError:
        raise BadInput(f"{field}: it came without its own key; load the page again.") from None
