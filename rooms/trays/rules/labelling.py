"""The document of a tray's label, as docs/formats/label.md has it, with the shop's own lines."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Any

from cutting.documents.label import read_label
from cutting.drawing.label import LabelPicture, Stock, label_picture
from cutting.drawing.tag import CaseLines, TagLines, card_picture, case_picture, tag_picture
from cutting.labels.codes import case_elements
from cutting.labels.tray_label import TrayLabel, lines_of, per_other_unit
from cutting.quantities import ONE, Unit, UnitPrice, Weight, working
from rooms.catalog.models import Muscle
from rooms.common.barcodes import case_code, left_to_qr, symbols_of, why_none
from rooms.grinder.models import GrinderRules, NutritionFacts
from rooms.grinder.queries.log import facts_in_words
from rooms.grinder.rules.house import house_rules
from rooms.pricebook.models import Price, Product
from rooms.shop.rules.current import house
from rooms.shop.rules.dates import said_day
from rooms.trays.models import LabelRules, PrintJob, ProductLabel, Tray
from rooms.trays.rules.source import Source

COOK_GROUND = "Cook it through: 160 °F (71 °C) in the middle."
COOK_WHOLE = "Cook to 145 °F (63 °C) in the middle; rest three minutes."
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


def label_document(
    product: Product,
    own: ProductLabel | None,
    price: UnitPrice,
    weighed: Weighed,
    days: tuple[date, date],
    source: Source,
    serial: str,
    rules: LabelRules,
) -> dict[str, Any]:
    """`days`: packed on and sell by."""
    name = f"{product.name}, {source.lean}" if source.lean else product.name
    row: dict[str, Any] = {"name": name, "species": product.cut.species, "price": _price(price)}
    muscle = product.cut.muscle
    if muscle is not None and muscle.kind != Muscle.Kind.MATERIAL:
        row["muscle"] = muscle.name
    if own is not None:
        row |= {key: getattr(own, key) for key in ("item", "gtin") if getattr(own, key)}
    document: dict[str, Any] = {
        "format": "mindful-tally.label",
        "version": 1,
        "currency": house().currency,
        "product": row,
        "gross": _weight(weighed.gross),
        "tare": _weight(weighed.tare),
        "division": _weight(weighed.division),
        "packed_on": days[0].isoformat(),
        "sell_by": days[1].isoformat(),
        "serial": serial,
        "tenderized": product.cut.is_tenderized,
        "frozen_before": source.was_frozen,
        "kept_facts": source.facts,
        "facts": [*source.facts, *_facts(product, own, weighed), *_nutrition(product)],
    }
    document |= {
        key: value
        for key, value in (
            ("lot", source.lot),
            ("country", source.country),
            ("origin_claim", source.claim),
            ("ingredients", source.ingredients),
            ("link", rules.link),
        )
        if value
    }
    if rules.place:
        document["shop"] = {"name": house().name, "place": rules.place}
    if rules.store_code and own is not None and own.item:
        document["store_code"] = rules.store_code
    return document


def _facts(product: Product, own: ProductLabel | None, weighed: Weighed) -> list[str]:
    found = [COOK_GROUND if product.cut.is_ground else COOK_WHOLE]
    if own is not None and own.serving:
        with working():
            net = weighed.gross.to(Unit.G) - weighed.tare.to(Unit.G)
            many = max((net / own.serving).to_integral_value(), ONE)
        found.append(f"Serves {many:f}, {own.serving:f} g each.")
    return found


def _nutrition(product: Product) -> list[str]:
    """Facts of a cut, where the shop puts them on labels and has entered one set; those of ground meat come
    with its batch. Two queries."""
    if product.cut.is_ground or house_rules().nutrition != GrinderRules.Nutrition.FACTS:
        return []
    facts = list(NutritionFacts.objects.filter(product=product)[:2])
    return [facts_in_words(facts[0])] if len(facts) == 1 else []


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


NO_ITEM = "00000"
"""Stands in where the shop has given a product no number: then there is no code."""


def picture_of(document: dict[str, Any], stock: str, copy: int = 0) -> LabelPicture:
    """The label as it is printed; a reprint says so."""
    label = readable(document)
    facts = list(document.get("facts", []))
    if copy:
        facts.insert(0, f"Reprint {copy}")
    own, lines = Stock(stock), lines_of(label, facts, said_day)
    if "was" in document:
        lines = replace(lines, flags=(reduced_words(document, lines.total), *lines.flags))
    return label_picture(lines, symbols_of(label, own), own)


def marked_document(tray: Tray, price: UnitPrice) -> dict[str, Any]:
    """Its label over the old: the new price, and what it was."""
    before = tray.label_now
    product = before["product"] | {"price": _price(price)}
    was = {"price": _price(tray.price), "total": f"{tray.price_now:f}"}
    return {**before, "product": product, "was": was}


def reduced_words(document: dict[str, Any], total: str) -> str:
    """“Reduced: 16.11, now 11.27”."""
    return f"Reduced: {document['was']['total']}, now {total}"


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
    cut, told = product.cut, product.cut.told
    lines = [
        product.story or cut.story,
        f"Best for: {told.best}." if told.best else "",
        f"{cut.cooking[:1].upper()}{cut.cooking[1:]}." if cut.cooking else "",
        f"Done at {told.core.words}." if told.is_cooked else "",
        "Mechanically tenderized: cook it further than whole muscle." if cut.is_tenderized else "",
        f"{told.serves[:1].upper()}{told.serves[1:]}." if told.serves else "",
        f"Unlike: {cut.mistaken_for}" if cut.mistaken_for else "",
    ]
    return {**tag_document(product, price), "told": [line for line in lines if line]}


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
