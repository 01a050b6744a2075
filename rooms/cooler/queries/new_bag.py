"""A bag before it is one."""

import uuid
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal

from rooms.catalog.models import Piece
from rooms.cooler.models import Seal


@dataclass(frozen=True)
class NewBag:
    """One bag as typed, read or scanned. `place`: where it stood, for the report."""

    weight: Decimal
    unit: str
    packed_on: date
    piece: Piece | None = None
    gtin: str = ""
    serial: str = ""
    lot: str = ""
    grade: str = ""
    country: str = ""
    born: str = ""
    raised: str = ""
    slaughtered: str = ""
    pieces_inside: int = 1
    price: Decimal | None = None
    price_per: str = "lb"
    use_by: date | None = None
    seal: str = Seal.TIGHT
    was_frozen: bool = False
    damage: tuple[str, ...] = ()
    marbling: int | None = None
    claims: str = ""
    key: uuid.UUID = field(default_factory=uuid.uuid4)
    place: str = ""
