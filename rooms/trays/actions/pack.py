"""A tray is packed: weighed, priced, labelled, in the printer's queue, or refused with nothing kept."""

import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID, uuid5

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from cutting.errors import BadDocument, BadValue
from cutting.labels.tray_label import net_weight, total_price
from cutting.labels.tray_life import Life, sell_by
from cutting.quantities import Unit, Weight
from rooms.bench.actions.reading import Proof, proven
from rooms.bench.queries.scale_checks import of_day
from rooms.bench.rules.scales import ScaleAt, scales
from rooms.common.errors import BadInput, Refused
from rooms.cooler.rules.held import refuse_held
from rooms.grinder.actions import batch as grinder
from rooms.grinder.models import Packed
from rooms.pricebook.models import Price, Product, TraySize
from rooms.pricebook.queries.book import coming, prices_on
from rooms.trays.actions.printing import queue_tray
from rooms.trays.models import ProductLabel, Tray, TrayTare
from rooms.trays.rules.held import refuse_held_tray
from rooms.trays.rules.labelling import (
    Weighed,
    keeps_days,
    label_document,
    label_rules,
    readable,
)
from rooms.trays.rules.source import Source, source_of

SERIAL_DIGITS = 12
MOST_PIECES = 500


@dataclass(frozen=True)
class Packing:
    """What lies on the scale. `proof`: the signed reading; without one `typed` is the gross weight."""

    key: UUID
    product_id: int
    size_id: int
    source: str = ""
    typed: Weight | None = None
    proof: Proof | None = None
    pieces: int | None = None


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
    its check, no tare, no price, another animal, meat past its day, a lot that is held, more than there is.
    """
    today = timezone.localdate()
    with transaction.atomic():
        already = Tray.objects.filter(pk=packing.key).first()
        if already is not None:
            return already
        on_scale = _on_scale(packing)
        _scale_holds(on_scale.scale, today)
        product, price = _priced(packing.product_id, today)
        size, tare = _tare(packing.size_id)
        source = source_of(packing.source, lock=True)
        refuse_held(lot.get("lot", "") for lot in source.lots)
        if source.tray is not None:
            refuse_held_tray(source.tray)
        if source.species and source.species != product.cut.species:
            raise Refused(f"From: it is {source.species}; {product} is {product.cut.species}.")
        _pieces_right(packing.pieces)
        try:
            net = net_weight(on_scale.gross, tare, on_scale.division)
            total = total_price(price.unit_price, net)
        except BadValue as bad:
            raise BadInput(f"{bad.field.capitalize()}: {bad.wrong}; {bad.right}.") from bad
        _is_there(source, net)
        own, rules = ProductLabel.objects.filter(product=product).first(), label_rules()
        last = _last_day(today, keeps_days(product, own, rules), source.ends)
        serial = _serial()
        weighed = Weighed(on_scale.gross, tare, on_scale.division)
        document = label_document(
            product, own, price.unit_price, weighed, (today, last), source, serial, rules
        )
        _can_be_read(document)
        return _kept(
            packing,
            by_id,
            product=product,
            serial=serial,
            size=size,
            set_cost=size.cost,
            gross=on_scale.gross.value,
            tare=on_scale.gross.value - net.value,
            net=net.value,
            unit=net.unit.value,
            division=on_scale.division.to(net.unit),
            is_typed=on_scale.is_typed,
            scale=on_scale.scale.name,
            amount=price.unit_price.amount,
            per=price.unit_price.per.value,
            total=total,
            packed_on=today,
            sell_by=last,
            document=document,
            output=source.output,
            batch=source.batch,
            again_of=source.tray,
            from_test=source.from_test,
            from_batch=source.from_batch,
            lots=source.lots,
            packed=_in_log(packing, source, net, by_id),
        )


def _kept(packing: Packing, by_id: int | None, **columns: Any) -> Tray:
    number = (Tray.objects.aggregate(last=Max("number"))["last"] or 0) + 1
    tray = Tray.objects.create(
        pk=packing.key,
        number=number,
        pieces=packing.pieces,
        packed_at=timezone.now(),
        by_id=by_id,
        life=Life.PACKED,
        **columns,
    )
    queue_tray(tray, by_id)
    return tray


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
    rows = Product.objects.select_related("cut__muscle")
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
            f"Weight: {net} net, {source.left.value:.2f} {source.left.unit} are left of it. Weigh again,"
            " or pack it from where it came."
        )


def _last_day(today: date, days: int, ends: Sequence[date]) -> date:
    try:
        return sell_by(today, days, ends)
    except BadValue as bad:
        raise Refused(f"Sell by: {bad.wrong}; {bad.right}.") from bad


def _can_be_read(document: dict[str, Any]) -> None:
    try:
        readable(document)
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
