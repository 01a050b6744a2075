"""A test is opened, with its piles as the plan has them."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, fields
from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID, uuid5

from django.utils import timezone

from cutting.errors import BadValue
from cutting.quantities import ONE, Unit, UnitPrice, Weight
from cutting.sheet.cutting_test import Piece as CorePiece
from cutting.sheet.cutting_test import figures, same_name
from cutting.ways.two_plans import both, check_split, share_at
from rooms.bench.actions.layout import Laying, lay_rows
from rooms.bench.actions.piles import FAT, Chosen, choose, make_piles
from rooms.bench.models import Choice, CuttingTest, Output, TestBag
from rooms.bench.queries.opening import in_which_order, of_bags, too_young_in
from rooms.bench.queries.rows import load_known
from rooms.catalog.models import Piece, Pile, Plan, PlanOutput
from rooms.common.db.numbers import next_numbers
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.bags import set_seen, take_out, was_frozen
from rooms.cooler.queries.held import refuse_held
from rooms.shop.queries.current import house
from wording.cooler import young_words

HEAVIEST = Decimal(10000)
SHORTEST_REASON, LONGEST_REASON = 3, 200
PLAN, LAST, BLANK = "plan", "last", "blank"
ORDER = Pile.values
"""Portions first, purge last."""


@dataclass(frozen=True)
class Opening:
    """What is known when a piece is opened. `key` becomes the test's id."""

    key: object
    plan: Plan | None
    weight: Weight
    price: UnitPrice
    piece: Piece | None = None
    """Only needed without a plan."""
    rest_by: Plan | None = None
    """A second plan, for the rest of the piece."""
    split: Decimal | None = None
    """The share of the piece that the first plan gets, with a second one."""
    start_from: str = PLAN
    """PLAN, LAST: the piles of the last finished test of this piece, or BLANK."""
    opened: Weight | None = None
    freight: Decimal = Decimal(0)
    discount: Decimal = Decimal(0)
    supplier: str = ""
    lot: str = ""
    packed_on: date | None = None
    bags: tuple[UUID, ...] = ()
    """Bags of the cooler that are opened for it."""
    aged_from: date | None = None
    """When the meat was first packed, where that is not `packed_on`."""
    young_reason: str = ""
    """Why something too young is cut all the same."""
    was_frozen: bool = False
    percent_off: Decimal | None = None
    """Off the list price, where it was typed so; `discount` is its money already."""
    fat_level: str = ""
    choices: tuple[tuple[int, str, str], ...] = ()
    """What is chosen otherwise than the plan has it: place of the pile, what, as typed."""
    damage: tuple[str, ...] = ()
    marbling: int | None = None
    claims: str = ""

    @property
    def its_piece(self) -> Piece:
        """The piece itself, else that of its plan. BadInput without both."""
        found = self.piece or (self.plan.piece if self.plan else None)
        if found is None:
            raise BadInput("Piece: there is none; choose one of the catalog.")
        return found


def start_test(
    opening: Opening, by_id: int | None, at: Any = None, *, laying: Laying | None = None
) -> CuttingTest:
    """Start a test, cut by a layout where there is one. Repeating the same opening returns the
    test it already started."""
    try:
        CorePiece(
            weight=opening.weight,
            price=opening.price,
            opened_weight=opening.opened,
            freight=opening.freight,
            discount=opening.discount,
        )
    except BadValue as bad:
        raise BadInput(str(bad)) from bad
    _check_plans(opening)
    plate = house().scales[0]
    division = Weight.of(plate.division, plate.unit)
    sent = _sent(opening)
    with write(key=sent, recorded=kept_by(CuttingTest, sent.key, by="pk")) as door:
        if door.first is not None:
            return door.first
        if opening.bags:
            _as_the_bags_say(opening)
        else:
            refuse_held([opening.lot])
        plan, piece = opening.plan, opening.its_piece
        templates, started_from = _templates(opening)
        young = _too_young(opening, templates)
        test = CuttingTest.objects.create(
            pk=opening.key,
            number=next_numbers(CuttingTest)[0],
            piece=piece,
            plan=plan,
            piece_name=piece.shown_name,
            item_number=piece.item_number,
            species=piece.species,
            second_plan=opening.rest_by,
            split=opening.split if opening.rest_by else None,
            plan_name=_plan_name(plan, opening.rest_by) if plan else started_from,
            is_sawn=any(each.is_sawn for each in (plan, opening.rest_by) if each),
            started_from=started_from,
            weight_value=opening.weight.value,
            weight_unit=opening.weight.unit.value,
            opened_value=opening.opened.value if opening.opened else None,
            opened_unit=opening.opened.unit.value if opening.opened else "",
            price_amount=opening.price.amount,
            price_per=opening.price.per.value,
            freight=opening.freight,
            discount=opening.discount,
            division_value=division.value,
            division_unit=division.unit.value,
            labour_rate=house().labour_rate,
            supplier=opening.supplier,
            lot=opening.lot,
            packed_on=opening.packed_on,
            too_young=young,
            young_reason=opening.young_reason if young else "",
            was_frozen=opening.was_frozen,
            percent_off=opening.percent_off,
            fat_level=opening.fat_level,
            damage=list(opening.damage),
            marbling=opening.marbling,
            claims=opening.claims,
            cutter_id=by_id,
            started_at=at or timezone.now(),
        )
        Output.objects.bulk_create(make_piles(test, templates))
        _choose(test, opening, by_id, at)
        if laying is not None:
            lay_rows(load_known(test.pk), laying, by_id, at)
        if opening.bags:
            words = f"opened for test {test.number}; {in_which_order(opening.bags)}"
            if opening.was_frozen:
                was_frozen(list(opening.bags), by_id, at)
            if opening.damage or opening.marbling:
                set_seen(opening.bags, opening.damage, opening.marbling, by_id, at)
            taken = take_out(list(opening.bags), words, by_id, at)
            TestBag.objects.bulk_create([TestBag(test=test, bag=bag) for bag in taken])
    return test


BESIDE_KEY = ("key", "young_reason", "aged_from")
"""What an opening says beside what is meant."""


def _sent(opening: Opening) -> Sent:
    names = (one.name for one in fields(opening) if one.name not in BESIDE_KEY)
    values = {name: getattr(opening, name) for name in names}
    key = opening.key if isinstance(opening.key, UUID) else UUID(str(opening.key))
    return Sent(key, "open", f"{opening.weight} at {opening.price.amount} opened", values)


def _choose(test: CuttingTest, opening: Opening, by_id: int | None, at: Any) -> None:
    """Each choice made at opening, kept as one made at the block."""
    if opening.fat_level:
        CuttingTest.objects.filter(pk=test.pk).update(has_choices=True)
        Choice.objects.create(
            key=uuid5(test.pk, FAT),
            test=test,
            name=FAT,
            now=opening.fat_level,
            at=at or timezone.now(),
            by_id=by_id,
        )
    ids = {output.position: output.pk for output in test.outputs.all()} if opening.choices else {}
    for place, name, text in opening.choices:
        key = str(uuid5(test.pk, f"{name}-{place}"))
        choose(test.pk, Chosen(key, name, str(ids.get(place, "")), text), by_id, at)


def _too_young(opening: Opening, templates: Sequence[PlanOutput | Output]) -> list[str]:
    """What is too young, in words. BadInput without a word for cutting it all the same."""
    aged_from = opening.aged_from or opening.packed_on
    young = [young_words(one) for one in too_young_in(opening.its_piece, templates, aged_from)]
    if young and not SHORTEST_REASON <= len(opening.young_reason) <= LONGEST_REASON:
        raise BadInput(
            f"Too young: {'; '.join(young)}. Choose a plan that suits, or say in"
            f" {SHORTEST_REASON} to {LONGEST_REASON} letters why it is cut now."
        )
    return young


def _as_the_bags_say(opening: Opening) -> None:
    """A test opened from bags starts with what the cooler knows of them, not with other figures."""
    bags = of_bags([str(bag) for bag in opening.bags])
    unit = Unit(bags.unit)
    for name, asked, right in (
        ("Weight", opening.weight, Weight(bags.weight, unit)),
        ("Price", opening.price, bags.paid),
        ("Freight", opening.freight, bags.freight),
        ("Discount", opening.discount, bags.discount),
        ("Piece", opening.its_piece, bags.piece),
    ):
        if asked != right:
            raise Refused(f"{name}: {_said(asked)} is not what the bags say; {_said(right)} is.")


def _said(value: object) -> str:
    return f"{value.amount} a {value.per}" if isinstance(value, UnitPrice) else str(value)


def _templates(opening: Opening) -> tuple[list[PlanOutput | Output], str]:
    """What the piles are made like, and the words for where that comes from."""
    if opening.start_from == BLANK:
        return [], BLANK
    if opening.start_from == LAST:
        last = last_of(opening.its_piece)
        if last is None:
            raise BadInput("Start from: this piece has no finished test yet; choose a plan.")
        return _as_last_time(last), f"as test {last.number}"
    outputs = list(PlanOutput.objects.filter(plan=opening.plan).order_by("position"))
    if opening.rest_by is not None:
        outputs = _of_both(outputs, opening)
    return outputs, ""


def _check_plans(opening: Opening) -> None:
    """Two plans are two, of one piece, with a split that leaves something to each."""
    if opening.rest_by is None:
        return
    if opening.start_from != PLAN or opening.plan is None:
        raise BadInput("Rest by another plan: the piles come from no plan; choose “of the plan”.")
    if opening.rest_by.pk == opening.plan.pk or opening.rest_by.piece_id != opening.plan.piece_id:
        raise BadInput("Rest by another plan: another plan of the same piece is right.")
    if opening.split is None:
        raise BadInput("First part: it is empty; more than 0 and less than 100 % is right.")
    try:
        check_split(opening.split)
    except BadValue as bad:
        raise BadInput(str(bad)) from bad


def _plan_name(plan: Plan, rest_by: Plan | None) -> str:
    return plan.name + (f"; the rest: {rest_by.name}" if rest_by else "")


def _of_both(first: list[PlanOutput], opening: Opening) -> list[PlanOutput]:
    """The piles of both plans, what leaves the block as waste last; the same pile is one."""
    rest = list(PlanOutput.objects.filter(plan=opening.rest_by).order_by("position"))
    by_key: dict[Hashable, PlanOutput] = {_pile_key(o): o for o in [*rest, *first]}
    found = []
    for each in both(
        [(_pile_key(output), output.share) for output in first],
        [(_pile_key(output), output.share) for output in rest],
    ):
        output = by_key[each.key]
        output.share_one, output.share_rest = each.one, each.rest
        output.share = share_at(opening.split or ONE, each.one, each.rest)
        found.append(output)
    return sorted(found, key=lambda output: ORDER.index(output.pile))


def _pile_key(output: PlanOutput) -> tuple[int | None, str, str]:
    return output.cut_id, output.pile, same_name(output.name)


def last_of(piece: Piece) -> CuttingTest | None:
    """The last finished test of a piece: one query."""
    return CuttingTest.objects.finished().filter(piece=piece).order_by("-finished_at").first()


def _as_last_time(last: CuttingTest) -> list[Output]:
    """Its piles, expected to give the share they gave."""
    rows = load_known(last.pk)
    found = figures(rows.whole)
    shares = {o.pk: line.share for o, line in zip(rows.outputs, found.outputs, strict=True)}
    for output in rows.piles:
        output.share_one = output.share_rest = None  # of the two plans that it was cut by
        output.share = round(shares[output.pk], 4) if rows.of(output) else output.share
    return rows.piles
