"""What finishing a test leaves open, for the page and for the action alike."""

from dataclasses import dataclass
from decimal import Decimal

from cutting.sheet.finishing import left_open
from rooms.bench.models import Output
from rooms.bench.queries.rows import TestRows


@dataclass(frozen=True)
class Unfinished:
    """What somebody has to agree to. `unweighed` as it is told and sent back; empty for nothing."""

    unweighed: str
    unit: str
    empty: list[Output]
    is_anything: bool


def unfinished(rows: TestRows, none_of: frozenset[int] = frozenset()) -> Unfinished:
    """No query. `none_of`: piles that somebody said there is none of."""
    holding = frozenset(rows.by_output) | none_of
    expected = {output.pk: output.share for output in rows.piles if not output.is_none}
    found = left_open(rows.weighed, expected, holding)
    empty = [output for output in rows.piles if output.pk in found.empty]
    told = f"{found.unweighed:.2f}" if found.unweighed != Decimal(0) else ""
    return Unfinished(told, rows.test.weight_unit, empty, bool(found))


@dataclass(frozen=True)
class Agreed:
    """What the page told and somebody agreed to: the unweighed weight as it was told, piles of none."""

    unweighed: str = ""
    none_of: frozenset[int] = frozenset()


def everything_open(rows: TestRows) -> Agreed:
    """Agree to all that is open, as a page that told it would."""
    told = unfinished(rows)
    return Agreed(told.unweighed, frozenset(output.pk for output in told.empty))
