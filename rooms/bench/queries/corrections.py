"""A corrected sheet in its versions: what each correction changed, and the sheet before it."""

import copy
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from cutting.sheet.cutting_test import Role
from rooms.bench.models import Correction, CuttingTest, Output, Weighing
from rooms.bench.queries.facts import FACTS, valued
from rooms.bench.queries.rows import TestRows


@dataclass(frozen=True)
class Change:
    """One line: what, as it was, as it is; empty where there was or is nothing."""

    what: str
    was: str
    now: str


def corrections_of(test: CuttingTest) -> list[Correction]:
    """One query."""
    return list(test.corrections.select_related("by"))


def as_it_was(rows: TestRows, corrections: Sequence[Correction], version: int) -> TestRows:
    """The rows after `version` corrections; 0 is the sheet as it was finished."""
    later = [one for one in corrections if one.number > version]
    if not later:
        return rows
    ids = {one.pk for one in later}
    test = copy.copy(rows.test)
    outputs = {output.pk: copy.copy(output) for output in rows.outputs}
    for correction in reversed(later):
        for name, value in correction.before.items():
            row, field = (outputs[pk], "credit") if (pk := valued(name)) else (test, name)
            setattr(row, field, None if value is None else Decimal(value))
    weighings = []
    for weighing in rows.weighings:
        if weighing.correction_id in ids:
            continue
        if weighing.back_correction in ids:
            weighing = copy.copy(weighing)  # noqa: PLW2901
            weighing.back_id = weighing.back_correction = None
        weighings.append(weighing)
    return TestRows(test, list(outputs.values()), weighings)


def changes_of(
    rows: TestRows, corrections: Sequence[Correction], correction: Correction
) -> list[Change]:
    """What one correction changed, in the order of the sheet."""
    then = as_it_was(rows, corrections, correction.number)
    names = {output.pk: output for output in then.outputs}
    found = []
    for name, was in correction.before.items():
        if pk := valued(name):
            label, now = f"Value of {names[pk]} a {names[pk].price_per}", names[pk].credit
        else:
            label, now = FACTS[name], getattr(then.test, name)
        found.append(Change(label, _fact(was), _fact(_text(now))))
    added = [w for w in rows.weighings if w.correction_id == correction.pk]
    for weighing in rows.weighings:
        if weighing.back_correction == correction.pk:
            instead = next((w for w in added if w.instead_of_id == weighing.pk), None)
            if instead is not None:
                added.remove(instead)
            found.append(Change(names[weighing.output_id].name, str(weighing), str(instead or "")))
    return found + [Change(_pile(names, one), "", str(one)) for one in added]


def _pile(names: dict[int, Output], weighing: Weighing) -> str:
    return names[weighing.output_id].name


def _fact(value: str | None) -> str:
    return "" if value is None else value


def _text(value: Decimal | None) -> str | None:
    return None if value is None else f"{value:f}"


@dataclass(frozen=True)
class Field:
    """One field of the correction's form: its name, label, what the sheet has, what was typed."""

    name: str
    label: str
    stands: str
    value: str

    @property
    def help(self) -> str:
        """What the sheet says, where something else was typed."""
        return "" if self.value == self.stands else f"on the sheet: {self.stands or 'nothing'}"


@dataclass(frozen=True)
class Form:
    facts: list[Field]
    values: list[Field]
    """What a pound of each by-product is worth on this sheet."""
    piles: list[tuple[Output, list[Field], Field]]
    """Each pile with its weighings, and the field for one that was missed."""


def correction_form(rows: TestRows, typed: Mapping[str, str]) -> Form:
    """The sheet as fields. What was typed before a refusal stands in them."""

    def field(name: str, label: str, stands: str) -> Field:
        return Field(name, label, stands, typed.get(name, stands))

    facts = [
        field(f"fact-{name}", label, _fact(_text(getattr(rows.test, name))))
        for name, label in FACTS.items()
    ]
    values = [
        field(f"value-{output.pk}", f"{output}, a {output.price_per}", _fact(_text(output.credit)))
        for output in rows.piles
        if output.role == Role.CREDIT
    ]
    piles = [
        (
            output,
            [field(f"weighing-{w.pk}", w.unit, f"{w.value:f}") for w in rows.of(output)],
            field(f"missed-{output.pk}", rows.test.weight_unit, ""),
        )
        for output in rows.piles
    ]
    return Form(facts, values, piles)
