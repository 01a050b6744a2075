"""One way, forwards and back, with its weights: what every page of it rests on."""

from dataclasses import dataclass
from decimal import Decimal
from uuid import UUID

from cutting.errors import BadValue
from cutting.quantities import ZERO, working
from cutting.tracing.flow import Flow, Kind, Link, Node, back, flow
from rooms.common.errors import BadInput
from rooms.recall.queries.weights import End, Meat, TraySum, meat_of, tray_meat, tray_sums
from rooms.trays.models import Tray
from rooms.trays.queries.lot_graph import Reached, Start, backwards, forwards

SMALLEST = Decimal("0.05")
"""Grams: less than that is rounding."""


@dataclass(frozen=True)
class Trace:
    """`from_it`: where the start's meat went; `into_it`: where it is from. Grams."""

    start: Start
    node: Node
    reached: Reached
    origins: Reached
    meat: Meat
    from_it: Flow
    into_it: Flow

    @property
    def weight(self) -> Decimal:
        return self.meat.weights[self.node]

    @property
    def trays(self) -> list[TraySum]:
        return self.meat.trays

    def ends(self) -> dict[End, Decimal]:
        """Where its meat is, in grams; they sum to its weight. What nothing accounts for is shown."""
        return ends_of(self.from_it)


NOT_FOOTING = (End.UNACCOUNTED, End.MORE)
"""What shows that something does not foot: less is known of than came, or more."""


def ends_of(found: Flow) -> dict[End, Decimal]:
    """By where meat stays, in the order of the list; none of nothing."""
    sums = dict.fromkeys(End, ZERO)
    with working():
        for (kind, name), rest in found.rest.items():
            sums[End(name) if kind is Kind.END else NOT_FOOTING[rest < 0]] += rest
    return {end: weight for end, weight in sums.items() if abs(weight) >= SMALLEST}


def trace(start: Start) -> Trace:
    """Nine queries for a lot. Raises BadInput for a way that comes back to where it was."""
    ahead, behind = forwards(start), backwards(start)
    meat = meat_of(_both(ahead, behind), tray_sums(ahead))
    node = _node(start, meat)
    turned = back(meat.links)
    if start.tub:
        turned = _into_tub(turned, node)
    try:
        from_it = flow(meat.links, meat.weights, node)
        into_it = flow(turned, meat.weights, node)
    except BadValue as wrong:
        raise BadInput(str(wrong)) from wrong
    return Trace(start, node, ahead, behind, meat, from_it, into_it)


def _both(one: Reached, other: Reached) -> Reached:
    return Reached(
        one.lots | other.lots,
        one.bags | other.bags,
        one.tests | other.tests,
        one.entries | other.entries,
        one.batches | other.batches,
        one.trays | other.trays,
        one.bag_rows | other.bag_rows,
        one.test_rows | other.test_rows,
        one.ins | other.ins,
        one.outs | other.outs,
    )


def _node(start: Start, meat: Meat) -> Node:
    if start.tray:
        return tray_meat(meat, Tray.objects.get(pk=start.tray))
    if start.tub:
        return _tub(start.tub, meat)
    if start.entry:
        return Kind.ENTRY, str(start.entry)
    if start.batch:
        return Kind.BATCH, str(start.batch)
    if start.test:
        return Kind.TEST, str(start.test)
    return (Kind.BAG, str(start.bag)) if start.bag else (Kind.LOT, start.lot)


def _into_tub(turned: list[Link], tub: Node) -> list[Link]:
    """Looking back a tub leads to what went in, as it does looking ahead."""
    own = [Link(one.target, one.source, one.weight) for one in turned if one.target == tub]
    return [one for one in turned if one.target != tub] + own


def _tub(tub: UUID, meat: Meat) -> Node:
    """A tub is all that went into it."""
    node = (Kind.TUB, str(tub))
    with working():
        for entry in meat.entries.values():
            if entry.tub_id == tub:
                own = (Kind.ENTRY, str(entry.pk))
                meat.weights[node] += meat.weights[own]
                meat.link(node, own, meat.weights[own])
    return node
