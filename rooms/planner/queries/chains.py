"""The plans that plans go on into: their outputs, to any depth, and the way through them."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from django.db.models import Q, QuerySet

from cutting.quantities import ZERO
from cutting.sheet.cutting_test import same_name
from cutting.sheet.yields import Pooled, by_name, pooled_shares
from cutting.ways.chain import CarriedOn, Given, carry_on
from rooms.bench.queries.rows import TestRows
from rooms.catalog.models import Piece, Plan, PlanOutput

MOST_DEEP = 8
"""A way that is longer comes back to itself; one query for each step of it."""


@dataclass(frozen=True)
class Plans:
    """Plans with their outputs, those they go on into as well. By the address of the plan."""

    plans: dict[str, Plan]
    outputs: dict[str, list[PlanOutput]]

    @property
    def rows(self) -> list[PlanOutput]:
        return [row for rows in self.outputs.values() for row in rows]

    def goes_on(self, plan: Plan) -> bool:
        """Whether any output of a plan is cut on by a plan that is there."""
        return any(row.goes_on in self.outputs for row in self.outputs.get(plan.address, ()))

    def shares(self, tests: Mapping[int, list[TestRows]]) -> dict[str, dict[str, Decimal]]:
        """What every plan gives, by its address and the output's name. `tests`: by the plan's id."""
        return {
            address: shares_of(rows, tests.get(self.plans[address].pk))
            for address, rows in self.outputs.items()
        }

    def cut(self, through: CarriedOn[PlanOutput]) -> list[tuple[Plan, Decimal]]:
        """The plans on a way, each with its share of what the first one cuts."""
        return [(self.plans[address], share) for address, share in through.cut]

    def through(self, plan: Plan, shares: dict[str, dict[str, Decimal]]) -> CarriedOn[PlanOutput]:
        """The way through a plan and those it goes on into. `shares`: by the address of a plan and the
        output's name. Raises BadValue where it comes back to itself."""
        given = {
            address: [Given(row.name, shares[address][row.name], row, row.goes_on) for row in rows]
            for address, rows in self.outputs.items()
        }
        return carry_on(plan.address, given)


def pooled_of(tests: list[TestRows] | None) -> dict[str, Pooled]:
    """The share of each pile that the tests of a plan gave, by its folded name."""
    if not tests:
        return {}
    cores = [rows.weighed for rows in tests]
    return pooled_shares([(core, by_name(core)) for core in cores])


def shares_of(rows: Sequence[PlanOutput], tests: list[TestRows] | None) -> dict[str, Decimal]:
    """The share of each output by the shop's tests, where there are none the usual one."""
    known = {name: one.share for name, one in pooled_of(tests).items()}
    return {
        row.name: (known.get(same_name(row.name), ZERO) if known else row.share) or ZERO
        for row in rows
    }


def with_what_follows(plans: Sequence[Plan]) -> Plans:
    """These plans and all they go on into: one query, and two for each depth. Their piece is loaded."""
    found = Plans({}, {})
    new = list(plans)
    for _ in range(MOST_DEEP):
        by_id = {plan.pk: plan for plan in new}
        found.plans.update({plan.address: plan for plan in new})
        rows = PlanOutput.objects.filter(plan__in=by_id)
        more = list(rows.order_by("plan_id", "position", "id"))
        for row in more:
            row.plan = by_id[row.plan_id]
            found.outputs.setdefault(row.plan.address, []).append(row)
        missing = {row.goes_on for row in more if row.goes_on} - found.plans.keys()
        new = _plans_at(missing) if missing else []
        if not new:
            break
    return found


def _plans_at(addresses: Iterable[str]) -> list[Plan]:
    """The plans of these addresses that are there: one query."""
    wanted = Q()
    for address in sorted(addresses):
        piece, _, key = address.partition("/")
        wanted |= Q(piece__key=piece, key=key)
    rows = Plan.objects.filter(wanted, piece__is_dropped=False).select_related("piece")
    return list(rows.defer(*Piece.guide_by("piece")))


def pieces_that_go_on() -> set[int]:
    """The ids of pieces with a plan that goes on: one query."""
    return set(_going_on().values_list("plan__piece_id", flat=True))


def goes_on_into(piece: Piece) -> list[Piece]:
    """The pieces that the plans of a piece go on into, by their names: two queries."""
    rows = _going_on().filter(plan__piece=piece).values_list("goes_on", flat=True)
    keys = {address.partition("/")[0] for address in rows}
    if not keys:
        return []
    return list(Piece.objects.filter(key__in=keys).order_by("name").only(*Piece.LISTED))


def goes_on(plan: Plan) -> bool:
    """Whether a plan goes on into any other: one query."""
    return _going_on().filter(plan=plan).exists()


def _going_on() -> QuerySet[PlanOutput]:
    return PlanOutput.objects.filter(plan__is_dropped=False).exclude(goes_on="")
