"""A product code gets its piece, and its bags with it."""

from django.utils import timezone

from rooms.catalog.models import Piece
from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.cooler.models import Bag, BagEvent, ProductCode
from rooms.cooler.queries.days import keep_days


def name_code(gtin: str, piece: Piece, by_id: int | None) -> int:
    """Say what a product code stands for; its bags without a piece get it. Returns how many."""
    with write():
        code = ProductCode.objects.filter(gtin=gtin).first()
        if code is None:
            raise BadInput(f"Product code: {gtin} never came; one of the list is right.")
        code.piece = piece
        code.save(update_fields=["piece"])
        bags = list(Bag.objects.filter(gtin=gtin, piece=None))
        named = Bag.objects.filter(pk__in=[bag.pk for bag in bags])
        named.update(piece=piece)
        keep_days(named)
        words = f"product code {gtin} is {piece.shown_name}"
        BagEvent.objects.bulk_create(
            [
                BagEvent(bag=bag, kind="named", words=words, at=timezone.now(), by_id=by_id)
                for bag in bags
            ]
        )
    return len(bags)
