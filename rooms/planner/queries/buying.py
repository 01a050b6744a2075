"""What to buy: two to six specifications beside each other, from tests or typed."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from cutting.errors import BadValue
from cutting.planning.buying import MOST, Bought, Mark, Spec, TestsGave, compare, picture
from cutting.quantities import ZERO
from rooms.common.errors import BadInput
from rooms.common.web.formsets import faults_of, rows_of
from rooms.planner.queries.costed import Group, gave, groups, plain_message
from rooms.planner.queries.plan_fields import BuyForm, SpecRow
from rooms.shop.queries.current import house
from wording.pencil import Pencil
from wording.plan import buy_pencil


@dataclass(frozen=True)
class SpecLine:
    """One specification's row: its fields, what its tests say, what is wrong."""

    fields: SpecRow
    gave: TestsGave | None
    faults: list[str]


@dataclass(frozen=True)
class Compared:
    """One specification in the answer, with its bar and its working."""

    one: Bought
    mark: Mark
    pencil: Pencil


@dataclass(frozen=True)
class BuyView:
    rows: list[SpecLine]
    form: BuyForm
    answer: list[Compared]
    faults: list[str]

    @property
    def doubt(self) -> str:
        """Why the answer is not sure; empty when it is."""
        if self.best is None or self.best.is_sure:
            return ""
        if any(each.one.spec.low is None for each in self.answer):
            return "A single test or an assumption has no spread, so it is not sure."
        return "The spread of the tests is larger than the difference, so it is not sure."

    @property
    def best(self) -> Bought | None:
        return next((each.one for each in self.answer if each.one.is_best), None)


def buy_view(
    data: Any, said: dict[str, str] | None = None, every: list[Group] | None = None
) -> BuyView:
    """Usual values come from the tests of the chosen groups; without fields, from the first
    piece that has tests of several suppliers. `said`: what the groups were called when it was
    kept; `every`: all groups, where they are known already."""
    found = groups() if every is None else every
    usual = _first_choice(found) if not any(name.startswith("group-") for name in data) else []
    data = {f"group-{at}": group.key for at, group in enumerate(usual)} | dict(data.items())
    by_key = {group.key: group for group in found}
    form, rows, specs = BuyForm(data), [], []
    choices = [(group.key, group.name) for group in found]
    for fields in rows_of(SpecRow, data, range(MOST), groups=choices):
        key = (fields["group"].value() or "").strip()
        row, spec = _row(fields, by_key.get(key))
        if key and key not in by_key:
            number = int(fields.prefix) + 1
            gone = (said or {}).get(f"group-{fields.prefix}", f"the tests of row {number}")
            row.faults.append(f"{gone}: there are no such tests now; choose others, or type.")
        rows.append(row)
        if spec is not None:
            specs.append(spec)
    faults = [fault for row in rows for fault in row.faults] + faults_of(form)
    answer: list[Compared] = []
    if not faults and len(specs) > 1:
        rate = form.cleaned_data["rate"]
        bought = compare(specs, rate)
        pencils = [buy_pencil(one, rate) for one in bought]
        answer = [Compared(*each) for each in zip(bought, picture(bought), pencils, strict=True)]
    return BuyView(rows, form, answer, faults)


def _first_choice(found: list[Group]) -> list[Group]:
    """The suppliers of the piece whose second supplier has most tests."""
    by_plan: dict[tuple[str, str], list[Group]] = {}
    for group in found:
        piece, plan, supplier, _ = group.key.split("|")
        if supplier:
            by_plan.setdefault((piece, plan), []).append(group)
    several = [
        sorted(some, key=lambda group: -len(group.tests))
        for some in by_plan.values()
        if len(some) > 1
    ]
    return max(several, key=lambda some: len(some[1].tests), default=[])[:MOST]


def _row(fields: SpecRow, group: Group | None) -> tuple[SpecLine, Spec | None]:
    known = gave(group) if group else None
    if known is not None:
        fields.hint(known)
    name = (fields["name"].value() or "").strip() or (group.name.partition(":")[0] if group else "")
    label = name or f"specification {int(fields.prefix) + 1}"
    faults, spec = fields.faults(label), None
    if name and not faults:
        try:
            spec = _spec(label, known, **fields.cleaned_data)
        except BadInput as missing:
            faults.append(missing.message)
        except BadValue as bad:
            faults.append(plain_message(bad))
    return SpecLine(fields, known, faults), spec


def _spec(
    label: str,
    known: TestsGave | None,
    *,
    price: Decimal | None = None,
    ready: Decimal | None = None,
    minutes: Decimal | None = None,
    credits: Decimal | None = None,
    **_: object,
) -> Spec:
    """What was typed, else what the tests say. BadInput for what neither says."""
    spread = known.ready if known and ready is None else None
    if price is None:
        price = known.price if known else None
    if ready is None:
        ready = known.ready.share if known else None
    if price is None:
        raise BadInput(
            f"{label}, price: it is empty; what one {house().unit} of it costs is right."
        )
    if ready is None:
        raise BadInput(f"{label}, yield: it is empty; the percent that is ready is right.")
    return Spec(
        label,
        price,
        ready,
        minutes if minutes is not None else (known and known.minutes) or ZERO,
        credits if credits is not None else (known and known.credits) or ZERO,
        spread.low if spread else None,
        spread.high if spread else None,
        known.tests if known and spread else 0,
    )
