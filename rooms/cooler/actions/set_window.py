"""The shop's own ageing window of a piece."""

from cutting.cooler.ageing import Window
from rooms.catalog.models import Piece
from rooms.common.writing import write
from rooms.cooler.models import AgeWindow, Bag
from rooms.cooler.rules.days import keep_days
from rooms.cooler.rules.windows import usual


@write()
def set_window(piece: Piece, window: Window) -> None:
    """Keep the shop's window; the one that ships for the piece takes the shop's back."""
    if window == usual(piece):
        AgeWindow.objects.filter(piece=piece).delete()
    else:
        AgeWindow.objects.update_or_create(
            piece=piece,
            defaults={
                "least": window.least,
                "best_from": window.best_from,
                "best_to": window.best_to,
                "end": window.end,
            },
        )
    keep_days(Bag.objects.in_cooler().filter(piece=piece))
