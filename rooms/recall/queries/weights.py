"""The weight of what leads to what: every thing with what it handed on, in grams, down to where meat stays."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from decimal import Decimal
from enum import StrEnum
from typing import Any
from uuid import UUID

from django.db.models import Count

from cutting.labels.tray_life import Life
from cutting.quantities import ZERO, Unit, Weight, working
from cutting.sheet.cutting_test import Role
from cutting.tracing.flow import Kind, Link, Node
from cutting.tracing.lots import lot_key
from cutting.tracing.mixing import Move, mixed
from rooms.bench.models import CuttingTest
from rooms.bench.queries.lying import Piles, grams_on_piles
from rooms.cooler.models import Bag
from rooms.grinder.models import Batch, Packed, TubIn
from rooms.grinder.queries.lots import with_answers
from rooms.trays.models import Tray, TrayEvent
from rooms.trays.queries.lot_graph import Reached, batch_rows


class End(StrEnum):
    """Where meat stays, in words."""

    FOR_SALE = "for sale"
    SOLD = "sold"
    THROWN = "thrown away"
    AT_BLOCK = "at the block"
    COOLER = "in the cooler"
    SENT_BACK = "sent back"
    OPENED = "opened, on no test"
    ON_BLOCK = "still on the block"
    CASE = "in the case, no label"
    BY_PRODUCT = "trim in no tub"
    WASTE = "bone and waste"
    PURGE = "purge"
    TUB = "in tubs"
    IN_GRINDER = "in the grinder"
    CLEANED_OUT = "left in the grinder"
    LOSS = "lost in grinding"
    UNPACKED = "ground, not packed"
    NO_LABEL = "packed, no label"
    UNACCOUNTED = "not accounted for"
    MORE = "more than there was"
    """Below 0: more left a thing than it weighed."""


IN_TRAYS = (End.FOR_SALE, End.SOLD, End.THROWN, End.AT_BLOCK)
OF_LIFE = {
    Life.PACKED: End.FOR_SALE,
    Life.IN_CASE: End.FOR_SALE,
    Life.MARKED_DOWN: End.FOR_SALE,
    Life.SOLD: End.SOLD,
    Life.THROWN: End.THROWN,
    Life.TO_BLOCK: End.AT_BLOCK,
}
UNKNOWN = (Kind.LOT, "")
"""Of what nobody knows the lot."""


@dataclass(frozen=True, slots=True)
class TraySum:
    """Trays of one source that are the same in all that the way asks."""

    test: UUID | None
    batch: UUID | None
    life: Life
    was: Life | None
    """Of the tray that it was packed of again; None for one packed of a pile or a batch."""
    grams: Decimal
    """Of all of them."""
    many: int


@dataclass
class Meat:
    """`weights`: of each thing whole; `links`: what went where."""

    weights: dict[Node, Decimal] = field(default_factory=lambda: defaultdict(lambda: ZERO))
    links: list[Link] = field(default_factory=list)
    bags: dict[UUID, Bag] = field(default_factory=dict)
    tests: dict[UUID, CuttingTest] = field(default_factory=dict)
    entries: dict[int, TubIn] = field(default_factory=dict)
    batches: dict[UUID, Batch] = field(default_factory=dict)
    trays: list[TraySum] = field(default_factory=list)

    def link(self, source: Node, target: Node, weight: Decimal) -> None:
        self.links.append(Link(source, target, weight))

    def ends(self, source: Node, end: End, weight: Decimal) -> None:
        """Nothing lies anywhere with less than nothing: that is told as it is."""
        if weight:
            self.link(source, (Kind.END, end if weight > 0 else End.MORE), weight)


def grams(value: Decimal, unit: str) -> Decimal:
    return Weight(value, Unit(unit)).to(Unit.G)


def tray_sums(found: Reached) -> list[TraySum]:
    """Every tray that it leads to, those alike counted by the database and their weight summed here: one
    query."""
    rows = found.all_trays().order_by()
    names = ("from_test", "from_batch", "life", "again_of__life", "net", "unit")
    with working():
        return [
            TraySum(
                test, batch, Life(life), Life(was) if was else None, grams(net, unit) * many, many
            )
            for test, batch, life, was, net, unit, many in rows.values_list(*names)
            .annotate(many=Count("pk"))
            .values_list(*names, "many")
        ]


def meat_of(found: Reached, trays: Iterable[TraySum] = ()) -> Meat:
    """Of everything that was reached, with its trays: five queries at most."""
    meat = Meat(bags=found.bag_rows, batches=batch_rows(found), trays=list(trays))
    missing = found.tests - set(found.test_rows)
    meat.tests = {pk: test for pk, test in found.test_rows.items() if pk in found.tests}
    meat.tests |= CuttingTest.objects.in_bulk(missing) if missing else {}
    meat.entries = {entry.pk: entry for entry in with_answers(found.ins.values())}
    of = _of_source(meat.trays)
    entries: dict[UUID | None, list[TubIn]] = defaultdict(list)
    for entry in meat.entries.values():
        entries[entry.from_test_id].append(entry)
    with working():
        _bags(meat)
        opened, cut = _opened(meat), _cut_at(meat)
        piles = grams_on_piles(meat.tests.values())
        for test in meat.tests.values():
            if test.lot_key and test.pk not in opened:
                _typed_lot(meat, test)
            _test(meat, test, piles.get(test.pk, {}), of[test.pk], entries[test.pk], cut[test.pk])
        _tubs(meat, found)
        _batches(meat, of)
    return meat


Trays = dict[UUID | None, dict[End, Decimal]]


def _of_source(trays: Iterable[TraySum]) -> Trays:
    """What of a test or a batch lies in trays, by where they are. What went into a tub is there; what is
    packed again is no more in the tray it was in."""
    found: Trays = defaultdict(lambda: defaultdict(lambda: ZERO))
    with working():
        for tray in trays:
            own = found[tray.batch or tray.test]
            if tray.life in OF_LIFE:
                own[OF_LIFE[tray.life]] += tray.grams
            if tray.was in OF_LIFE:
                own[OF_LIFE[tray.was]] -= tray.grams
    return found


def _bags(meat: Meat) -> None:
    parts: dict[UUID, Decimal] = defaultdict(lambda: ZERO)
    for bag in meat.bags.values():
        node, weight = (Kind.BAG, str(bag.pk)), grams(bag.weight_value, bag.weight_unit)
        meat.weights[node] = weight
        if bag.part_of_id is not None and bag.part_of_id in meat.bags:
            meat.link((Kind.BAG, str(bag.part_of_id)), node, weight)
            parts[bag.part_of_id] += weight
        elif bag.cut_of_id is not None and bag.cut_at.test_id in meat.tests:
            meat.link((Kind.TEST, str(bag.cut_at.test_id)), node, weight)
        else:
            lot = (Kind.LOT, bag.lot_key)
            meat.weights[lot] += weight
            meat.link(lot, node, weight)
    poured = {entry.bag_id for entry in meat.entries.values()}
    for bag in meat.bags.values():
        node = (Kind.BAG, str(bag.pk))
        rest = meat.weights[node] - parts[bag.pk]
        opened = getattr(bag, "opened_for", None)
        if opened is not None:
            meat.link(node, (Kind.TEST, str(opened.test_id)), rest)
        elif bag.pk not in poured:
            meat.ends(node, ENDS[bag.state], rest)


ENDS = {
    Bag.State.IN: End.COOLER,
    Bag.State.BACK: End.SENT_BACK,
    Bag.State.OUT: End.THROWN,
    Bag.State.OPENED: End.OPENED,
}


def _opened(meat: Meat) -> set[UUID]:
    """Tests that bags were opened for."""
    found = (getattr(bag, "opened_for", None) for bag in meat.bags.values())
    return {one.test_id for one in found if one is not None}


def _cut_at(meat: Meat) -> dict[UUID, list[Bag]]:
    """The bags of whole pieces, by the test that they came off."""
    found: dict[UUID, list[Bag]] = defaultdict(list)
    for bag in meat.bags.values():
        if bag.cut_of_id is not None:
            found[bag.cut_at.test_id].append(bag)
    return found


def _typed_lot(meat: Meat, test: CuttingTest) -> None:
    """Of a test that no bag of the cooler was opened for."""
    lot, weight = (Kind.LOT, test.lot_key), grams(test.weight_value, test.weight_unit)
    meat.weights[lot] += weight
    meat.link(lot, (Kind.TEST, str(test.pk)), weight)


def _test(
    meat: Meat,
    test: CuttingTest,
    piles: Piles,
    trays: dict[End, Decimal],
    entries: list[TubIn],
    cut: list[Bag],
) -> None:
    """Its piles less what of them is in trays, in tubs and in bags of whole pieces; what is on no pile is not accounted for."""
    node = (Kind.TEST, str(test.pk))
    meat.weights[node] = grams(test.weight_value, test.weight_unit)
    left: dict[End, Decimal] = defaultdict(lambda: ZERO)
    for (role, in_case), weight in piles.items():
        left[_end_of(role, in_case=in_case)] += weight
    outside = meat.weights[node] - sum(left.values(), ZERO)
    for end, weight in trays.items():
        left[End.CASE] -= weight
        meat.ends(node, end, weight)
    for entry in entries:
        weight = grams(entry.weight, entry.tub_unit)
        is_pile = entry.pile_role is not None  # else it came back from the case
        own = _end_of(entry.pile_role, in_case=bool(entry.pile_in_case)) if is_pile else End.CASE
        left[own] -= weight
        meat.link(node, (Kind.ENTRY, str(entry.pk)), weight)
    for bag in cut:
        pile = bag.cut_at.output
        left[_end_of(pile.role, in_case=pile.in_case)] -= grams(bag.weight_value, bag.weight_unit)
    for end, weight in left.items():
        meat.ends(node, end, weight)
    meat.ends(node, End.ON_BLOCK if test.is_open else End.UNACCOUNTED, outside)


def _end_of(role: str, *, in_case: bool) -> End:
    if role == Role.DISCARD:
        return End.WASTE
    if role == Role.PURGE:
        return End.PURGE
    return End.CASE if in_case or role in (Role.MAIN, Role.SECONDARY) else End.BY_PRODUCT


def _tubs(meat: Meat, found: Reached) -> None:
    """Each tub as it mixed; what left it and what is in it still."""
    moves: dict[UUID, list[tuple[Any, int, Move]]] = defaultdict(list)
    for entry in meat.entries.values():
        node, weight = (Kind.ENTRY, str(entry.pk)), grams(entry.weight, entry.tub_unit)
        meat.weights[node] = weight
        moves[entry.tub_id].append((entry.at, 0, Move(node, weight)))
        if entry.bag_id is not None:
            meat.link((Kind.BAG, str(entry.bag_id)), node, weight)
        elif entry.from_test_id is None and entry.from_batch_id is None:
            _by_lot(meat, entry, node, weight)
    for out in found.outs.values():
        at = out.batch.begun_at if out.batch is not None else out.at
        weight = grams(out.weight, out.tub.unit)
        moves[out.tub_id].append((at, 1, Move(out.pk, weight, is_out=True)))
    for own in moves.values():
        own.sort(key=lambda one: one[:2])
        mix = mixed([move for _, _, move in own])
        for key, parts in mix.parts.items():
            out = found.outs[key]
            for node, part in parts.items():
                if out.batch is None:
                    meat.ends(node, End.THROWN, part)
                else:
                    meat.link(node, (Kind.BATCH, str(out.batch.pk)), part)
        for node, part in mix.left.items():
            meat.ends(node, End.TUB, part)


def _by_lot(meat: Meat, entry: TubIn, node: Node, weight: Decimal) -> None:
    """Of known lots alone: an equal share of each, for nobody knows more."""
    keys = {lot_key(lot.get("lot", "")) for lot in entry.lots} or {""}
    for key in keys:
        lot, part = (Kind.LOT, key), weight / len(keys)
        meat.weights[lot] += part
        meat.link(lot, node, part)


def _batches(meat: Meat, of: Trays) -> None:
    """What came out of each, in trays or not; what is more or less is not accounted for."""
    packed: dict[UUID, Decimal] = defaultdict(lambda: ZERO)
    bare: dict[UUID, Decimal] = defaultdict(lambda: ZERO)
    rows = Packed.objects.standing().filter(batch__in=meat.batches) if meat.batches else ()
    for row in rows:
        weight = grams(row.weight, meat.batches[row.batch_id].unit)
        packed[row.batch_id] += weight
        bare[row.batch_id] += ZERO if row.is_labelled else weight
    into: dict[tuple[UUID, str], Decimal] = defaultdict(lambda: ZERO)
    for entry in meat.entries.values():
        if entry.from_batch_id is not None and entry.from_batch_id in meat.batches:
            weight = grams(entry.weight, entry.tub_unit)
            into[entry.from_batch_id, entry.source] += weight
            source = (Kind.BATCH, str(entry.from_batch_id))
            meat.link(source, (Kind.ENTRY, str(entry.pk)), weight)
    of_trays = _of_trays(meat)
    for batch in meat.batches.values():
        node, unit = (Kind.BATCH, str(batch.pk)), batch.unit
        whole = meat.weights[node] = grams(batch.went_in, unit)
        for end, weight in of[batch.pk].items():
            meat.ends(node, end, weight)
        if batch.got is None or batch.machine is None:
            meat.ends(node, End.IN_GRINDER, whole)
            continue
        got, stayed = grams(batch.got, unit), grams(batch.machine, unit)
        carried = into[batch.pk, TubIn.Source.CARRY]
        loose = into[batch.pk, TubIn.Source.CASE] + into[batch.pk, TubIn.Source.BACK]
        meat.ends(node, End.CLEANED_OUT, stayed - carried)
        meat.ends(node, End.LOSS, whole - got - stayed)
        meat.ends(node, End.UNPACKED, got - packed[batch.pk])
        meat.ends(node, End.NO_LABEL, bare[batch.pk] - (loose - of_trays[batch.pk]))


def _of_trays(meat: Meat) -> dict[UUID, Decimal]:
    """What of each batch went into tubs out of its labeled trays."""
    found: dict[UUID, Decimal] = defaultdict(lambda: ZERO)
    for tray in meat.trays:
        if tray.batch is None:
            continue
        if tray.life is Life.TO_TUB:
            found[tray.batch] += tray.grams
        if tray.was is Life.TO_TUB:
            found[tray.batch] -= tray.grams
    return found


def tray_meat(meat: Meat, tray: Tray) -> Node:
    """One tray as a thing of its own, of its source; and where it went: two queries."""
    node = (Kind.TRAY, str(tray.pk))
    with working():
        weight = meat.weights[node] = grams(tray.net, tray.unit)
    source: Node = UNKNOWN
    if tray.from_batch_id is not None:
        source = (Kind.BATCH, str(tray.from_batch_id))
    elif tray.from_test_id is not None:
        source = (Kind.TEST, str(tray.from_test_id))
    meat.link(source, node, weight)
    if source == UNKNOWN:
        meat.weights[UNKNOWN] += weight
    _tray_goes(meat, node, tray)
    return node


def _tray_goes(meat: Meat, node: Node, tray: Tray) -> None:
    """Into trays packed of it, and the rest into a tub or where it stays."""
    left = meat.weights[node]
    for one in tray.again.standing():
        own = (Kind.TRAY, str(one.pk))
        with working():
            weight = meat.weights[own] = grams(one.net, one.unit)
            left -= weight
        meat.link(node, own, weight)
        _tray_goes(meat, own, one)
    if tray.state is Life.TO_TUB:
        event = TrayEvent.objects.filter(tray=tray, entry__isnull=False, undone_by=None).last()
        if event is not None and event.entry_id in meat.entries:
            meat.link(node, (Kind.ENTRY, str(event.entry_id)), left)
    elif tray.state in OF_LIFE:
        meat.ends(node, OF_LIFE[tray.state], left)
