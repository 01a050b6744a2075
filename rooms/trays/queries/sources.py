"""What a tray is packed from: a pile of a test, a batch, another tray, or no lot on record."""

import uuid
from dataclasses import dataclass, field, replace

from cutting.labels.tray_life import Life
from cutting.meat import Meat, Target, why_not_packed
from cutting.quantities import Unit, Weight
from rooms.bench.models import CuttingTest, Output
from rooms.bench.queries.meat import bags_of_tests, meat_of_pile, meat_of_test
from rooms.bench.queries.pile_left import left_on_pile
from rooms.bench.queries.rows import load_known
from rooms.common.errors import BadInput, Refused
from rooms.cooler.models import Bag
from rooms.grinder.models import Batch
from rooms.grinder.queries.claims import over_its_label
from rooms.grinder.queries.house import house_rules
from rooms.grinder.queries.log import nutrition_words
from rooms.grinder.queries.lots import Lot, lots_of_batch
from rooms.grinder.queries.meat import meat_of_batch
from rooms.grinder.queries.packed import left_to_pack, stated_fat
from rooms.grinder.queries.sources import lots_of_test
from rooms.pricebook.models import Product
from rooms.trays.models import Tray
from rooms.trays.queries.meat import left_on_tray, meat_of_tray

LONGEST = 80


@dataclass(frozen=True)
class Source:
    """`left`: what may still be packed of it, None where nobody knows."""

    meat: Meat = field(default_factory=Meat)
    output: Output | None = None
    batch: Batch | None = None
    tray: Tray | None = None
    left: Weight | None = None
    lots: list[Lot] = field(default_factory=list)
    claim: str = ""
    facts: list[str] = field(default_factory=list)
    """What the delivery carries of every bag: its grade."""
    nutrition: str = ""
    false_claim: str = ""
    """Why its label may not tell what it told; empty where it may."""

    @property
    def is_known(self) -> bool:
        """Whether its meat is on record."""
        return self.output is not None or self.batch is not None or self.tray is not None

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

    def why_not(self, product: Product) -> str:
        """Return why it may not be packed as a product; empty where it may. What has no record is never
        ground meat: that stands in the grind record (9 CFR 320.1(b)(4))."""
        target = target_of(product)
        if not self.is_known:
            grind = "is packed from a batch of the grinder"
            return f"{product} {grind}; choose the batch" if target.is_ground else ""
        return why_not_packed(self.meat, target, again=self.tray is not None)


def target_of(product: Product) -> Target:
    """Return what a product is for the rule of the core. Its cut and muscle are loaded."""
    cut = product.cut
    muscle = cut.muscle
    is_material = muscle is None or muscle.kind == muscle.Kind.MATERIAL
    return Target(
        str(product.pk),
        product.name,
        cut.species,
        cut.key,
        "" if muscle is None or is_material else muscle.key,
        cut.is_ground,
        is_material,
    )


def source_of(text: str, *, lock: bool = False) -> Source:
    """“test:<pile>”, “batch:<id>”, “tray:<id>”; empty for no lot on record. Raises BadInput for another,
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
    rows = Output.objects.select_related("test", "cut__muscle")
    output = rows.filter(pk=pk).first()
    if output is None:
        raise BadInput("From: there is no such pile.")
    test, known = output.test, load_known(output.test.pk)
    bags = bags_of_tests([test.pk])[test.pk]
    claim, grade = _alike(bags, "claims"), _alike(bags, "grade")
    return Source(
        meat_of_pile(known, output, bags),
        output=output,
        left=left_on_pile(known, output),
        lots=lots_of_test(test),
        claim=claim,
        facts=[grade] if grade else [],
    )


def _alike(bags: list[Bag], name: str) -> str:
    """What every bag carries alike; a claim that only some carry is none."""
    values = {getattr(bag, name) for bag in bags}
    return str(values.pop()) if len(values) == 1 else ""


def _of_batch(pk: uuid.UUID, lock: bool) -> Source:
    rows = Batch.objects.select_for_update() if lock else Batch.objects.select_related("seasoning")
    batch = rows.filter(pk=pk).first()
    if batch is None:
        raise BadInput("From: there is no such batch.")
    if batch.undone_at is not None or batch.got is None:
        why = "was taken back" if batch.undone_at else "is still in the grinder"
        raise Refused(f"From: {batch} {why}.")
    nutrition = nutrition_words(batch, stated_fat(batch), house_rules())
    return Source(
        meat_of_batch(batch),
        batch=batch,
        left=Weight(left_to_pack(batch), Unit(batch.unit)),
        lots=lots_of_batch(batch),
        nutrition=nutrition if nutrition.startswith("A serving") else "",
        false_claim=over_its_label(batch),
    )


def _of_tray(pk: uuid.UUID, lock: bool) -> Source:
    rows = Tray.objects.select_related("product__cut__muscle", "from_batch", "from_test")
    tray = (rows.select_for_update(of=("self",)) if lock else rows).filter(pk=pk).first()
    if tray is None:
        raise BadInput("From: there is no such tray.")
    if tray.state is not Life.TO_BLOCK:
        raise Refused(f"From: {tray} is not at the block; take it back to the block first.")
    document = tray.document
    return Source(
        meat_now(tray),
        tray=tray,
        left=left_on_tray(tray),
        lots=tray.lots,
        claim=document.get("origin_claim", ""),
        facts=[one for one in document.get("kept_facts", []) if not one.startswith("Contains ")],
        nutrition=document.get("nutrition", ""),
        false_claim=over_its_label(tray.from_batch) if tray.from_batch is not None else "",
    )


def meat_now(tray: Tray) -> Meat:
    """What a tray is as its label told it, and what was found out of its bags or its batch since: an
    origin that was asked for, signs of freezing, an end that a warm spell brought nearer."""
    told = meat_of_tray(tray)
    since: Meat | None = None
    if tray.from_batch is not None:
        since = meat_of_batch(tray.from_batch)
    elif tray.from_test is not None:
        bags = bags_of_tests([tray.from_test.pk])[tray.from_test.pk]
        since = meat_of_test(tray.from_test, bags)
    if since is None:
        return told
    return replace(
        told,
        was_frozen=told.was_frozen or since.was_frozen,
        origins=told.origins if _is_known(told) else since.origins,
        ends=(*told.ends, *since.ends),
    )


def _is_known(meat: Meat) -> bool:
    return bool(meat.origins) and all(one.is_known for one in meat.origins)
