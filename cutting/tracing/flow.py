"""Meat on its way: how much of one thing is in another, forwards and back, and what is not accounted for.

Every thing hands on what is of the start in the share that it holds of it: what is mixed stays mixed.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from graphlib import CycleError, TopologicalSorter

from cutting.errors import BadValue
from cutting.quantities import ZERO, working


class Kind(StrEnum):
    """In the order of the work."""

    LOT = "lot"
    BAG = "bag"
    TEST = "test"
    TUB = "tub"
    ENTRY = "entry"
    BATCH = "batch"
    TRAY = "tray"
    END = "end"
    """Where meat stays: sold, thrown away, in the cooler."""


Node = tuple[Kind, str]


@dataclass(frozen=True, slots=True)
class Link:
    """So much weight went from one thing to another."""

    source: Node
    target: Node
    weight: Decimal


def back(links: Iterable[Link]) -> list[Link]:
    """The same the other way."""
    return [Link(one.target, one.source, one.weight) for one in links]


@dataclass(frozen=True, slots=True)
class Flow:
    """`in_it`: what is of the start in each thing that it reaches; `moved`: along each link; `rest`: what
    stays in a thing and is on no link, below 0 where more left it than it weighed."""

    in_it: dict[Node, Decimal]
    moved: dict[tuple[Node, Node], Decimal]
    rest: dict[Node, Decimal]


def flow(links: Sequence[Link], weights: Mapping[Node, Decimal], start: Node) -> Flow:
    """`weights`: of each thing whole, in the unit of the links. A thing of no weight hands on nothing, and
    what it leads to is reached with 0.

    Raises BadValue for a way that comes back to where it was.
    """
    out: dict[Node, list[Link]] = defaultdict(list)
    for link in links:
        out[link.source].append(link)
    reached = _reached(out, start)
    in_it: dict[Node, Decimal] = dict.fromkeys(reached, ZERO)
    moved: dict[tuple[Node, Node], Decimal] = defaultdict(lambda: ZERO)
    rest: dict[Node, Decimal] = {}
    in_it[start] = weights.get(start, ZERO)
    with working():
        for node in reached:
            own, whole = in_it[node], weights.get(node, ZERO)
            gone = ZERO
            for link in out.get(node, ()):
                part = own * link.weight / whole if whole else ZERO
                in_it[link.target] += part
                moved[link.source, link.target] += part
                gone += part
            rest[node] = own - gone
    return Flow(in_it, dict(moved), rest)


def _reached(out: Mapping[Node, Sequence[Link]], start: Node) -> list[Node]:
    """What the start leads to, each after all that lead to it."""
    seen, open_ones = {start}, [start]
    before: dict[Node, set[Node]] = {start: set()}
    while open_ones:
        node = open_ones.pop()
        for link in out.get(node, ()):
            before.setdefault(link.target, set()).add(node)
            if link.target not in seen:
                seen.add(link.target)
                open_ones.append(link.target)
    try:
        return list(TopologicalSorter(before).static_order())
    except CycleError as wrong:
        names = " → ".join(f"{kind} {name}" for kind, name in wrong.args[1])
        raise BadValue("way", names, "a way that does not come back is right") from None
