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

NET = "Net wt."
"""9 CFR 317.2(h). Value from memory."""
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
    allergens: tuple[str, ...] = ()
    origin: str = ""
    """The line of 7 CFR 65, as `labels.origin` words it."""
    nutrition: str = ""
    fixed_total: Decimal | None = None
    """The pack is sold for so much, whatever it weighs; the product's price is what follows from it."""
    currency: str = ""

    @property
    def net(self) -> Weight:
        return net_weight(self.gross, self.tare, self.division)

    @property
    def total(self) -> Decimal:
        if self.fixed_total is not None:
            return self.fixed_total
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


def price_of_pack(total: Decimal, net: Weight, per: Unit) -> UnitPrice:
    """Return the price of a unit that follows from a pack's fixed total, half up to the cent.

    A random-weight pack tells net weight, unit price and total, also where the total is fixed: NIST HB 130,
    uniform packaging and labeling (value from memory). Raises BadValue for nothing.
    """
    if total <= ZERO:
        raise BadValue("total", f"{total:f}", "a total over 0 is right")
    with working():
        amount = round_half_up(total / net.to(per))
    if amount <= ZERO:
        raise BadValue("total", f"{total:f} for {net}", "more than half a cent a unit is right")
    return UnitPrice(amount, per)


MONEY_SIGNS = {"USD": "$", "CAD": "$", "AUD": "$", "NZD": "$", "GBP": "£", "EUR": "€"}


def with_sign(amount: Decimal, currency: str) -> str:
    """Return an amount as a label tells it: "$11.15", "CHF 11.15"."""
    if not currency:
        return f"{amount:f}"
    return f"{MONEY_SIGNS.get(currency, f'{currency} ')}{amount:f}"


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
    duties: tuple[tuple[str, str], ...]
    """What a rule asks for, each with its name: ingredients, allergens, country, nutrition, storage."""
    facts: tuple[str, ...]
    """What the shop adds: claims of the delivery, cooking, servings."""
    handling: tuple[str, ...]
    place: str


def lines_of(
    label: TrayLabel, facts: Sequence[str] = (), day: Callable[[date], str] = date.isoformat
) -> Lines:
    """`facts`: further lines of the shop; `day`: how it writes one."""
    product, price = label.product, label.product.price
    other = per_other_unit(price)
    ingredients = f"Ingredients: {', '.join(label.ingredients)}" if label.ingredients else ""
    allergens = f"Contains {', '.join(label.allergens)}." if label.allergens else ""
    duties = (
        ("ingredients", ingredients),
        ("allergens", allergens),
        ("country of origin", label.origin),
        ("nutrition", label.nutrition),
        ("storage", STORAGE),
    )
    return Lines(
        product.name,
        tuple(part for part in (product.muscle, product.species) if part),
        (
            *((TENDERIZED, TENDERIZED_COOKING) if label.tenderized else ()),
            *((FROZEN,) if label.frozen_before else ()),
        ),
        str(label.net),
        f"{with_sign(price.amount, label.currency)}/{price.per.value}",
        f"{with_sign(other.amount, label.currency)}/{other.per.value}",
        with_sign(label.total, label.currency),
        day(label.packed_on),
        day(label.sell_by),
        label.lot,
        tuple((name, line) for name, line in duties if line),
        tuple(line for line in (label.origin_claim, *facts) if line),
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
        f"{NET} {found.net}",
        f"{found.price} ({found.other_price})",
        f"Total {found.total}",
        f"Packed {found.packed}",
        f"Sell by {found.sell_by}",
        f"Lot {found.lot}" if found.lot else "",
        *(line for _, line in found.duties),
        *found.handling,
        *found.facts,
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
