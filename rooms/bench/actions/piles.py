"""The piles of a test: added, chosen for, moved and merged."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.utils import timezone

from cutting.errors import BadValue
from cutting.quantities import HUNDRED, ZERO, Unit, Weight, parse_decimal, storable_money
from cutting.sheet.choices import FAT_LEVELS, check_target, check_thickness
from cutting.sheet.cutting_test import Role, same_name
from cutting.sheet.trays import MOST_IN_A_TRAY, usual_size
from cutting.ways.two_plans import check_split, share_at
from rooms.bench.actions.layout import lay_again
from rooms.bench.actions.revision import touch
from rooms.bench.actions.tubs import Acting, carry
from rooms.bench.models import UNIT, Choice, CuttingTest, Move, Output, Weighing
from rooms.bench.queries.piles import sum_of
from rooms.bench.queries.rows import TestRows, load_known, must_be_open, must_load, open_rows
from rooms.catalog.models import ROLE_OF_PILE, Cut, Piece, Pile, PlanOutput
from rooms.common.db.keys import own_key
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput, NotAllowed, Refused
from rooms.common.plain_text import is_plain
from rooms.common.web.forms import tidy
from rooms.pricebook.models import Price, Product
from rooms.shop.queries.current import house
from rooms.staff.models import Person
from rooms.staff.rights import Right
from wording.pencil import percent

SHARES = ("share", "share_one", "share_rest")
TARGET, THICKNESS, TRAY, FAT, VALUE = "target", "thickness", "tray", "fat", "value"
SPLIT = "split"
OF_THE_TEST = (FAT, SPLIT)
MOST_VALUE = Decimal(1000)
MOST_PILES = 40
LONGEST_NAME = 60


def _whole_pieces(templates: Sequence[PlanOutput | Output]) -> dict[int, int]:
    """The pieces that some of the piles are, by their place: one query, none where no plan goes on."""
    found = {
        i: like.piece_id
        for i, like in enumerate(templates)
        if isinstance(like, Output) and like.piece_id is not None
    }
    on = {
        i: like.goes_on.partition("/")[0]
        for i, like in enumerate(templates)
        if isinstance(like, PlanOutput) and like.goes_on
    }
    keys = dict(Piece.objects.filter(key__in=on.values()).values_list("key", "pk")) if on else {}
    return found | {i: keys[key] for i, key in on.items() if key in keys}


def make_piles(test: CuttingTest, templates: Sequence[PlanOutput | Output]) -> list[Output]:
    """New piles with the prices that hold today; not yet saved."""
    products = {
        product.cut_id: product
        for product in Product.objects.filter(cut__in=[p.cut_id for p in templates if p.cut_id])
    }
    current = {
        price.product_id: price.amount
        for price in Price.objects.current(products=[p.pk for p in products.values()])
    }
    pieces = _whole_pieces(templates)
    piles = []
    for position, like in enumerate(templates):
        product = products.get(like.cut_id)
        piles.append(
            Output(
                test=test,
                position=position,
                name=like.name,
                pile=like.pile,
                role=like.role,
                cut_id=like.cut_id,
                piece_id=pieces.get(position),
                share=like.share,
                share_one=getattr(like, "share_one", None),
                share_rest=getattr(like, "share_rest", None),
                target_value=like.target_value,
                target_unit=like.target_unit,
                is_counted=like.is_counted,
                in_case=like.in_case,
                thickness=like.thickness,
                price_per=product.per if product else house().unit.value,
                retail=current.get(product.pk) if product else None,
                credit=product.transfer if product else None,
                replacement=product.ready_cut if product else None,
                tray_size=_tray_size_of(like, product),
            )
        )
    return piles


def _tray_size_of(like: PlanOutput | Output, product: Product | None) -> int | None:
    """Portions in the product's usual tray."""
    if not (like.is_counted and like.target_value and product and product.tray_weight):
        return None
    tray = Weight(product.tray_weight, UNIT[product.tray_unit])
    return usual_size(tray, Weight(like.target_value, UNIT[like.target_unit]))


def add_pile(test_id: UUID, name: str, pile: str, cut_key: str = "") -> TestRows:
    """Add a pile of a kind, or of a cut of the catalog, whose name and price come with it.

    A name that is already there is refused; nothing else changes.
    """
    cut = Cut.objects.filter(key=cut_key).first() if cut_key else None
    if cut_key and cut is None:
        raise BadInput("Cut: choose one of the cuts shown.")
    name = " ".join((name or (cut.shown_name[:LONGEST_NAME] if cut else "")).split())
    if not name:
        raise BadInput("Name: it is empty; name the pile.")
    if len(name) > LONGEST_NAME or not is_plain(name):
        raise BadInput(f"Name: at most {LONGEST_NAME} plain characters are right.")
    if pile not in Pile.values:
        raise BadInput("Kind: choose one of the kinds shown.")
    with write():
        rows = must_load(test_id)
        must_be_open(rows.test, f"{name} was not added")
        if any(same_name(output.name) == same_name(name) for output in rows.outputs):
            raise BadInput(f"Name: there is already a pile named {name}; each name once is right.")
        if len(rows.outputs) >= MOST_PILES:
            raise BadInput(f"Name: this test has {MOST_PILES} piles; no more fit.")
        like = PlanOutput(name=name, pile=pile, role=ROLE_OF_PILE[Pile(pile)].value, cut=cut)
        (output,) = make_piles(rows.test, [like])
        output.position = rows.outputs[-1].position + 1 if rows.outputs else 0
        output.save(force_insert=True)
        touch(rows.test)
    return replace(rows, outputs=[*rows.outputs, output])


@dataclass(frozen=True)
class Chosen:
    """What the page sent, all text. `pile`: the output's id, empty for the fat of the piece."""

    key: str
    name: str
    pile: str
    now: str


def _may_value(by_id: int | None) -> None:
    person = Person.objects.filter(pk=by_id).first()
    if person is not None:
        why = Right.VALUE.refusal(str(person), person.role, in_office=True)
        if why:
            raise NotAllowed(f"Value: {why}")


def choose(test_id: UUID, chosen: Chosen, by_id: int | None, at: Any = None) -> TestRows:
    """Keep one choice with the test, and what follows from it. The same key twice, or what is so
    already, changes nothing. Raises BadInput for a value that cannot be, NotAllowed for an apprentice who
    values by-products: every cost of the test follows from it."""
    key = own_key(chosen.key, "Choice")
    text = " ".join(chosen.now.split())
    values = {"test": test_id, "name": chosen.name, "pile": chosen.pile, "now": text}
    sent = Sent(key, "choice", f"{chosen.name} {text or 'nothing'}", values)
    with write(key=sent, recorded=kept_by(Choice, key)) as door:
        rows = open_rows(test_id, "what is chosen stays as it is")
        if door.first is not None:
            return rows
        if chosen.name == VALUE:
            _may_value(by_id)
        output = None if chosen.name in OF_THE_TEST else _pile_of_choice(rows, chosen)
        changed = _fields(rows, output, chosen)
        row: CuttingTest | Output = output or rows.test
        was = _said(row, chosen.name)
        if all(getattr(row, name) == value for name, value in changed.items()):
            return rows
        for name, value in changed.items():
            setattr(row, name, value)
        row.save(update_fields=list(changed))
        if chosen.name == SPLIT:
            _expect(rows)
        CuttingTest.objects.filter(pk=rows.test.pk).update(has_choices=True)
        Choice.objects.create(
            key=key,
            test=rows.test,
            output=output,
            name=chosen.name,
            was=was,
            now=_said(row, chosen.name),
            at=at or timezone.now(),
            by_id=by_id,
        )
        touch(rows.test)
    return load_known(test_id)


def _pile_of_choice(rows: TestRows, chosen: Chosen) -> Output:
    found = next((o for o in rows.piles if str(o.pk) == chosen.pile), None)
    if found is None:
        raise BadInput("Choice: the pile is not there; choose one of the block.")
    if chosen.name == VALUE and found.role != Role.CREDIT:
        raise BadInput(f"Value: {found} is no by-product; choose trim, fat or bones.")
    if chosen.name in (TARGET, THICKNESS, TRAY) and not found.is_counted:
        raise BadInput(f"{chosen.name.capitalize()}: {found} is not cut in portions.")
    return found


def _fields(rows: TestRows, output: Output | None, chosen: Chosen) -> dict[str, Any]:
    """The columns that a choice sets."""
    text = " ".join(chosen.now.split())
    try:
        if chosen.name == FAT:
            return {"fat_level": _one_of(text, FAT_LEVELS)}
        if chosen.name == SPLIT:
            return {"split": _split(rows.test, text)}
        if chosen.name == THICKNESS:
            return {"thickness": check_thickness(text)}
        if output is not None and chosen.name == TARGET:
            return _target(rows.test, output, text)
        if chosen.name == TRAY:
            return {"tray_size": _tray(text)}
        if chosen.name == VALUE:
            return {"credit": _value(text)}
    except BadValue as bad:
        raise BadInput(str(bad)) from bad
    raise BadInput(f"Choice: “{chosen.name[:20]}” cannot be chosen.")


def _split(test: CuttingTest, text: str) -> Decimal:
    if test.second_plan_id is None:
        raise BadValue("First part", text[:20], "this test has one plan, nothing to split")
    percent = parse_decimal(tidy(text.removesuffix("%").strip()), "First part")
    return check_split(storable_money(percent / HUNDRED))


def _expect(rows: TestRows) -> None:
    """Every pile's share at the split that holds now."""
    split = rows.test.split
    for output in rows.outputs:
        if split is not None and output.share_one is not None and output.share_rest is not None:
            output.share = share_at(split, output.share_one, output.share_rest)
            output.save(update_fields=["share"])


def _one_of(text: str, choices: tuple[str, ...]) -> str:
    if text not in ("", *choices):
        raise BadValue("Fat left on", text[:20], f"{', '.join(choices)} is right")
    return text


def _target(test: CuttingTest, output: Output, text: str) -> dict[str, Any]:
    """The target, and the tray that fits it unless somebody chose the tray."""
    number, _, unit = text.rpartition(" ")
    if unit not in list(Unit):
        raise BadValue("Target", text[:20], "a weight with its unit, such as 8 oz, is right")
    target = Weight(parse_decimal(tidy(number), "Target"), Unit(unit))
    plate = house().scales[0]
    division = Weight(test.division_value, Unit(test.division_unit))
    check_target(target, division, Weight.of(plate.capacity, plate.unit))
    changed = {"target_value": target.value, "target_unit": unit}
    product = Product.objects.filter(cut=output.cut_id).first() if output.cut_id else None
    is_chosen = Choice.objects.filter(output=output, name=TRAY).exists()
    if product and product.tray_weight and output.tray_size and not is_chosen:
        tray = Weight(product.tray_weight, Unit(product.tray_unit))
        changed["tray_size"] = usual_size(tray, target)
    return changed


def _tray(text: str) -> int | None:
    if not (text.isascii() and text.isdecimal() and int(text[:6]) <= MOST_IN_A_TRAY):
        raise BadValue("Tray", f"{text[:20]} portions", f"0 to {MOST_IN_A_TRAY} is right")
    return int(text) or None


def _value(text: str) -> Decimal | None:
    if not text:
        return None
    value = storable_money(parse_decimal(tidy(text), "Value"))
    if not 0 <= value <= MOST_VALUE:
        raise BadValue("Value", text[:20], f"0 to {MOST_VALUE} a lb or kg is right")
    return value


def _said(row: CuttingTest | Output, name: str) -> str:
    """A choice as it stands, in words."""
    if isinstance(row, CuttingTest):
        if name == SPLIT:
            return "" if row.split is None else percent(row.split)
        return row.fat_level
    if name == TARGET:
        return f"{row.target_value:f} {row.target_unit}" if row.target_value is not None else ""
    if name == THICKNESS:
        return row.thickness
    if name == TRAY:
        return f"{row.tray_size} a tray" if row.tray_size else ""
    return f"{row.credit:f} a {row.price_per}" if row.credit is not None else ""


def move_weighing(
    test_id: UUID, weighing_id: str, to: str, saw: str, by_id: int | None
) -> TestRows:
    """Put one weighing on another pile. `saw`: the pile the page showed it on.

    On the wanted pile already: nothing changes. Raises Refused when somebody moved or took it
    back since, with both versions.
    """
    with write():
        rows = open_rows(test_id, "the weighing stays")
        weighing = next((w for w in rows.weighings if str(w.pk) == weighing_id), None)
        if weighing is None:
            raise BadInput("Move: there is no such weighing in this test.")
        target = _pile_shown(rows, to, "Move")
        if weighing.output_id == target.pk:
            return rows
        stands = (
            "taken back" if weighing.back_id is not None else _name_shown(rows, weighing.output_id)
        )
        if weighing.back_id is not None or saw != str(weighing.output_id):
            raise Refused(
                f"Move: this page saw {weighing} on {_name_shown(rows, saw)}; it is now {stands}."
                " Nothing was moved. Look again."
            )
        _move(rows, [weighing], target, by_id)
    return _laid_again(test_id)


def merge_piles(test_id: UUID, away: str, into: str, saw: str, by_id: int | None) -> TestRows:
    """All of one pile goes onto another, and the first is no longer shown.

    `saw`: what the page showed of it, as `sum_of`. Raises Refused with both versions when it
    changed since.
    """
    with write():
        rows = open_rows(test_id, "the piles stay")
        gone, target = _pile_shown(rows, away, "Merge"), _pile_shown(rows, into, "Merge")
        if gone.pk == target.pk:
            raise BadInput("Merge: choose two different piles.")
        if saw != sum_of(rows, gone):
            raise Refused(
                f"Merge: this page saw {gone} with {saw[:60] or 'nothing'}; it now has"
                f" {sum_of(rows, gone)}. Nothing was merged. Look again."
            )
        _move(rows, rows.of(gone), target, by_id, gone=gone)
        _expect_more(target, gone, 1)
        gone.merged_into = target
        Output.objects.bulk_update([gone, target], ["merged_into", *SHARES])
    return _laid_again(test_id)


def unmerge(test_id: UUID, pile: str, by_id: int | None) -> TestRows:
    """Undo a merge: the pile is shown again with what came from it. Twice: no change."""
    with write():
        rows = open_rows(test_id, "the piles stay")
        again = next((o for o in rows.outputs if str(o.pk) == pile), None)
        if again is None:
            raise BadInput("Merge: there is no such pile in this test.")
        if again.merged_into_id is None:
            return rows
        target = next(o for o in rows.outputs if o.pk == again.merged_into_id)
        if target.merged_into_id is not None:
            later = next(o for o in rows.outputs if o.pk == target.merged_into_id)
            raise Refused(f"Merge: {target} was merged into {later} since; undo that merge first.")
        merges = _merges_that_hold(rows)
        came = [
            w
            for w in rows.standing
            if w.pk in merges
            and w.output_id == target.pk
            and merges[w.pk].merged_from_id == again.pk
        ]
        _move(rows, came, again, by_id, undoes=merges)
        _expect_more(target, again, -1)
        again.merged_into = None
        Output.objects.bulk_update([again, target], ["merged_into", *SHARES])
    return _laid_again(test_id)


def _expect_more(target: Output, other: Output, sign: int) -> None:
    """What is expected of one pile goes onto another (1) or off it again (-1), by either of two
    plans too, so that a split that moves later knows of the merge."""
    for name in SHARES:
        ours, theirs = getattr(target, name), getattr(other, name)
        if theirs is not None:  # a pile that was added at the block is expected by no plan
            setattr(target, name, (ours or ZERO) + sign * theirs)


def _merges_that_hold(rows: TestRows) -> dict[int, Move]:
    """The move of the last merge of each weighing that was neither undone nor moved on by hand."""
    holding: dict[int, list[Move]] = {}
    for move in Move.objects.filter(weighing__test=rows.test).order_by("id"):
        merges = holding.setdefault(move.weighing_id, [])
        if move.undoes_id is not None:
            del merges[-1:]
        elif move.merged_from_id is not None:
            merges.append(move)
        else:
            merges.clear()
    return {pk: merges[-1] for pk, merges in holding.items() if merges}


def _laid_again(test_id: UUID) -> TestRows:
    rows = load_known(test_id)
    lay_again(rows)
    return rows


def _move(
    rows: TestRows,
    weighings: list[Weighing],
    to: Output,
    by_id: int | None,
    *,
    gone: Output | None = None,
    undoes: dict[int, Move] | None = None,
) -> None:
    now = timezone.now()
    moves = Move.objects.bulk_create(
        Move(
            weighing=weighing,
            to=to,
            merged_from=gone,
            at=now,
            by_id=by_id,
            undoes=undoes[weighing.pk] if undoes else None,
        )
        for weighing in weighings
    )
    carry(Acting(rows.test, by_id, now), moves, to)
    touch(rows.test)


def _pile_shown(rows: TestRows, wanted: str, field: str) -> Output:
    output = next((o for o in rows.piles if str(o.pk) == wanted), None)
    if output is None:
        raise BadInput(f"{field}: choose one of the piles shown.")
    return output


def _name_shown(rows: TestRows, wanted: object) -> str:
    found = next((o.name for o in rows.outputs if str(o.pk) == str(wanted)), "no pile")
    return f"“{found}”"
