"""The document of a tray's label, as docs/formats/label.md has it, with the shop's own lines."""

from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from typing import Any

from cutting.errors import BadValue
from cutting.labels.codes import case_elements
from cutting.labels.origin import origin_line
from cutting.labels.tray_label import (
    Lines,
    TrayLabel,
    label_codes,
    lines_of,
    per_other_unit,
    with_sign,
)
from cutting.meat import Meat, prepared
from cutting.quantities import ONE, Unit, UnitPrice, Weight, working
from drawings.label import LabelPicture, Stock, duties_left, label_picture, second_picture
from drawings.tag import CaseLines, TagLines, card_picture, case_picture, tag_picture
from formats.label import read_label
from rooms.catalog.models import Muscle
from rooms.common.errors import Refused
from rooms.common.paper.barcodes import case_code, left_to_qr, symbols_of, why_none
from rooms.cooler.queries.meat import country_in_words
from rooms.grinder.models import GrinderRules, NutritionFacts
from rooms.grinder.queries.house import house_rules
from rooms.grinder.queries.log import facts_in_words
from rooms.pricebook.models import Price, Product
from rooms.shop.queries.current import house
from rooms.shop.queries.dates import said_day
from rooms.trays.models import LabelRules, PrintJob, ProductLabel, Tray
from rooms.trays.queries.sources import Source

COOK_THROUGH = "Cook it through: 160 °F (71 °C) in the middle."
COOK_WHOLE = "Safe from 145 °F (63 °C) in the middle; rest three minutes."
"""USDA FSIS safe minimum temperatures."""


def label_rules() -> LabelRules:
    """What ships where the shop has said nothing: one query."""
    return LabelRules.objects.first() or LabelRules()


def keeps_days(product: Product, own: ProductLabel | None, rules: LabelRules) -> int:
    """Days after packing that a tray of it is sold."""
    if own is not None and own.keeps_days is not None:
        return own.keeps_days
    return rules.keeps_ground_days if product.cut.is_ground else rules.keeps_days


@dataclass(frozen=True)
class Weighed:
    """What the scale showed, and the tare that comes off."""

    gross: Weight
    tare: Weight
    division: Weight


@dataclass(frozen=True)
class Packable:
    """Everything that the label of one tray is made of. `fixed_total`: what it is sold for whatever it
    weighs; `days`: packed on and sell by."""

    product: Product
    own: ProductLabel | None
    price: UnitPrice
    weighed: Weighed
    days: tuple[date, date]
    source: Source
    serial: str
    rules: LabelRules
    fixed_total: Decimal | None = None


def label_document(tray: Packable) -> dict[str, Any]:
    """The document of a tray's label. Raises BadValue where the origin of covered meat is not known, and
    where a step seasons it and names no ingredients."""
    product, own = tray.product, tray.own
    meat = prepared(tray.source.meat, product.preparations)
    name = f"{product.name}, {meat.lean}" if meat.lean else product.name
    row: dict[str, Any] = {
        "name": name,
        "species": product.cut.species,
        "price": _price(tray.price),
    }
    muscle = product.cut.muscle
    if muscle is not None and muscle.kind != Muscle.Kind.MATERIAL:
        row["muscle"] = muscle.name
    if own is not None:
        row |= {key: getattr(own, key) for key in ("item", "gtin") if getattr(own, key)}
    facts = tray.source.facts
    document: dict[str, Any] = {
        "format": "mindful-tally.label",
        "version": 1,
        "currency": house().currency,
        "product": row,
        "gross": _weight(tray.weighed.gross),
        "tare": _weight(tray.weighed.tare),
        "division": _weight(tray.weighed.division),
        "packed_on": tray.days[0].isoformat(),
        "sell_by": tray.days[1].isoformat(),
        "serial": tray.serial,
        # 9 CFR 317.2(e)(3): the statement follows the meat, whatever it is called by now.
        "tenderized": product.cut.is_tenderized or meat.is_tenderized,
        "cubed": product.cut.is_cubed or meat.is_cubed,
        "frozen_before": meat.was_frozen,
        "kept_facts": facts,
        "facts": [*facts, *_facts(product, own, tray.weighed, meat)],
    }
    document |= {
        key: value
        for key, value in (
            ("lot", tray.source.lot),
            ("country", _one_country(meat)),
            ("origin", origin_of_label(product, meat, tray.rules)),
            ("origins", [[o.born, o.raised, o.slaughtered, o.country] for o in meat.origins]),
            ("origin_claim", tray.source.claim),
            ("ingredients", list(meat.ingredients)),
            ("allergens", list(meat.allergens)),
            ("lean", meat.lean),
            ("nutrition", tray.source.nutrition or _nutrition(product)),
            ("link", tray.rules.link),
        )
        if value
    }
    if tray.fixed_total is not None:
        document["fixed_total"] = f"{tray.fixed_total:f}"
    if tray.rules.place:
        document["shop"] = {"name": house().name, "place": tray.rules.place}
    if tray.rules.store_code and own is not None and own.item:
        document["store_code"] = tray.rules.store_code
    return document


def origin_of_label(product: Product, meat: Meat, rules: LabelRules) -> str:
    """Return the line of 7 CFR 65. Where the shop says that the rule does not apply to it (65.240), what is
    not known is left out instead of refused."""
    try:
        return origin_line(
            product.cut.species,
            meat.origins,
            is_ground=product.cut.is_ground,
            named=country_in_words,
        )
    except BadValue:
        if rules.tells_origin:
            raise
        return ""


def _one_country(meat: Meat) -> str:
    """What application identifier 422 tells: one country, by its two letters."""
    countries = {country for one in meat.origins for country in one.countries}
    return countries.pop() if len(countries) == 1 else ""


def _facts(product: Product, own: ProductLabel | None, weighed: Weighed, meat: Meat) -> list[str]:
    """How it is cooked (what is tenderized says so by its statement), and how many it serves."""
    is_through = product.cut.is_ground or product.cut.is_cubed or meat.is_cubed
    cooks = COOK_THROUGH if is_through else COOK_WHOLE
    found = [] if meat.is_tenderized or product.cut.is_tenderized else [cooks]
    if own is not None and own.serving:
        with working():
            net = weighed.gross.to(Unit.G) - weighed.tare.to(Unit.G)
            many = max((net / own.serving).to_integral_value(), ONE)
        found.append(f"Serves {many:f}, {own.serving:f} g each.")
    return found


def _nutrition(product: Product) -> str:
    """Facts of a cut, where the shop puts them on labels and has entered one set; those of ground meat come
    with its batch. Two queries."""
    if product.cut.is_ground or house_rules().nutrition != GrinderRules.Nutrition.FACTS:
        return ""
    facts = list(NutritionFacts.objects.filter(product=product)[:2])
    return facts_in_words(facts[0]) if len(facts) == 1 else ""


def _price(price: UnitPrice) -> dict[str, str]:
    return {"amount": f"{price.amount:f}", "per": price.per.value}


def _weight(weight: Weight) -> dict[str, str]:
    return {"value": f"{weight.value:f}", "unit": weight.unit.value}


def readable(document: dict[str, Any]) -> TrayLabel:
    """The label, without what only a label with a name of the store's own may lack."""
    row = document["product"]
    if "item" in row or "gtin" in row:
        return read_label(document)
    return read_label(document | {"product": row | {"item": NO_ITEM}})


def code_of(label: TrayLabel) -> str:
    """Return the store's own number on a label, as a register reads it; empty for none."""
    codes = (one.content for one in label_codes(label) if one.kind in ("ean13", "upc12"))
    return next(codes, "")


NO_ITEM = "00000"
"""Stands in where the shop has given a product no number: then there is no code."""


BESIDE = "beside"
"""In a document of the queue: the duties that did not fit on the label and stand on a second one."""


def picture_of(document: dict[str, Any], stock: str, copy: int = 0) -> LabelPicture:
    """The label as it is printed, or the one beside it; a reprint says so."""
    lines, label, own = _lines_of(document, stock, copy)
    if BESIDE in document:
        return second_picture(lines, own, document[BESIDE])
    return label_picture(lines, symbols_of(label, own), own)


def duties_beside(document: dict[str, Any], stock: str) -> list[str]:
    """Return what a rule asks for and does not fit on the label: it stands on a second one.

    Raises Refused where it does not fit there either.
    """
    lines, label, own = _lines_of(document, stock, 0)
    left = duties_left(lines, label_picture(lines, symbols_of(label, own), own))
    if left and second_picture(lines, own, left).left_out:
        raise Refused(
            f"Labels: the {stock} stock has no room for {', '.join(left)}; choose a larger one under"
            " Labels."
        )
    return left


def _lines_of(document: dict[str, Any], stock: str, copy: int) -> tuple[Lines, TrayLabel, Stock]:
    label = readable(document)
    own, lines = Stock(stock), lines_of(label, document.get("facts", []), said_day)
    if copy:
        lines = replace(lines, flags=(f"Reprint {copy}", *lines.flags))
    if "was" in document:
        lines = replace(lines, flags=(reduced_words(document, lines.total), *lines.flags))
    return lines, label, own


def marked_document(tray: Tray, price: UnitPrice) -> dict[str, Any]:
    """Its label over the old: the new price, and what it was."""
    before = {key: one for key, one in tray.label_now.items() if key != "fixed_total"}
    product = before["product"] | {"price": _price(price)}
    was = {"price": _price(tray.price), "total": f"{tray.price_now:f}"}
    return {**before, "product": product, "was": was}


def reduced_words(document: dict[str, Any], total: str) -> str:
    """“Reduced: $16.11, now $11.27”."""
    was = with_sign(Decimal(document["was"]["total"]), document["currency"])
    return f"Reduced: {was}, now {total}"


def tag_document(product: Product, price: Price) -> dict[str, Any]:
    """What a shelf tag tells, as it is when it is printed."""
    own = price.unit_price
    other = per_other_unit(own)
    muscle = product.cut.muscle
    is_muscle = muscle is not None and muscle.kind != Muscle.Kind.MATERIAL
    return {
        "name": product.name,
        "under": muscle.name if muscle is not None and is_muscle else "",
        "price": f"{own.amount:f}",
        "per": f"a {own.per.value}",
        "other": f"{other.amount:f} a {other.per.value}" if product.shows_both else "",
        "since": f"from {said_day(price.effective_on)}",
    }


def card_document(product: Product, price: Price) -> dict[str, Any]:
    """What a card for the service counter tells: the tag, and what a shopper is told of the cut."""
    cut, told = product.cut, product.told
    lines = [
        product.story or cut.story,
        f"Best for: {told.best}." if told.best else "",
        sentence(cut.cooking),
        f"Done when {told.done}." if told.done else "",
        sentence(told.doneness),
        f"Safe from {told.core.words}." if told.is_cooked else "",
        TENDERIZED_CARD if product.is_tenderized else "",
        sentence(told.serves),
        f"Unlike: {cut.mistaken_for}" if cut.mistaken_for else "",
    ]
    return {**tag_document(product, price), "told": [line for line in lines if line]}


TENDERIZED_CARD = "Mechanically tenderized: cook it further than whole muscle."


def sentence(words: str) -> str:
    """Words as a sentence of their own; nothing for nothing."""
    return f"{words[:1].upper()}{words[1:]}." if words else ""


def case_document(
    product: Product, gtin: str, net: Weight, packed_on: date, lot: str, number: str
) -> dict[str, Any]:
    """What a case tells: GS1-128 with 01, 310n or 320n, 13, 10, 21. Raises BadValue."""
    elements = case_elements(gtin, net, packed_on, lot, number)
    return {
        "name": product.name,
        "under": product.cut.species,
        "net": str(net),
        "packed": said_day(packed_on),
        "lot": lot,
        "number": number,
        "elements": elements,
    }


def picture_of_job(job: PrintJob) -> LabelPicture:
    """A tray label or a shelf tag, as it waits for the printer."""
    if job.kind == PrintJob.Kind.TAG:
        return tag_picture(TagLines(**job.document))
    if job.kind == PrintJob.Kind.CARD:
        told = job.document["told"]
        own = {key: text for key, text in job.document.items() if key != "told"}
        return card_picture(TagLines(**own), told)
    if job.kind == PrintJob.Kind.CASE:
        return case_picture(CaseLines(**job.document), case_code(job.document["elements"]))
    return picture_of(job.document, job.stock, job.copy)


def codes_in_words(document: dict[str, Any]) -> list[str]:
    """What a label's bar code cannot hold, and what is left to the QR."""
    label = readable(document)
    why, left = why_none(label), left_to_qr(label)
    found = [f"No bar code: {why}."] if why else []
    if left and label.code is None:
        found.append(f"Left to the QR: {', '.join(NAMES.get(one, one) for one in left)}.")
    return found


NAMES = {"13": "the packing day", "422": "the country", "10": "the lot", "21": "the serial number"}
