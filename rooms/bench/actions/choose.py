"""What is chosen for one test at the block: target, thickness, tray, fat, by-product values."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.utils import timezone

from cutting.errors import BadValue
from cutting.quantities import HUNDRED, Unit, Weight, parse_decimal, storable_money
from cutting.sheet.choices import FAT_LEVELS, check_target, check_thickness
from cutting.sheet.cutting_test import Role
from cutting.sheet.trays import MOST_IN_A_TRAY, usual_size
from cutting.ways.two_plans import check_split, share_at
from rooms.bench.actions.move import open_rows
from rooms.bench.actions.revision import touch
from rooms.bench.models import Choice, CuttingTest, Output
from rooms.bench.queries.rows import TestRows, load_known
from rooms.common.db.keys import own_key
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput, NotAllowed
from rooms.common.web.forms import tidy
from rooms.pricebook.models import Product
from rooms.shop.queries.current import house
from rooms.staff.models import Person
from rooms.staff.rights import Right
from wording.pencil import percent

TARGET, THICKNESS, TRAY, FAT, VALUE = "target", "thickness", "tray", "fat", "value"
SPLIT = "split"
OF_THE_TEST = (FAT, SPLIT)
MOST_VALUE = Decimal(1000)


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
