"""A tray and its label: net weight and price, and every line that the label tells.

Rules of the words: 9 CFR 317.2 (name, ingredients, safe handling (l), mechanically tenderized (e)(3), place (g)), values
from memory; local codes come first. Net weight: gross less a measured tare, no moisture allowance (HB 133).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import ROUND_CEILING, Decimal

from cutting.errors import BadValue
from cutting.labels.codes import (
    Code,
    StoreCode,
    Traced,
    digital_link,
    element_string,
    on_division,
    store_code,
)
from cutting.quantities import ZERO, Unit, UnitPrice, Weight, round_half_up, tray_sticker, working

STORAGE = "Keep refrigerated at 40 °F (4 °C) or below."
SAFE_HANDLING = (
    "Safe handling instructions",
    "This product was prepared from inspected and passed meat and/or poultry. Some food products may contain"
    " bacteria that could cause illness if the product is mishandled or cooked improperly. For your protection,"
    " follow these safe handling instructions.",
    "Keep refrigerated or frozen. Thaw in refrigerator or microwave.",
    "Keep raw meat and poultry separate from other foods. Wash working surfaces (including cutting boards), utensils,"
    " and hands after touching raw meat or poultry.",
    "Cook thoroughly.",
    "Keep hot foods hot. Refrigerate leftovers immediately or discard.",
)
"""9 CFR 317.2(l). Value from memory."""
TENDERIZED = "Mechanically tenderized"
TENDERIZED_COOKING = "Cook until it has 145 °F (63 °C) in the middle by a food thermometer; let it rest for three minutes."
"""9 CFR 317.2(e)(3) asks for validated cooking instructions beside the words. Value from memory."""
FROZEN = "Previously frozen"


@dataclass(frozen=True, slots=True)
class Product:
    """`item`: five digits of the store's own."""

    name: str
    species: str
    price: UnitPrice
    muscle: str = ""
    gtin: str = ""
    item: str = ""


@dataclass(frozen=True, slots=True)
class TrayLabel:
    """Everything that a label is made of. `link`: the shop's public address, for the QR."""

    product: Product
    gross: Weight
    tare: Weight
    division: Weight
    packed_on: date
    sell_by: date
    shop_name: str = ""
    shop_place: str = ""
    lot: str = ""
    serial: str = ""
    country: str = ""
    origin_claim: str = ""
    tenderized: bool = False
    ingredients: tuple[str, ...] = ()
    frozen_before: bool = False
    code: StoreCode | None = None
    link: str = ""

    @property
    def net(self) -> Weight:
        return net_weight(self.gross, self.tare, self.division)

    @property
    def total(self) -> Decimal:
        return total_price(self.product.price, self.net)


def net_weight(gross: Weight, tare: Weight, division: Weight) -> Weight:
    """Gross less tare, in the gross's unit. A tare in another unit is rounded up to the division first.

    Raises BadValue for a weight that does not lie on the division, and where nothing is left.
    """
    if not on_division(gross, division):
        raise BadValue("gross", str(gross), f"a multiple of {division} is right")
    with working():
        if tare.unit is gross.unit:
            if not on_division(tare, division):
                raise BadValue("tare", str(tare), f"a multiple of {division} is right")
            own = tare.value
        else:
            steps = (tare.to(division.unit) / division.value).to_integral_value(ROUND_CEILING)
            own = Weight(steps * division.value, division.unit).to(gross.unit)
        net = gross.value - own
    if net <= ZERO:
        raise BadValue("gross", f"{gross} less a tare of {tare}", "more than the tare is right")
    return Weight(net, gross.unit)


def total_price(price: UnitPrice, net: Weight) -> Decimal:
    """Unit price × net in the price's unit, half up to the cent. Raises BadValue for nothing."""
    total = tray_sticker(price.amount, net.to(price.per))
    if total <= ZERO:
        raise BadValue("price", f"{net} cost {total:f}", "a total over 0 is right")
    return total


def per_other_unit(price: UnitPrice) -> UnitPrice:
    """The same price a kg where it is a lb, and a lb where it is a kg, to the cent."""
    other = Unit.KG if price.per in (Unit.LB, Unit.OZ) else Unit.LB
    return UnitPrice(round_half_up(price.to(other)), other)


@dataclass(frozen=True, slots=True)
class Lines:
    """What a label tells, by its weight for the eye; empty where there is nothing."""

    name: str
    under: tuple[str, ...]
    """The muscle, the animal."""
    flags: tuple[str, ...]
    net: str
    price: str
    other_price: str
    total: str
    packed: str
    sell_by: str
    lot: str
    facts: tuple[str, ...]
    """Ingredients, claims, what the shop adds: lean, nutrition, cooking."""
    storage: str
    handling: tuple[str, ...]
    place: str


def lines_of(
    label: TrayLabel, facts: Sequence[str] = (), day: Callable[[date], str] = date.isoformat
) -> Lines:
    """`facts`: further lines of the shop; `day`: how it writes one."""
    product, price = label.product, label.product.price
    other = per_other_unit(price)
    ingredients = f"Ingredients: {', '.join(label.ingredients)}" if label.ingredients else ""
    return Lines(
        product.name,
        tuple(part for part in (product.muscle, product.species) if part),
        (
            *((TENDERIZED, TENDERIZED_COOKING) if label.tenderized else ()),
            *((FROZEN,) if label.frozen_before else ()),
        ),
        str(label.net),
        f"{price.amount:f} / {price.per.value}",
        f"{other.amount:f} / {other.per.value}",
        f"{label.total:f}",
        day(label.packed_on),
        day(label.sell_by),
        label.lot,
        tuple(line for line in (ingredients, label.origin_claim, *facts) if line),
        STORAGE,
        SAFE_HANDLING,
        ", ".join(part for part in (label.shop_name, label.shop_place) if part),
    )


def label_text(label: TrayLabel) -> list[str]:
    """Every line, the most important first."""
    found = lines_of(label)
    lines = [
        found.name,
        *found.under,
        *found.flags,
        f"Net {found.net}",
        f"{found.price} ({found.other_price})",
        f"Total {found.total}",
        f"Packed {found.packed}",
        f"Sell by {found.sell_by}",
        f"Lot {found.lot}" if found.lot else "",
        *found.facts,
        found.storage,
        *found.handling,
        found.place,
    ]
    return [line for line in lines if line]


def traced(label: TrayLabel) -> Traced:
    """What its codes tell; only with a GTIN."""
    return Traced(
        label.product.gtin,
        label.net,
        label.division,
        label.packed_on,
        label.sell_by,
        label.country,
        label.lot,
        label.serial,
    )


def label_codes(label: TrayLabel) -> list[Code]:
    """The store's own number, the element string, the link: those that the label can have."""
    found = []
    if label.code is not None:
        found.append(store_code(label.code, label.product.item, label.total, label.net))
    if label.product.gtin:
        tray = traced(label)
        found.append(Code("gs1", element_string(tray)))
        if label.link:
            found.append(Code("qr", digital_link(label.link, tray)))
    return found
