"""The start page: open tests and the last sheets."""

from dataclasses import dataclass
from decimal import Decimal

from django.db.models import Q

from cutting.sheet.cutting_test import figures, still_on_block
from drawings import rails
from drawings.bar import BarPart, Box
from rooms.bench.models import CuttingTest
from rooms.bench.queries.rows import TestRows, load_all
from rooms.bench.queries.sheet import weighed
from rooms.catalog.models import Piece
from rooms.catalog.queries.looks import looks
from wording.pencil import balance_words, block_words

SHEETS_A_PAGE = 10
LAST_LOOKED_AT = 60
PIECES_SHOWN = 8


@dataclass(frozen=True)
class TestLine:
    """One test in a list, with its small rail."""

    rows: TestRows
    saleable: Decimal
    rail: tuple[Box, ...]
    words: str


@dataclass(frozen=True)
class Front:
    open: list[TestLine]
    sheets: list[TestLine]
    older: int | None
    """Sheets below this number are on the next page; None on the last page."""


def front(before: int | None = None) -> Front:
    """Open tests and one page of sheets, newest first: four queries at any size."""
    running = list(CuttingTest.objects.open().select_related("cutter")) if before is None else []
    done = CuttingTest.objects.finished().select_related("cutter").order_by("-number")
    if before is not None:
        done = done.filter(number__lt=before)
    page = list(done[: SHEETS_A_PAGE + 1])
    older = page[SHEETS_A_PAGE - 1].number if len(page) > SHEETS_A_PAGE else None
    page = page[:SHEETS_A_PAGE]
    by_id = {rows.test.pk: rows for rows in load_all(running + page)}
    return Front(
        open=[_line(by_id[test.pk]) for test in running],
        sheets=[_line(by_id[test.pk]) for test in page],
        older=older,
    )


def _line(rows: TestRows) -> TestLine:
    test = rows.weighed
    found = figures(test)
    unit, look = found.unit.value, looks(rows.outputs)
    sizes = [
        (look[output.pk], line.weight)
        for output, line in zip(weighed(rows), found.outputs, strict=True)
    ]
    left = still_on_block(test, found)
    if rows.test.is_open:
        rest, words = "block", block_words(left, found.balance, unit)
    else:
        rest, words = "unaccounted", balance_words(found.balance, unit)
    if left > 0:
        sizes.append((rest, left))
    segments = [BarPart("", size, "", mark) for mark, size in sizes]
    return TestLine(rows, found.yields.saleable, rails.plain_rail(segments, found.paid), words)


def to_open() -> list[Piece]:
    """The pieces of the last tests, the latest first, at most PIECES_SHOWN, then the others that
    the shop buys; all of them while there is neither: two queries."""
    last = CuttingTest.objects.order_by("-number").values_list("piece_id", flat=True)
    ids = list(dict.fromkeys(last[:LAST_LOOKED_AT]))[:PIECES_SHOWN]
    pieces = {piece.pk: piece for piece in Piece.objects.filter(Q(pk__in=ids) | Q(is_bought=True))}
    lately = [pieces.pop(pk) for pk in ids if pk in pieces]
    return [*lately, *pieces.values()] or list(Piece.objects.all())
