"""What a plan gave in the shop's own tests, beside what it usually gives."""

from dataclasses import dataclass
from decimal import Decimal

from cutting import rails
from cutting.cutting_test import figures, same_name
from cutting.pencil import percent
from cutting.quantities import HUNDRED, ZERO, working
from rooms.bench.models import CuttingTest
from rooms.bench.rows import load_all, to_core
from rooms.catalog.looks import looks_in_order
from rooms.catalog.models import PlanOutput

LAST = 20


@dataclass(frozen=True)
class Line:
    """One output: its usual share, and the mean, least and largest of the tests, of 1."""

    name: str
    look: str
    usual: Decimal | None
    mean: Decimal
    least: Decimal
    most: Decimal


@dataclass(frozen=True)
class Gave:
    count: int
    lines: list[Line]
    rail: list[tuple[str, rails.PoundRail]]


def gave(piece_key: str, plan_key: str) -> Gave | None:
    """The last approved tests of a plan, at most LAST: four queries. None without a test.

    A pile that was not weighed in a test gave nothing in it.
    """
    tests = CuttingTest.objects.filter(plan__piece__key=piece_key, plan__key=plan_key)
    last = list(tests.exclude(approved_at=None).order_by("-number")[:LAST])
    if not last:
        return None
    outputs = list(
        PlanOutput.objects.filter(plan__piece__key=piece_key, plan__key=plan_key).order_by(
            "position", "id"
        )
    )
    shares: list[dict[str, Decimal]] = []
    for rows in load_all(last):
        found = figures(to_core(rows, weighed_only=True))
        shares.append({same_name(line.name): line.share for line in found.outputs})
    lines = []
    for output, look in zip(outputs, looks_in_order(outputs), strict=True):
        each = [test.get(same_name(output.name), ZERO) for test in shares]
        with working():
            mean = sum(each, ZERO) / len(each)
        lines.append(Line(output.name, look, output.share, mean, min(each), max(each)))
    parts = [
        rails.Part(line.name, line.mean * HUNDRED, percent(line.mean), line.look)
        for line in lines
        if line.mean
    ]
    drawn = [
        (glass, rails.pound_rail(parts, HUNDRED, "100 %", frame))
        for glass, frame in (("wide", rails.WIDE), ("narrow", rails.NARROW))
    ]
    return Gave(len(last), lines, drawn)
