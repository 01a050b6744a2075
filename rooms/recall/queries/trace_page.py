"""The way back as its page shows it: ribbons by weight, where the weight is, the trays."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Any
from urllib.parse import urlencode

from django.core.paginator import Page
from django.urls import reverse

from cutting.quantities import ZERO, Unit, working
from cutting.tracing.flow import Kind, Node
from cutting.tracing.lots import lot_key
from drawings.ribbons import Ribbons, Thing, ribbons
from rooms.bench.models import CuttingTest
from rooms.common.web.paging import paged
from rooms.cooler.models import LotHold
from rooms.cooler.queries.held import holds_now
from rooms.grinder.models import TubLot
from rooms.recall.queries.trace import NOT_FOOTING, SMALLEST, Trace, trace
from rooms.recall.queries.weights import IN_TRAYS, OF_LIFE, End, TraySum
from rooms.shop.queries.current import house
from rooms.trays.models import Tray
from rooms.trays.queries.lot_graph import Start, backwards, batch_rows, forwards

TRAYS_A_PAGE = 60
WIDTH = 1240.0
TITLES = ("supplier lots", "bags", "tests", "tubs", "batches", "tray", "where it is")
COLUMNS = {
    Kind.LOT: 0,
    Kind.BAG: 1,
    Kind.TEST: 2,
    Kind.TUB: 3,
    Kind.ENTRY: 3,
    Kind.BATCH: 4,
    Kind.TRAY: 5,
    Kind.END: 6,
}


@dataclass(frozen=True)
class Line:
    """One line of a table of the way. `weight` in the shop's unit."""

    words: str
    under: str
    weight: Decimal
    link: str = ""
    share: Decimal | None = None


@dataclass(frozen=True)
class WayView:
    """`origins`: what it is from; `through`: what it went through; `places`: where its weight is now."""

    head: str
    under: str
    own: str
    """The page of the thing itself."""
    picture: Ribbons
    weight: Decimal
    unit: str
    origins: list[Line]
    through: list[Line]
    places: list[Line]
    unfooted: list[Line]
    """What nothing accounts for, and what is more than there was."""
    trays: Page
    counts: list[tuple[str, int]]
    holds: list[LotHold]
    lots: list[tuple[str, str, str]]
    """Key, as written, supplier."""
    written: list[str]
    """The ways that the lot asked for is written, where there are several."""
    is_known: bool
    """Whether there is anything of it."""

    @property
    def held(self) -> LotHold | None:
        return self.holds[0] if self.holds else None


def way_view(start: Start, page: str | None = None) -> WayView:
    """Ten queries for a lot."""
    found = trace(start)
    unit = house().unit
    names = _names(found)
    keys = found.reached.lots | found.origins.lots
    held = {} if _is_free(found) else holds_now()
    holds = [hold for key, hold in held.items() if key in keys]
    places, unfooted = _places(found, unit)
    through = _lines(found, found.from_it.in_it, names, unit)
    origins = _lines(found, found.into_it.in_it, names, unit)
    head, under, own = _head(found, names)
    return WayView(
        head=head,
        under=under,
        own=own,
        picture=_picture(found, names, unit),
        weight=in_unit(found.weight, unit),
        unit=unit.value,
        origins=origins,
        through=through,
        places=places,
        unfooted=unfooted,
        trays=page_of_trays(found, page),
        counts=counts_of(found.trays),
        holds=holds,
        lots=[(key, written, supplier) for key, (written, supplier) in _lots(found).items()],
        written=_written(found) if start.lot else [],
        is_known=bool(found.reached.bags or found.reached.tests or found.reached.entries),
    )


def _is_free(found: Trace) -> bool:
    """Whether its bags say already that nothing of it is held: then nobody is asked."""
    bags = found.meat.bags.values()
    only = found.start.lot and bags and not found.origins.lots - {found.start.lot}
    return bool(only) and not any(bag.is_held for bag in bags)


def page_of_trays(found: Trace, number: str | None, **only: Any) -> Page:
    """Sixty of its trays, the newest first: one query where their number is known."""
    rows = found.reached.all_trays().select_related("product").defer("lots")
    many = None if only else sum(one.many for one in found.trays)
    return paged(rows.filter(**only), number, TRAYS_A_PAGE, many)


def in_unit(grams: Decimal, unit: Unit) -> Decimal:
    with working():
        return Decimal(grams / unit.grams)


def counts_of(trays: list[TraySum]) -> list[tuple[str, int]]:
    """“for sale”, 12; those into a tub are there."""
    found: dict[str, int] = defaultdict(int)
    for tray in trays:
        found[OF_LIFE.get(tray.life, "in a tub")] += tray.many
    return sorted(found.items(), key=lambda one: -one[1])


Named = dict[Node, tuple[str, str]]
"""What a thing is called, and what stands under that."""


def _names(found: Trace) -> Named:
    meat = found.meat
    names: Named = {}
    for key, (written, supplier) in _lots(found).items():
        names[Kind.LOT, key] = written or "lot not known", supplier
    names.setdefault((Kind.LOT, ""), ("lot not known", ""))
    for pk, bag in meat.bags.items():
        piece = bag.piece.shown_name if bag.piece else bag.gtin
        names[Kind.BAG, str(pk)] = piece, bag.get_state_display()
    for pk, test in meat.tests.items():
        names[Kind.TEST, str(pk)] = f"test {test.number}", test.piece_name
    for entry in meat.entries.values():
        names[Kind.ENTRY, str(entry.pk)] = entry.tub_name, ""
        names[Kind.TUB, str(entry.tub_id)] = entry.tub_name, ""
    for pk, batch in meat.batches.items():
        names[Kind.BATCH, str(pk)] = str(batch), batch.name
    if found.start.tray:
        tray = Tray.objects.select_related("product").get(pk=found.start.tray)
        under = (str(tray.product), tray.told, tray.get_life_display())
        names[found.node] = str(tray), ", ".join(one for one in under if one)
    for end in End:
        names[Kind.END, end] = end.value, ""
    return names


def _lots(found: Trace) -> dict[str, tuple[str, str]]:
    """Key: as it is written, its supplier."""
    lots: dict[str, tuple[str, str]] = {}
    for bag in found.meat.bags.values():
        if bag.lot_key:
            lots.setdefault(bag.lot_key, (bag.lot, bag.delivery.supplier))
    for test in found.meat.tests.values():
        if test.lot_key in found.origins.lots | found.reached.lots:
            lots.setdefault(test.lot_key, (test.lot, test.supplier))
    for entry in found.meat.entries.values():
        for lot in entry.lots:
            key = lot_key(lot.get("lot", ""))
            if key in found.origins.lots | found.reached.lots:
                lots.setdefault(key, (lot["lot"], lot.get("supplier", "")))
    return lots


def _written(found: Trace) -> list[str]:
    ways = {bag.lot for bag in found.meat.bags.values()}
    ways |= {
        lot["lot"]
        for entry in found.meat.entries.values()
        for lot in entry.lots
        if lot_key(lot.get("lot", "")) == found.start.lot
    }
    return sorted(ways) if len(ways) > 1 else []


def address_of(kind: str, name: str) -> str:
    """The page of the way of a thing; empty for what has none."""
    if kind == Kind.LOT:
        return f"{reverse('recall:trace_lot')}?{urlencode({'lot': name})}" if name else ""
    if kind in (Kind.BAG, Kind.TEST, Kind.TUB, Kind.BATCH, Kind.TRAY):
        return reverse("recall:trace", args=[str(kind), name])
    return ""


OWN_PAGES = {
    Kind.BAG: "cooler:bag",
    Kind.TEST: "bench:sheet",
    Kind.TUB: "grinder:tub",
    Kind.BATCH: "grinder:batch",
    Kind.TRAY: "trays:tray",
}


def _head(found: Trace, names: Named) -> tuple[str, str, str]:
    kind, name = found.node
    words, under = names.get(found.node, (name, ""))
    if kind is Kind.LOT:
        return f"Lot {words}", under, ""
    test = found.meat.tests.get(found.start.test) if found.start.test else None
    if test is not None and test.is_open:
        return words.capitalize(), under, reverse("bench:test", args=[name])
    head = f"Bag, {words}" if kind is Kind.BAG else words[:1].upper() + words[1:]
    return head, under, reverse(OWN_PAGES[kind], args=[name])


def _shown_as(found: Trace, node: Node) -> Node:
    """What went into a tub stands there as its tub; what is of nothing known as one lot."""
    kind, name = node
    if kind is not Kind.ENTRY:
        return node
    return Kind.TUB, str(found.meat.entries[int(name)].tub_id)


def _sums(found: Trace, in_it: Mapping[Node, Decimal]) -> dict[Node, Decimal]:
    sums: dict[Node, Decimal] = defaultdict(lambda: ZERO)
    with working():
        for node, weight in in_it.items():
            sums[_shown_as(found, node)] += weight
    return sums


def _lines(found: Trace, in_it: Mapping[Node, Decimal], names: Named, unit: Unit) -> list[Line]:
    """Everything on the way but the thing itself and where meat stays, in the order of the work."""
    sums = _sums(found, in_it)
    rows = [
        (
            COLUMNS[kind],
            Line(
                *names.get((kind, name), (name, "")), in_unit(weight, unit), address_of(kind, name)
            ),
        )
        for (kind, name), weight in sums.items()
        if (kind, name) != found.node and kind is not Kind.END
    ]
    return [line for _, line in sorted(rows, key=lambda row: (row[0], -row[1].weight))]


def _places(found: Trace, unit: Unit) -> tuple[list[Line], list[Line]]:
    """Where it is now, and what does not foot."""
    whole = found.weight
    places: list[Line] = []
    unfooted: list[Line] = []
    for end, weight in found.ends().items():
        with working():
            share = weight / whole if whole else ZERO
        own = unfooted if end in NOT_FOOTING else places
        own.append(Line(end.value, "", in_unit(weight, unit), "", share))
    return places, unfooted


def _picture(found: Trace, names: Named, unit: Unit) -> Ribbons:
    """What it is from on the left of it, where it went on the right. What comes to an earlier column than
    the thing itself is in the tables."""
    own, blocks = COLUMNS[found.node[0]], _blocks(found)
    before, after = _sums(found, found.into_it.in_it), _sums(found, found.from_it.in_it)
    before, after = (
        {node: weight for node, weight in side.items() if _at_block(found, blocks, node) == node}
        for side in (before, after)
    )
    moved = _moved(found, own, blocks)
    lost = found.ends().get(End.UNACCOUNTED)
    if lost is not None:
        after[NOWHERE] = lost
    shown = {node: weight for node, weight in before.items() if COLUMNS[node[0]] < own}
    shown |= {found.node: found.weight}
    shown |= {
        node: max(weight, ZERO)
        for node, weight in after.items()
        if COLUMNS[node[0]] > own and (node[0] is not Kind.END or abs(weight) >= SMALLEST)
    }
    trays = dict(counts_of(found.trays))
    things = [_thing(found, node, weight, names, unit, trays) for node, weight in shown.items()]
    things.sort(key=lambda one: (one.column, one.is_end, -one.weight))
    return ribbons(TITLES, things, moved, WIDTH)


NOWHERE: Node = (Kind.END, End.UNACCOUNTED)


def _thing(
    found: Trace, node: Node, weight: Decimal, names: Named, unit: Unit, trays: dict[str, int]
) -> Thing:
    words = names.get(node, (node[1], ""))[0]
    count = trays.get(words, 0) if node[0] is Kind.END and node[1] in IN_TRAYS else 0
    return Thing(
        node,
        COLUMNS[node[0]],
        weight,
        f"{count} {words}" if count else words,
        f"{in_unit(weight, unit):.2f} {unit.value}",
        address_of(*node) if node != found.node else "",
        count,
        node == found.node,
        node[0] is Kind.END,
        "unaccounted" if node == NOWHERE else "" if node[0] is Kind.END else "lean",
    )


def _blocks(found: Trace) -> dict[Node, Node]:
    """Of what was cut on: the test that a whole piece came off, and of a test the piece it was opened from.
    Drawn they stand as the first test, for meat goes from left to right."""
    into: dict[Node, Node] = {}
    for bag in sorted(found.meat.bags.values(), key=lambda one: one.came_at):
        node, opened = (Kind.BAG, str(bag.pk)), getattr(bag, "opened_for", None)
        if bag.cut_of_id is not None:
            into[node] = (Kind.TEST, str(bag.cut_at.test_id))
        elif (Kind.BAG, str(bag.part_of_id)) in into:
            into[node] = (Kind.BAG, str(bag.part_of_id))
        if node in into and opened is not None:
            into[Kind.TEST, str(opened.test_id)] = node
    return into


def _at_block(found: Trace, blocks: Mapping[Node, Node], node: Node) -> Node:
    """As what a thing is drawn."""
    while node in blocks and node != found.node:
        node = blocks[node]
    return node


def _moved(found: Trace, own: int, blocks: Mapping[Node, Node]) -> dict[tuple[Any, Any], Decimal]:
    """Between what is drawn: what stands in no column of its side counts as the thing itself."""

    def home(node: Node, *, ahead: bool) -> Node:
        shown = _at_block(found, blocks, _shown_as(found, node))
        column = COLUMNS[shown[0]]
        is_hidden = column <= own if ahead else column >= own
        return found.node if is_hidden else shown

    moved: dict[tuple[Any, Any], Decimal] = defaultdict(lambda: ZERO)
    with working():
        for (source, target), weight in found.from_it.moved.items():
            moved[home(source, ahead=True), home(target, ahead=True)] += weight
        for (source, target), weight in found.into_it.moved.items():
            moved[home(target, ahead=False), home(source, ahead=False)] += weight
        for node, rest in found.from_it.rest.items():
            if node[0] is not Kind.END and abs(rest) >= SMALLEST:
                moved[home(node, ahead=True), NOWHERE] += rest
    return {pair: max(weight, ZERO) for pair, weight in moved.items()}


@dataclass(frozen=True)
class OneLine:
    """Where the meat of something comes from and goes to, each in a few words; and its hold."""

    origin: str
    goes: str
    held: LotHold | None


FEW = 3


def one_line(start: Start) -> OneLine:
    """“lot L9427, Skerry Point Packing” and “G-118, 12 trays”: thirteen queries."""
    behind, ahead = backwards(start), forwards(start)
    bags = sorted({(bag.lot, bag.delivery.supplier) for bag in behind.bag_rows.values() if bag.lot})
    named = {lot_key(lot) for lot, _ in bags}
    words = [f"lot {lot}, {supplier}" for lot, supplier in bags]
    if behind.lots - named:
        other = TubLot.objects.filter(lot_key__in=behind.lots - named).values_list("lot_key", "lot")
        tests = CuttingTest.objects.filter(lot_key__in=behind.lots - named)
        written = dict(other) | dict(tests.values_list("lot_key", "lot"))
        words += [f"lot {lot}" for lot in written.values()]
    trays = ahead.all_trays().exclude(pk=start.tray).count()
    made = [str(one) for one in batch_rows(ahead).values() if one.pk != start.batch]
    tubs = {ahead.ins[one].tub_name for one in ahead.entries} if not start.tub else set()
    goes = [*_few(sorted(tubs)), *_few(sorted(made))]
    goes += [f"{trays} trays" if trays > 1 else "1 tray"] if trays else []
    holds = holds_now()
    held = next((holds[key] for key in sorted(behind.lots) if key in holds), None)
    return OneLine("; ".join(_few(words)), ", ".join(goes), held)


def _few(words: list[str]) -> list[str]:
    more = len(words) - FEW
    return [*words[:FEW], f"{more} more"] if more > 0 else words
