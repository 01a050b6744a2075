"""The settings of this shop, read once a request."""

from asgiref.local import Local

from rooms.shop.models import Shop
from rooms.shop.queries.house import House

_KEPT = Local()


def house() -> House:
    """The shop's settings: one query the first time in a request, what ships without a row."""
    kept: House | None = getattr(_KEPT, "house", None)
    if kept is None:
        row = Shop.objects.first()
        kept = _KEPT.house = House() if row is None else House.of(row)
    return kept


def forget(**_: object) -> None:
    """A request begins, or the settings changed: the next who asks reads them."""
    _KEPT.house = None
