"""What a plan gave in the shop's own tests, beside what it usually gives."""

from dataclasses import dataclass
from decimal import Decimal

from cutting.quantities import HUNDRED, ZERO
from cutting.sheet.cutting_test import same_name
from cutting.sheet.yields import by_name, pooled_shares
from drawings import rails
from drawings.bar import BarPart
from rooms.bench.models import CuttingTest
from rooms.bench.queries.pool import pool
from rooms.catalog.models import PlanOutput
from rooms.catalog.queries.looks import looks_in_order
from wording.pencil import percent


@dataclass(frozen=True)
class YieldLine:
    """One output: its usual share, the pooled one of the tests, their least and most, of 1."""

    name: str
    look: str
    usual: Decimal | None
    share: Decimal
    least: Decimal
    most: Decimal


@dataclass(frozen=True)
class Gave:
    count: int
    lines: list[YieldLine]
    rail: list[tuple[str, rails.PoundRail]]


def gave(piece_key: str, plan_key: str) -> Gave | None:
    """What the tests of a plan gave that prices rest on too: four queries. None without a test.

    A pile that was not weighed in a test gave nothing in it.
    """
    tests = pool(CuttingTest.objects.filter(plan__piece__key=piece_key, plan__key=plan_key))
    if not tests:
        return None
    outputs = list(
        PlanOutput.objects.filter(plan__piece__key=piece_key, plan__key=plan_key).order_by(
            "position", "id"
        )
    )
    cores = [rows.weighed for rows in tests]
    shares = pooled_shares([(core, by_name(core)) for core in cores])
    lines = []
    for output, look in zip(outputs, looks_in_order(outputs), strict=True):
        found = shares.get(same_name(output.name))
        given = (found.share, found.least, found.most) if found else (ZERO, ZERO, ZERO)
        lines.append(YieldLine(output.name, look, output.share, *given))
    parts = [
        BarPart(line.name, line.share * HUNDRED, percent(line.share), line.look)
        for line in lines
        if line.share
    ]
    drawn = [
        (glass, rails.pound_rail(parts, HUNDRED, "100 %", frame))
        for glass, frame in (("wide", rails.WIDE), ("narrow", rails.NARROW))
    ]
    return Gave(len(tests), lines, drawn)
