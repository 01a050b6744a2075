"""The shop's own ageing window of a piece."""

from dataclasses import asdict

from cutting.cooler.ageing import Window
from rooms.catalog.models import Piece
from rooms.common.db.seen import check_unchanged
from rooms.common.db.writing import write
from rooms.cooler.models import AgeWindow, Bag
from rooms.cooler.queries.days import keep_days
from rooms.cooler.queries.windows import usual
from rooms.staff.models import Person


@write()
def set_window(
    piece: Piece, window: Window, by_id: int | None = None, seen: int | None = None
) -> None:
    """Keep the shop's window; the one that ships for the piece takes the shop's back. The same again changes
    nothing.

    Raises Overtaken where somebody changed it since the page knew the history of the windows as far as `seen`.
    """
    columns = asdict(window)
    row = AgeWindow.objects.filter(piece=piece).first()
    is_usual = window == usual(piece)
    if (is_usual and row is None) or (row is not None and row.window == window):
        return
    check_unchanged(AgeWindow, seen, columns, piece=piece)
    row = row or AgeWindow(piece=piece)
    row._history_user = Person.objects.filter(pk=by_id).first()
    if is_usual:
        row.delete()
    else:
        for name, days in columns.items():
            setattr(row, name, days)
        row.save()
    keep_days(Bag.objects.in_cooler().filter(piece=piece))
