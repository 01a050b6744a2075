"""What a tray is packed from: a pile of a test, a batch, another tray, or nothing that is on record."""

import uuid
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from typing import Any

import pycountry

from cutting.grinding.names import label_words
from cutting.labels.tray_life import Life
from cutting.quantities import ZERO, Unit, Weight, working
from rooms.bench.models import CuttingTest, Output
from rooms.bench.rules.rows import TestRows, load_known
from rooms.common.errors import BadInput, Refused
from rooms.cooler.models import Bag
from rooms.grinder.models import Batch
from rooms.grinder.queries.log import nutrition_words
from rooms.grinder.rules.house import house_rules
from rooms.grinder.rules.lots import Lot, lots_of_batch
from rooms.grinder.rules.packed import left_to_pack
from rooms.grinder.rules.sources import lots_of_test
from rooms.trays.models import Tray

LONGEST = 80


@dataclass(frozen=True)
class Source:
    """`left`: what may still be packed of it, None where nobody knows; `ends`: last days of its bags."""

    species: str = ""
    output: Output | None = None
    batch: Batch | None = None
    tray: Tray | None = None
    left: Weight | None = None
    lots: list[Lot] = field(default_factory=list)
    ends: list[date] = field(default_factory=list)
    was_frozen: bool = False
    claim: str = ""
    country: str = ""
    lean: str = ""
    """“85 % lean, 15 % fat” of ground meat: stands beside its name."""
    ingredients: list[str] = field(default_factory=list)
    facts: list[str] = field(default_factory=list)

    @property
    def from_test(self) -> CuttingTest | None:
        """The test it is of in the end, also where a tray is packed again."""
        if self.tray is not None:
            return self.tray.from_test
        return None if self.output is None else self.output.test

    @property
    def from_batch(self) -> Batch | None:
        return self.batch if self.tray is None else self.tray.from_batch

    @property
    def lot(self) -> str:
        """The trace code on the label: the batch, the test, or the one lot."""
        if self.batch is not None:
            return str(self.batch)
        if self.output is not None:
            return f"T-{self.output.test.number}"
        if self.tray is not None:
            return str(self.tray.document.get("lot", ""))
        return self.lots[0]["lot"] if len(self.lots) == 1 else ""


def source_of(text: str, *, lock: bool = False) -> Source:
    """“test:<pile>”, “batch:<id>”, “tray:<id>”; empty for packed by hand. Raises BadInput for another,
    Refused for meat that cannot be packed now."""
    kind, _, name = text.partition(":")
    if not text:
        return Source()
    try:
        if kind == "test" and name.isascii() and name.isdecimal() and len(name) < 18:
            return _of_pile(int(name))
        if kind == "batch":
            return _of_batch(uuid.UUID(name), lock)
        if kind == "tray":
            return _of_tray(uuid.UUID(name), lock)
    except ValueError:
        pass
    raise BadInput(f"From: “{text[:LONGEST]}”; one of those shown is right.")


def _of_pile(pk: int) -> Source:
    output = Output.objects.select_related("test", "cut").filter(pk=pk).first()
    if output is None:
        raise BadInput("From: there is no such pile.")
    test, rows = output.test, load_known(output.test.pk)
    trays = list(Tray.objects.standing().filter(output=output))
    bags = list(Bag.objects.filter(opened_for__test=test).select_related("delivery"))
    return Source(
        test.species,
        output=output,
        left=left_of_pile(rows, output, trays),
        lots=lots_of_test(test),
        **_of_bags(bags),
    )


def left_of_pile(rows: TestRows, output: Output, trays: list[Tray]) -> Weight:
    """What lies on a pile less its trays, in the test's unit; below 0 where its sheet was corrected since.
    No query."""
    unit = Unit(rows.test.weight_unit)
    with working():
        lies = sum((w.reading.weight.to(unit) for w in rows.of(output)), ZERO)
        return Weight(lies - packed_of(trays, unit), unit)


def left_of_tray(tray: Tray, again: list[Tray]) -> Weight:
    """Of one whose meat is packed again."""
    unit = Unit(tray.unit)
    with working():
        return Weight(tray.net - packed_of(again, unit), unit)


def packed_of(trays: Any, unit: Unit) -> Decimal:
    """What trays weigh together."""
    with working():
        return sum((one.weight.to(unit) for one in trays), ZERO)


def _of_bags(bags: list[Bag]) -> dict[str, Any]:
    """What every bag of it carries alike; a claim that only some carry is none."""

    def same(name: str) -> str:
        values = {getattr(bag, name) for bag in bags}
        return str(values.pop()) if len(values) == 1 else ""

    grade, country = same("grade"), same("country")
    return {
        "ends": [bag.ends_on for bag in bags if bag.ends_on is not None],
        "was_frozen": any(bag.was_frozen for bag in bags),
        "claim": same("claims"),
        "country": letters_of(country),
        "facts": [grade] if grade else [],
    }


def letters_of(country: str) -> str:
    """Two letters of ISO 3166-1; empty for a name that is none."""
    try:
        return str(pycountry.countries.lookup(country).alpha_2) if country else ""
    except LookupError:
        return ""


def _of_batch(pk: uuid.UUID, lock: bool) -> Source:
    rows = Batch.objects.select_for_update() if lock else Batch.objects.select_related("seasoning")
    batch = rows.filter(pk=pk).first()
    if batch is None:
        raise BadInput("From: there is no such batch.")
    if batch.undone_at is not None or batch.got is None:
        why = "was taken back" if batch.undone_at else "is still in the grinder"
        raise Refused(f"From: {batch} {why}.")
    unit, fat = Unit(batch.unit), batch.stated if batch.stated is not None else batch.fat
    lots = lots_of_batch(batch)
    bags = list(Bag.objects.filter(lot__in=[lot["lot"] for lot in lots if lot.get("lot")]))
    nutrition = nutrition_words(batch, fat, house_rules())
    seasoning = batch.seasoning
    meats = [batch.species, *seasoning.ingredients.split(", ")] if seasoning else []
    allergens = seasoning.allergens if seasoning else []
    facts = [nutrition] if nutrition.startswith("A serving") else []
    return Source(
        batch.species,
        batch=batch,
        left=Weight(left_to_pack(batch), unit),
        lots=lots,
        ends=[bag.ends_on for bag in bags if bag.ends_on and bag.state == Bag.State.OPENED],
        was_frozen=any(bag.was_frozen for bag in bags),
        lean="" if seasoning else label_words("", fat).removeprefix(", "),
        ingredients=meats,
        facts=facts + ([f"Contains {', '.join(allergens)}."] if allergens else []),
    )


def _of_tray(pk: uuid.UUID, lock: bool) -> Source:
    rows = Tray.objects.select_for_update() if lock else Tray.objects.all()
    tray = rows.filter(pk=pk).first()
    if tray is None:
        raise BadInput("From: there is no such tray.")
    if tray.state is not Life.TO_BLOCK:
        raise Refused(f"From: {tray} is not at the block; take it back to the block first.")
    document = tray.document
    return Source(
        document["product"]["species"],
        tray=tray,
        left=left_of_tray(tray, list(tray.again.standing())),
        lots=tray.lots,
        ends=[tray.sell_by],
        was_frozen=document.get("frozen_before", False),
        claim=document.get("origin_claim", ""),
        country=document.get("country", ""),
        ingredients=document.get("ingredients", []),
        facts=document.get("kept_facts", []),
    )
