"""How much a layout is worth: pieces of random length, taper and density, cut by a hand that slips.

python tools/layout_simulation.py [pieces]      prints the table of docs/layout.md

Every way cuts the same pieces with the same errors. The layout knows the usual shape, the weight and
what a tape says of the length; what a piece really is, only its portions tell.
"""

import random
import sys
from bisect import bisect_left
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from cutting.layout.aims import Aim, lay_out_for
from cutting.layout.follow import Told, follow
from cutting.layout.profile import Profile, Section, Station
from cutting.layout.solver import plain_rule
from cutting.layout.task import Slice, Task
from cutting.quantities import Unit, UnitPrice, Weight

SEED, PIECES = 17, 500
TARGET, BAND = 14.0, 0.7
"""Ounces: within 5 % of its target a portion is right."""
STEAK, REST = 19.99, 6.99
KNIFE, SLIPS, SLIP = 1.0, 0.03, 4.0
"""mm of usual error of a cut, how often a hand slips, and by how much."""
SHAPE = ((0.0, 0.93, 0.94), (0.3, 1.0, 1.0), (0.75, 0.95, 0.93), (1.0, 0.84, 0.80))
LONG, WIDE, HIGH = 394.0, 178.0, 102.0
USUAL = Profile(
    Section.ELLIPSE,
    tuple(
        Station(Decimal(repr(round(a * LONG))), Decimal(repr(w * WIDE)), Decimal(repr(h * HIGH)))
        for a, w, h in SHAPE
    ),
)
STEPS = 2000


@dataclass
class Piece:
    """A real piece: its length in mm, and ounces up to every of so many steps."""

    length: float
    ounces: list[float]

    def upto(self, at: float) -> float:
        place = min(max(at / self.length, 0.0), 1.0) * STEPS
        low = min(int(place), STEPS - 1)
        return self.ounces[low] + (self.ounces[low + 1] - self.ounces[low]) * (place - low)

    def behind(self, at: float, ounces: float) -> float:
        """Where so many ounces more lie."""
        want = self.upto(at) + ounces
        place = bisect_left(self.ounces, want)
        return min(place, STEPS) / STEPS * self.length


def grown(rng: random.Random) -> Piece:
    """A piece that is longer, thicker at one end or its middle, and denser than usual or less."""
    length = LONG * rng.gauss(1, 0.06)
    tilt, belly = rng.gauss(0, 0.15), rng.gauss(0, 0.08)
    ounces, total = [0.0], 0.0
    wide = rng.gauss(1, 0.06)
    per = 1.06 * rng.gauss(1, 0.008) / 28349.523
    for i in range(STEPS):
        share = (i + 0.5) / STEPS
        station = next(k for k in range(3) if share <= SHAPE[k + 1][0])
        (a, w0, h0), (b, w1, h1) = SHAPE[station], SHAPE[station + 1]
        part = (share - a) / (b - a)
        width, height = (w0 + (w1 - w0) * part) * WIDE, (h0 + (h1 - h0) * part) * HIGH
        odd = 1 + tilt * (share - 0.5) + belly * (0.5 - abs(share - 0.5)) * 2
        total += 0.7854 * width * height * odd * wide * length / STEPS * per
        ounces.append(total)
    return Piece(length, ounces)


def task_of(piece: Piece, *, is_measured: bool) -> Task:
    weight = Weight(Decimal(repr(round(piece.ounces[-1] / 16, 2))), Unit.LB)
    if is_measured:
        length = Decimal(repr(round(piece.length)))
    else:
        length = Decimal(repr(round(LONG * (piece.ounces[-1] / 16 / 14.5) ** (1 / 3))))
    ounce = Unit.OZ
    steak = Slice(
        "steak",
        lightest=Weight(Decimal(repr(TARGET - BAND)), ounce),
        heaviest=Weight(Decimal(repr(TARGET + BAND)), ounce),
        thinnest=Decimal(13),
        thickest=Decimal(45),
        price=UnitPrice(Decimal(repr(STEAK)), Unit.LB),
        aim=Weight(Decimal(repr(TARGET)), ounce),
    )
    return Task(
        weight,
        USUAL.scaled(length),
        (steak,),
        near=Decimal(6),
        least_gap=Decimal(3),
        rest=UnitPrice(Decimal(repr(REST)), Unit.LB),
    )


@dataclass
class Tally:
    """What one way gave over all pieces. Ounces and money."""

    right: int = 0
    wrong: int = 0
    over: float = 0.0
    rest: float = 0.0
    money: float = 0.0

    def slice(self, ounces: float) -> None:
        if abs(ounces - TARGET) <= BAND + 1e-9:
            self.right += 1
            self.over += max(ounces - TARGET, 0)
            self.money += ounces / 16 * STEAK
        else:
            self.wrong += 1
            self.leave(ounces)

    def leave(self, ounces: float) -> None:
        self.rest += ounces
        self.money += ounces / 16 * REST


class Hand:
    """Errors of the knife, the same for every way."""

    def __init__(self, seed: int) -> None:
        self.rng = random.Random(seed)

    def error(self) -> float:
        slip = self.rng.choice((-SLIP, SLIP)) if self.rng.random() < SLIPS else 0.0
        return self.rng.gauss(0, KNIFE) + slip


def by_marks(piece: Piece, marks: list[float], sold: list[bool], hand: Hand, tally: Tally) -> None:
    """Cut at marks of a strip that is laid along the piece: an error stays with its cut."""
    at = 0.0
    for mark, is_sold in zip([*marks, piece.length], sold, strict=True):
        end = piece.length if mark == piece.length else max(mark + hand.error(), at + 1)
        end = min(end, piece.length)
        ounces = piece.upto(end) - piece.upto(at)
        (tally.slice if is_sold else tally.leave)(ounces)
        at = end


def by_layout(piece: Piece, task: Task, aim: Aim, hand: Hand, tally: Tally) -> None:
    layout = lay_out_for(task, aim)
    stretch = piece.length / float(task.profile.length)
    marks = [float(task.at(mark)) * (stretch if stretch < 1 else 1) for mark in layout.marks]
    sold = [part.product is not None for part in layout.parts]
    by_marks(piece, marks, sold, hand, tally)


def by_rule(piece: Piece, task: Task, hand: Hand, tally: Tally) -> None:
    """Halves, quarters, then threes or fours: no tape is needed, the hand halves what is there."""
    rule = plain_rule(task)
    assert rule is not None
    marks = [piece.length * i / rule.count for i in range(1, rule.count)]
    by_marks(piece, marks, [True] * rule.count, hand, tally)


def by_following(piece: Piece, task: Task, hand: Hand, tally: Tally, *, is_measured: bool) -> None:
    """Cut, weigh, and cut the next as the rest says: by its thickness from the fresh face."""
    told: tuple[Told, ...] = ()
    at = 0.0
    while True:
        stands = follow(task, told, aim=Aim.GIVE_AWAY, is_measured=is_measured)
        if not stands.next:
            break
        asked = stands.next[0]
        start = at + float(asked.before)
        end = min(start + float(asked.thick) + hand.error(), piece.length)
        if end <= start:
            break
        tally.leave(piece.upto(start) - piece.upto(at))
        ounces = piece.upto(end) - piece.upto(start)
        tally.slice(ounces)
        shown = Fraction(round(ounces * 10), 160)  # a scale of 0.1 oz, in pounds
        told = (*told, Told(shown, asked.name, asked=asked))
        at = end
    tally.leave(piece.ounces[-1] - piece.upto(at))


def simulate(pieces: int = PIECES) -> dict[str, Tally]:
    rng = random.Random(SEED)
    found = {name: Tally() for name in WAYS}
    for number in range(pieces):
        piece = grown(rng)
        blind, seen = (task_of(piece, is_measured=measured) for measured in (False, True))
        for name, (is_measured, how) in WAYS.items():
            how(piece, seen if is_measured else blind, Hand(number), found[name])
    return found


WAYS = {
    "plain rule": (True, by_rule),
    "equal thickness": (True, lambda p, t, h, y: by_layout(p, t, Aim.THICKNESS, h, y)),
    "equal weight, laid out once": (True, lambda p, t, h, y: by_layout(p, t, Aim.WEIGHT, h, y)),
    "laid out once, no tape": (False, lambda p, t, h, y: by_layout(p, t, Aim.GIVE_AWAY, h, y)),
    "laid out once": (True, lambda p, t, h, y: by_layout(p, t, Aim.GIVE_AWAY, h, y)),
    "solved again, no tape": (False, lambda *a: by_following(*a, is_measured=False)),
    "solved again": (True, lambda *a: by_following(*a, is_measured=True)),
}


def table(pieces: int = PIECES) -> str:
    rows = [
        "| way | right steaks a piece | out of band | over the target, oz | to the rest, oz | money |",
        "|---|---:|---:|---:|---:|---:|",
    ]
    for name, one in simulate(pieces).items():
        rows.append(
            f"| {name} | {one.right / pieces:.2f} | {one.wrong / pieces:.2f}"
            f" | {one.over / pieces:.2f} | {one.rest / pieces:.1f} | {one.money / pieces:.2f} |"
        )
    return "\n".join(rows)


if __name__ == "__main__":
    print(table(int(sys.argv[1]) if len(sys.argv) > 1 else PIECES))
