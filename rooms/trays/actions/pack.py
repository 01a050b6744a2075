"""A tray is packed: weighed, priced, labeled, in the printer's queue, or refused with nothing kept."""

import secrets
from dataclasses import dataclass
from datetime import date
from decimal import Decimal, InvalidOperation
from typing import Any
from uuid import UUID, uuid5

from django.utils import timezone

from cutting.errors import BadDocument, BadValue
from cutting.labels.tray_label import TrayLabel, net_weight, price_of_pack, total_price
from cutting.labels.tray_life import Life, sell_by
from cutting.quantities import Unit, Weight
from rooms.bench.queries.reading import Proof, proven
from rooms.bench.queries.scale_checks import of_day
from rooms.bench.queries.scales import ScaleAt, scales
from rooms.common.db.numbers import next_numbers
from rooms.common.db.writing import Recorded, Sent, write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.queries.held import refuse_held
from rooms.grinder.actions import batch as grinder
from rooms.grinder.models import Packed
from rooms.pricebook.models import Price, Product, TraySize
from rooms.pricebook.queries.book import coming, prices_on
from rooms.trays.actions.printing import queue_tray
from rooms.trays.models import ProductLabel, Tray, TrayTare
from rooms.trays.queries.held import refuse_held_tray
from rooms.trays.queries.labelling import (
    Packable,
    Weighed,
    code_of,
    duties_beside,
    keeps_days,
    label_document,
    label_rules,
    readable,
)
from rooms.trays.queries.sources import Source, source_of

SERIAL_DIGITS = 12
MOST_PIECES = 500


@dataclass(frozen=True)
class Packing:
    """What lies on the scale. `proof`: the signed reading; without one `typed` is the gross weight.

    `total`: what the pack is sold for whatever it weighs. `no_lot_reason`: why it has no lot on record; a
    tray without a source needs one."""

    key: UUID
    product_id: int
    size_id: int
    source: str = ""
    typed: Weight | None = None
    proof: Proof | None = None
    pieces: int | None = None
    total: Decimal | None = None
    no_lot_reason: str = ""

    @property
    def sent(self) -> Sent:
        """What is meant. A signed reading is the load it was taken of: one that lies there twice is one."""
        weight = self.typed
        if self.proof is not None:
            unit = self.proof.unit
            weight = (
                Weight(Decimal(self.proof.weight), Unit(unit)) if _is_read(self.proof) else None
            )
        values = {
            "product": self.product_id,
            "size": self.size_id,
            "source": self.source,
            "weight": weight,
            "pieces": self.pieces,
            "total": self.total,
        }
        return Sent(self.key, "pack", f"a tray of {weight} gross", values)


def _is_read(proof: Proof) -> bool:
    """Whether a page's reading has a weight at all; whether it was signed is asked later."""
    try:
        return Decimal(proof.weight).is_finite() and proof.unit in Unit.__members__.values()
    except InvalidOperation:
        return False


@dataclass(frozen=True)
class _OnScale:
    scale: ScaleAt
    gross: Weight
    is_typed: bool

    @property
    def division(self) -> Weight:
        return Weight.of(self.scale.division, self.scale.unit)


def pack_tray(packing: Packing, by_id: int | None) -> Tray:
    """The same key again gives the tray it already made, and no second label.

    Raises BadInput for a weight, a product or a source that is not right; Refused for a scale that failed
    its check, no tare, no price, meat that is no such product, meat past its day, a lot that is held, a claim
    that the tester refuted, an origin that nobody knows, more than there is.
    """
    with write(key=packing.sent, recorded=lambda: _recorded(packing.key)) as door:
        if door.first is not None:
            return door.first
        today = timezone.localdate()
        on_scale = _on_scale(packing)
        _scale_holds(on_scale.scale, today)
        tray, size = _packable(packing, on_scale, today)
        document = _document(tray)
        beside = duties_beside(document, tray.rules.stock)
        label, source = _can_be_read(document), tray.source
        row = Tray.objects.create(
            pk=packing.key,
            number=next_numbers(Tray)[0],
            product=tray.product,
            serial=tray.serial,
            size=size,
            set_cost=size.cost,
            gross=on_scale.gross.value,
            tare=on_scale.gross.value - label.net.value,
            net=label.net.value,
            unit=label.net.unit.value,
            division=on_scale.division.to(label.net.unit),
            is_typed=on_scale.is_typed,
            scale=on_scale.scale.name,
            pieces=packing.pieces,
            amount=tray.price.amount,
            per=tray.price.per.value,
            total=label.total,
            code=code_of(label),
            packed_at=timezone.now(),
            packed_on=today,
            sell_by=tray.days[1],
            by_id=by_id,
            life=Life.PACKED,
            document=document,
            output=source.output,
            batch=source.batch,
            again_of=source.tray,
            from_test=source.from_test,
            from_batch=source.from_batch,
            lots=source.lots,
            no_lot_reason="" if source.is_known else " ".join(packing.no_lot_reason.split()),
            packed=_in_log(packing, source, label.net, by_id),
        )
        queue_tray(row, by_id, beside=beside)
    return row


def _recorded(key: UUID) -> Recorded | None:
    """A tray as it was first packed; of its reading the gross weight was kept."""
    tray = Tray.objects.filter(pk=key).first()
    return tray and Recorded(tray)


def _packable(packing: Packing, on_scale: _OnScale, today: date) -> tuple[Packable, TraySize]:
    """Everything that its label is made of, checked; the order of the checks is the order in which they are
    told: product, tray, meat, weight, price, day."""
    product, price = _priced(packing.product_id, today)
    size, tare = _tare(packing.size_id)
    source = _source(packing, product)
    _pieces_right(packing.pieces)
    try:
        net = net_weight(on_scale.gross, tare, on_scale.division)
        unit_price = price.unit_price
        if packing.total is not None:
            unit_price = price_of_pack(packing.total, net, unit_price.per)
        else:
            total_price(unit_price, net)
    except BadValue as bad:
        raise BadInput(f"{bad.field.capitalize()}: {bad.wrong}; {bad.right}.") from bad
    _is_there(source, net)
    own, rules = ProductLabel.objects.filter(product=product).first(), label_rules()
    if not rules.place:
        raise Refused(
            "Labels: the shop's place is empty; a label tells name and place (9 CFR 317.2(g)). Enter it"
            " under Labels."
        )
    last = _last_day(today, keeps_days(product, own, rules), source)
    weighed = Weighed(on_scale.gross, tare, on_scale.division)
    found = Packable(
        product, own, unit_price, weighed, (today, last), source, _serial(), rules, packing.total
    )
    return found, size


def _source(packing: Packing, product: Product) -> Source:
    """What it is packed from, locked. Raises Refused for meat that is held, is no such product or whose
    claim was refuted; BadInput for no lot without a reason."""
    source = source_of(packing.source, lock=True)
    refuse_held(lot.get("lot", "") for lot in source.lots)
    if source.tray is not None:
        refuse_held_tray(source.tray)
    why = source.why_not(product)
    if why:
        raise Refused(f"From: {why}.")
    if source.false_claim:
        raise Refused(f"From: {source.false_claim}.")
    reason = " ".join(packing.no_lot_reason.split())
    if not source.is_known and not SHORTEST_REASON <= len(reason) <= LONGEST_REASON:
        raise BadInput(
            f"No lot: write in {SHORTEST_REASON} to {LONGEST_REASON} letters why it has none; a recall"
            " cannot find this tray."
        )
    return source


def _document(tray: Packable) -> dict[str, Any]:
    try:
        return label_document(tray)
    except BadValue as bad:
        raise Refused(f"{bad.field.capitalize()}: {bad.wrong}; {bad.right}.") from bad


SHORTEST_REASON, LONGEST_REASON = 3, 200


def _on_scale(packing: Packing) -> _OnScale:
    if packing.proof is not None:
        found = proven(packing.proof)
        return _OnScale(found.scale, Weight(found.gross, Unit(found.unit)), is_typed=False)
    if packing.typed is None:
        raise BadInput("Weight: it is empty; what the scale shows is right.")
    return _OnScale(scales()[0], packing.typed, is_typed=True)


def _scale_holds(scale: ScaleAt, today: date) -> None:
    """A failed check blocks labels until one holds: NIST Handbook 44, 2.20."""
    for one in of_day(today):
        if one.scale.name == scale.name and one.last is not None and not one.last.holds:
            raise Refused(f"{one.words} No labels until a check holds.")


def _priced(product_id: int, today: date) -> tuple[Product, Price]:
    rows = Product.objects.select_related("cut__muscle").prefetch_related("adders")
    product = rows.filter(pk=product_id, is_sold=True).first()
    if product is None:
        raise BadInput("Product: choose one of those shown.")
    price = prices_on(today, [product_id]).get(product_id)
    if price is None:
        later = coming([product_id]).get(product_id)
        when = (
            f"its price is to come on {later.effective_on:%Y-%m-%d}" if later else "it has no price"
        )
        raise Refused(f"{product}: {when}; set one that holds today.")
    return product, price


def _tare(size_id: int) -> tuple[TraySize, Weight]:
    size = TraySize.objects.filter(pk=size_id, is_dropped=False).first()
    if size is None:
        raise BadInput("Tray: choose one of those shown.")
    tare = TrayTare.objects.filter(size=size).last()
    if tare is None:
        raise Refused(f"Tray {size}: its tare was never measured; put an empty one on the scale.")
    return size, tare.weight


def _pieces_right(pieces: int | None) -> None:
    if pieces is not None and not 1 <= pieces <= MOST_PIECES:
        raise BadInput(f"Pieces: {pieces}; 1 to {MOST_PIECES} is right.")


def _is_there(source: Source, net: Weight) -> None:
    """Trays never weigh more than what they are of. What a batch gave is held by its own log."""
    if source.left is None or source.batch is not None:
        return
    if net.to(source.left.unit) > source.left.value:
        raise Refused(
            f"Weight: {net} net, but only {source.left.value:.2f} {source.left.unit} is left. Weigh again,"
            " or pack it from where it came."
        )


def _last_day(today: date, days: int, source: Source) -> date:
    try:
        return sell_by(today, days, source.meat.ends, source.meat.since)
    except BadValue as bad:
        raise Refused(f"Sell by: {bad.wrong}; {bad.right}.") from bad


def _can_be_read(document: dict[str, Any]) -> TrayLabel:
    try:
        return readable(document)
    except BadDocument as bad:
        raise BadInput(f"Label: {bad.faults[0]}") from bad


def _serial() -> str:
    """Digits that nobody guesses."""
    return f"{secrets.randbelow(10**SERIAL_DIGITS):0{SERIAL_DIGITS}d}"


def _in_log(packing: Packing, source: Source, net: Weight, by_id: int | None) -> Packed | None:
    """The tray in the log of its batch, which holds that no more is packed than came out."""
    if source.batch is None:
        return None
    weight = net.to(Unit(source.batch.unit))
    own = grinder.Packing(1, weight, is_labelled=True)
    return grinder.pack(uuid5(packing.key, "packed"), source.batch.pk, own, by_id)


@write()
def measure_tare(size_id: int, weight: Weight, by_id: int | None) -> TrayTare:
    """What an empty tray set weighs. Raises BadInput for nothing, or more than a kilogram."""
    size = TraySize.objects.filter(pk=size_id, is_dropped=False).first()
    if size is None:
        raise BadInput("Tray: choose one of those shown.")
    if not 0 < weight.to(Unit.G) <= HEAVIEST_TARE:
        raise BadInput(f"Tare: {weight}; more than 0, at most {HEAVIEST_TARE} g is right.")
    return TrayTare.objects.create(
        size=size, value=weight.value, unit=weight.unit.value, at=timezone.now(), by_id=by_id
    )


HEAVIEST_TARE = 1000
