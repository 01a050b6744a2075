"""Meat from column to column as ribbons by weight: boxes and bands, coordinates only.

One scale for all: a box is as tall as its weight, but never too low to be read; a band as thick as what moved. What has
no room for a name of its own goes together in one box.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal

from cutting.quantities import ZERO, working
from drawings.lettering import shorten
from drawings.shapes import brief

BOX, GAP, LOWEST, TOP = 150.0, 7.0, 30.0, 24.0
LETTERS = 13.0
FINGER = 44.0
"""What is touched is no lower: a glove is no pen."""
TALL, MOST = 230.0, 11
SQUARE, BETWEEN = 9.0, 3.0
LEAST_BETWEEN = 40.0


@dataclass(frozen=True, slots=True)
class Thing:
    """One box to be: its column, its weight, its name, what stands under it, how many trays it is."""

    key: Hashable
    column: int
    weight: Decimal
    name: str
    figure: str
    link: str = ""
    trays: int = 0
    is_focus: bool = False
    is_end: bool = False
    look: str = "lean"
    """The pattern of its kind; empty for none."""


@dataclass(frozen=True, slots=True)
class Box:
    """A thing where it stands; `of`: how many things are together in it."""

    thing: Thing
    x: float
    y: float
    height: float
    name: str
    of: int = 1
    squares: tuple[tuple[float, float], ...] = ()
    width: float = BOX


@dataclass(frozen=True, slots=True)
class Band:
    """What moved, as a path."""

    path: str
    title: str


@dataclass(frozen=True, slots=True)
class Ribbons:
    """`heads`: the middle of each column and its title."""

    width: float
    height: float
    heads: tuple[tuple[float, str], ...]
    boxes: tuple[Box, ...]
    bands: tuple[Band, ...]


@dataclass
class _Column:
    at: int
    boxes: list[tuple[Thing, list[Thing]]] = field(default_factory=list)
    """A thing, and all that are together in it."""


def ribbons(
    titles: Sequence[str],
    things: Sequence[Thing],
    moved: Mapping[tuple[Hashable, Hashable], Decimal],
    width: float,
) -> Ribbons:
    """`titles`: of the columns, one without things is left out. `moved`: weight between two things; a way
    back to an earlier column is not drawn."""
    used = sorted({one.column for one in things})
    columns = [_column(at, [one for one in things if one.column == at]) for at in used]
    room = max((width - BOX) / max(len(used) - 1, 1), BOX + LEAST_BETWEEN)
    scale = _scale(columns)
    boxes: list[Box] = []
    home: dict[Hashable, Box] = {}
    for place, column in enumerate(columns):
        y = TOP
        for wanted, thing, together in _in_order(column, home, moved):
            height = max(float(thing.weight) * scale, FINGER if thing.link else LOWEST)
            y = max(y, wanted)
            box = _box(thing, together, (round(place * room, 1), round(y, 1)), round(height, 1))
            boxes.append(box)
            home |= dict.fromkeys((one.key for one in together), box)
            y += height + GAP
    bands = _bands(home, moved, scale)
    tall = max((box.y + box.height for box in boxes), default=TOP)
    heads = tuple(
        (round(place * room, 1), titles[column.at]) for place, column in enumerate(columns)
    )
    wide = round(room * (len(used) - 1) + BOX, 1) if used else width
    return Ribbons(wide, round(tall + 4, 1), heads, tuple(boxes), tuple(bands))


def _column(at: int, things: list[Thing]) -> _Column:
    """The heaviest by themselves, in the order they came; the others in one box at the end."""
    column = _Column(at)
    heavy = sorted(things, key=lambda one: (not one.is_focus, -one.weight))[:MOST]
    if len(things) <= MOST + 1:
        heavy = things
    alone = [one for one in things if one in heavy]
    column.boxes = [(one, [one]) for one in alone]
    rest = [one for one in things if one not in heavy]
    if rest:
        with working():
            weight = sum((one.weight for one in rest), ZERO)
        trays = sum(one.trays for one in rest)
        name = f"{len(rest)} more"
        column.boxes.append((Thing(rest[0].key, at, weight, name, "", "", trays), rest))
    return column


def _in_order(
    column: _Column,
    home: Mapping[Hashable, Box],
    moved: Mapping[tuple[Hashable, Hashable], Decimal],
) -> list[tuple[float, Thing, list[Thing]]]:
    """Each as high as what most of it comes from, so that bands run level; with the height it would have."""
    most: dict[Hashable, tuple[Decimal, float]] = {}
    for (source, target), weight in moved.items():
        if source in home and weight > most.get(target, (ZERO, 0.0))[0]:
            most[target] = weight, home[source].y
    found = []
    for at, (thing, together) in enumerate(column.boxes):
        _, y = max((most.get(one.key, (ZERO, 0.0)) for one in together), key=lambda one: one[0])
        found.append((y, len(together) > 1, thing.is_end, at, thing, together))
    found.sort(key=lambda one: (one[1], one[0], one[2], one[3]))
    return [(one[0], one[4], one[5]) for one in found]


def _scale(columns: Sequence[_Column]) -> float:
    """Pixels of a unit of weight, so that the fullest column is TALL."""
    fullest = max((float(sum(one.weight for one, _ in col.boxes)) for col in columns), default=0.0)
    return TALL / fullest if fullest else 0.0


def _box(thing: Thing, together: list[Thing], at: tuple[float, float], height: float) -> Box:
    x, y = at
    name = shorten(thing.name, LETTERS, BOX - 16)
    return Box(thing, x, y, height, name, len(together), _squares(thing, x, y, height))


def _squares(thing: Thing, x: float, y: float, height: float) -> tuple[tuple[float, float], ...]:
    """One for each tray, where all of them have room under the words."""
    step = SQUARE + BETWEEN
    across = int((BOX - 8) // step)
    down = int((height - 36) // step)
    if not 0 < thing.trays <= across * max(down, 0):
        return ()
    return tuple(
        (round(x + 5 + at % across * step, 1), round(y + 34 + at // across * step, 1))
        for at in range(thing.trays)
    )


def _bands(
    home: Mapping[Hashable, Box],
    moved: Mapping[tuple[Hashable, Hashable], Decimal],
    scale: float,
) -> list[Band]:
    """From the right edge of one box to the left of the next, side by side, none crossing another at its
    end."""
    together: dict[tuple[int, int], Decimal] = defaultdict(lambda: ZERO)
    known: dict[int, Box] = {id(box): box for box in home.values()}
    with working():
        for (source, target), weight in moved.items():
            if source in home and target in home and home[source].x < home[target].x:
                together[id(home[source]), id(home[target])] += weight
    pairs = [(known[a], known[b], float(weight) * scale) for (a, b), weight in together.items()]
    leaves = _starts(pairs, source=True)
    comes = _starts(pairs, source=False)
    return [
        _band(a, b, thick, leaves[id(a), id(b)], comes[id(a), id(b)])
        for a, b, thick in sorted(pairs, key=lambda one: (one[0].x, one[0].y, one[1].y))
    ]


def _starts(
    pairs: Sequence[tuple[Box, Box, float]], *, source: bool
) -> dict[tuple[int, int], float]:
    """Where each band begins on its box, in the order of where it leads."""
    found: dict[tuple[int, int], float] = {}
    filled: dict[int, float] = defaultdict(float)
    ordered = sorted(
        pairs, key=lambda one: (one[1].y, one[1].x) if source else (one[0].y, one[0].x)
    )
    for a, b, thick in ordered:
        own = a if source else b
        found[id(a), id(b)] = own.y + filled[id(own)]
        filled[id(own)] += thick
    return found


def _band(a: Box, b: Box, thick: float, leaves: float, comes: float) -> Band:
    x1, x2 = a.x + a.width, b.x
    middle = (x1 + x2) / 2
    own = max(thick, 1.0)
    path = (
        f"M{brief(x1)},{brief(leaves)}C{brief(middle)},{brief(leaves)} {brief(middle)},{brief(comes)}"
        f" {brief(x2)},{brief(comes)}V{brief(comes + own)}C{brief(middle)},{brief(comes + own)}"
        f" {brief(middle)},{brief(leaves + own)} {brief(x1)},{brief(leaves + own)}Z"
    )
    return Band(path, f"{a.thing.name} to {b.thing.name}")
