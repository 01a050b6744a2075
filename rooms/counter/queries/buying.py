"""What to buy: two to six specifications beside each other, from tests or typed."""

from dataclasses import dataclass
from decimal import Decimal

from django.conf import settings

from cutting.errors import BadValue
from cutting.plans.buying import MOST, Bought, Mark, Spec, compare, picture
from cutting.words.pencil import Pencil
from cutting.words.plan import buy_pencil
from rooms.counter.queries.planning import (
    Group,
    TestsGave,
    Typed,
    as_share,
    gave,
    groups,
    plain_message,
)


@dataclass(frozen=True)
class SpecRow:
    """One specification's fields: as typed, and what its tests say."""

    at: int
    name: str
    group: str
    price: str
    ready: str
    minutes: str
    credits: str
    gave: TestsGave | None
    faults: list[str]


@dataclass(frozen=True)
class BuyView:
    rows: list[SpecRow]
    groups: list[Group]
    rate: str
    answer: list[tuple[Bought, Mark, Pencil]]
    faults: list[str]

    @property
    def doubt(self) -> str:
        """Why the answer is not sure; empty when it is."""
        if self.best is None or self.best.is_sure:
            return ""
        if any(one.spec.low is None for one, _, _ in self.answer):
            return "A single test or an assumption has no spread, so it is not sure."
        return "The spread of the tests is larger than the difference, so it is not sure."

    @property
    def best(self) -> Bought | None:
        return next((one for one, _, _ in self.answer if one.is_best), None)


def buy_view(data, said: dict[str, str] | None = None, every: list[Group] | None = None) -> BuyView:
    """Usual values come from the tests of the chosen groups; without fields, from the first
    piece that has tests of several suppliers. `said`: what the groups were called when it was
    kept; `every`: all groups, where they are known already."""
    typed, found = Typed(data), groups() if every is None else every
    usual = _first_choice(found) if not any(name.startswith("group-") for name in data) else []
    by_key = {group.key: group for group in found}
    rate = typed.number("rate", "Labour, an hour", settings.SHOP["labour_rate"], least=0, most=1000)
    rows, specs = [], []
    for at in range(MOST):
        key = typed.text(f"group-{at}", usual[at].key if at < len(usual) else "")
        row, spec = _row(at, typed, by_key.get(key))
        if key and key not in by_key:
            gone = (said or {}).get(f"group-{at}", f"the tests of row {at + 1}")
            row.faults.append(f"{gone}: there are no such tests now; choose others, or type.")
        rows.append(row)
        if spec is not None:
            specs.append(spec)
    faults = [fault for row in rows for fault in row.faults]
    faults += [typed.faults["rate"]] if "rate" in typed.faults else []
    answer: list[tuple[Bought, Mark, Pencil]] = []
    if not faults and rate is not None and len(specs) > 1:
        bought = compare(specs, rate)
        pencils = [buy_pencil(one, rate) for one in bought]
        answer = list(zip(bought, picture(bought), pencils, strict=True))
    return BuyView(rows, found, typed.text("rate", settings.SHOP["labour_rate"]), answer, faults)


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


def _row(at: int, typed: Typed, group: Group | None) -> tuple[SpecRow, Spec | None]:
    known = gave(group) if group else None
    name = typed.text(f"name-{at}") or (group.name.partition(":")[0] if group else "")
    label = name or f"specification {at + 1}"
    before = set(typed.faults)
    price = typed.number(f"price-{at}", f"{label}, price", above=0, most=1000)
    ready = as_share(typed.number(f"ready-{at}", f"{label}, yield", above=0, most=100))
    minutes = typed.number(f"minutes-{at}", f"{label}, minutes", least=0, most=600)
    credits = typed.number(f"credits-{at}", f"{label}, credits", least=0, most=1000)
    faults = [text for field, text in typed.faults.items() if field not in before]
    spec = None
    if name and not faults:
        price = price if price is not None else (known.price if known else None)
        share = ready if ready is not None else (known.ready.share if known else None)
        if price is None:
            faults.append(f"{label}, price: it is empty; what a lb of it costs is right.")
        elif share is None:
            faults.append(f"{label}, yield: it is empty; the percent that is ready is right.")
        else:
            spec, fault = _spec(label, known, (price, share, ready is None), (minutes, credits))
            faults += [fault] if fault else []
    row = SpecRow(
        at,
        typed.text(f"name-{at}"),
        group.key if group else "",
        typed.text(f"price-{at}"),
        typed.text(f"ready-{at}"),
        typed.text(f"minutes-{at}"),
        typed.text(f"credits-{at}"),
        known,
        faults,
    )
    return row, spec


def _spec(
    label: str, known: TestsGave | None, sized: tuple, extra: tuple
) -> tuple[Spec | None, str]:
    price, share, from_tests = sized
    minutes, credits = extra
    spread = known.ready if known and from_tests else None
    try:
        return Spec(
            label,
            price,
            share,
            minutes if minutes is not None else (known and known.minutes) or Decimal(0),
            credits if credits is not None else (known and known.credits) or Decimal(0),
            spread.low if spread else None,
            spread.high if spread else None,
            known.tests if spread else 0,
        ), ""
    except BadValue as bad:
        return None, plain_message(bad)
