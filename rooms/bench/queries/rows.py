"""A test's rows, loaded together, and the core's test made from them."""

from dataclasses import dataclass
from decimal import Decimal
from functools import cached_property
from typing import Any
from uuid import UUID

from django.db.models import prefetch_related_objects

from cutting.quantities import Unit, UnitPrice, Weight
from cutting.sheet import cutting_test as core
from rooms.bench.models import UNIT, CuttingTest, Output, Weighing
from rooms.common.db.loading import Loading
from rooms.common.errors import BadInput, Refused
from rooms.shop.queries.dates import said_moment
from rooms.staff.models import Person

ROLE = {role.value: role for role in core.Role}


@dataclass
class TestRows:
    """One test with its piles and every weighing, taken back or not, in order.

    What is worked out from the rows is kept, so they are not changed in place: an action that adds or
    moves a row returns new TestRows.
    """

    test: CuttingTest
    outputs: list[Output]
    weighings: list[Weighing]
    laid: Any = None
    """The layout it is cut by with these rows, once it was asked for: a `queries.laid.Standing`."""

    __test__ = False

    @cached_property
    def standing(self) -> list[Weighing]:
        """Weighings that count."""
        return [weighing for weighing in self.weighings if weighing.back_id is None]

    @cached_property
    def by_output(self) -> dict[int, list[Weighing]]:
        """Standing weighings by the id of their output."""
        found: dict[int, list[Weighing]] = {}
        for weighing in self.standing:
            found.setdefault(weighing.output_id, []).append(weighing)
        return found

    @cached_property
    def weighed(self) -> core.CuttingTest:
        """The core's test of the piles that hold something, as on a sheet."""
        return _to_core(self, [output for output in self.outputs if output.pk in self.by_output])

    @cached_property
    def whole(self) -> core.CuttingTest:
        """The core's test of every pile, the empty ones too."""
        return _to_core(self, self.outputs)

    @property
    def piles(self) -> list[Output]:
        """The piles that are shown: not those merged into another."""
        return [output for output in self.outputs if output.merged_into_id is None]

    @property
    def revision(self) -> int:
        """Only grows, with every action: what a page has seen."""
        return self.test.revision

    def of(self, output: Output) -> list[Weighing]:
        return self.by_output.get(output.pk, [])


UNPLACED = (
    "EXISTS (SELECT 1 FROM bench_unplaced WHERE NOT EXISTS"
    " (SELECT 1 FROM bench_placed WHERE bench_placed.unplaced_id = bench_unplaced.id))"
)
"""Whether any weighing of the shop waits for a hand: asked along with the test, not by a query of its own."""
ONE_TEST = Loading(CuttingTest, "WHERE id = %s", also={"unplaced_waits": UNPLACED})
OUTPUTS = Loading(Output, "WHERE test_id IN ({all}) ORDER BY test_id, position")
MOVES = "FROM bench_move move WHERE move.weighing_id = bench_weighing.id"
WEIGHINGS = Loading(
    Weighing,
    "LEFT JOIN bench_takeback back ON back.weighing_id = bench_weighing.id"
    " WHERE bench_weighing.test_id IN ({all}) ORDER BY bench_weighing.id",
    also={
        "back_id": "back.id",
        "back_correction": "back.correction_id",
        "moved_id": f"(SELECT move.to_id {MOVES} ORDER BY move.id DESC LIMIT 1)",
    },
)


def load(test_id: UUID, *, people: bool = False, lock: bool = False) -> TestRows | None:
    """Three queries, whatever the size of the test. `people`: one more for who cut and approved.

    `lock`: nobody else changes the test before the transaction ends.
    """
    key = test_id.hex
    tests = ONE_TEST(key, lock=lock)
    if not tests:
        return None
    if people:
        _name_people(tests[0])
    outputs = OUTPUTS(key)
    if any(output.tub_id for output in outputs):
        prefetch_related_objects(outputs, "tub")
    return TestRows(tests[0], outputs, [_where_it_lies(w) for w in WEIGHINGS(key)])


def load_known(test_id: UUID) -> TestRows:
    """As `load`, of a test that is known to be there."""
    rows = load(test_id)
    if rows is None:
        raise CuttingTest.DoesNotExist(test_id)
    return rows


def must_load(test_id: UUID) -> TestRows:
    """As `load`, for an action, locked. Raises BadInput when there is no such test."""
    rows = load(test_id, lock=True)
    if rows is None:
        raise BadInput("Test: there is no such test.")
    return rows


def must_be_open(test: CuttingTest, consequence: str) -> None:
    """Refuse a change to a finished test, saying what was not done."""
    if test.voided_at is not None:
        raise Refused(f"Test {test.number} was voided; {consequence}.")
    if not test.is_open:
        when = said_moment(test.finished_at, whole=True)
        raise Refused(f"This test was finished on {when}; {consequence}.")


def _name_people(test: CuttingTest) -> None:
    """Who cut and who approved, in one query."""
    wanted = {test.cutter_id, test.approved_by_id} - {None}
    people = Person.objects.in_bulk(wanted) if wanted else {}
    test.cutter, test.approved_by = people.get(test.cutter_id), people.get(test.approved_by_id)


def _where_it_lies(weighing: Weighing) -> Weighing:
    """On the pile it was moved to; `first_output_id` is where it was taken."""
    weighing.first_output_id = weighing.output_id
    if weighing.moved_id is not None:
        weighing.output_id = weighing.moved_id
    return weighing


def just_taken(weighing: Weighing) -> Weighing:
    """A new row as `load` would give it."""
    weighing.back_id = weighing.back_correction = weighing.moved_id = None
    weighing.first_output_id = weighing.output_id
    weighing.is_new = True
    return weighing


def load_all(tests: list[CuttingTest]) -> list[TestRows]:
    """Two queries for any number of tests."""
    rows = {test.pk: TestRows(test, [], []) for test in tests}
    keys = [test.pk.hex for test in tests]
    for output in OUTPUTS(*keys) if keys else ():
        rows[output.test_id].outputs.append(output)
    for weighing in WEIGHINGS(*keys) if keys else ():
        rows[weighing.test_id].weighings.append(_where_it_lies(weighing))
    return list(rows.values())


def _to_core(rows: TestRows, outputs: list[Output]) -> core.CuttingTest:
    return core.CuttingTest(
        piece=to_piece(rows.test),
        scale_division=Weight(rows.test.division_value, Unit(rows.test.division_unit)),
        outputs=tuple([_to_output(output, rows.of(output)) for output in outputs]),
        sawn=rows.test.is_sawn,
        labour_rate=rows.test.labour_rate,
    )


def to_piece(test: CuttingTest) -> core.Piece:
    opened = None
    if test.opened_value is not None:
        opened = Weight(test.opened_value, Unit(test.opened_unit))
    return core.Piece(
        weight=Weight(test.weight_value, Unit(test.weight_unit)),
        price=UnitPrice(test.price_amount, Unit(test.price_per)),
        name=test.piece_name,
        species=test.species,
        item_number=test.item_number,
        opened_weight=opened,
        freight=test.freight,
        discount=test.discount,
    )


def portions(output: Output, weighings: list[Weighing]) -> int | None:
    """How many portions a counted pile holds; None for a pile that is only weighed."""
    if not output.is_counted or not weighings:
        return None
    return sum(w.portions or 1 for w in weighings)


def target(output: Output) -> Weight | None:
    if output.target_value is None:
        return None
    return Weight(output.target_value, Unit(output.target_unit))


def _to_output(output: Output, weighings: list[Weighing]) -> core.Output:
    per = UNIT[output.price_per]

    def price(amount: Decimal | None) -> UnitPrice | None:
        return None if amount is None else UnitPrice(amount, per)

    return core.Output(
        name=output.name,
        role=ROLE[output.role],
        weighings=tuple([weighing.reading for weighing in weighings]),
        count=portions(output, weighings),
        target=target(output),
        retail=price(output.retail),
        credit=price(output.credit),
        replacement=price(output.replacement),
        in_case=output.in_case,
        minutes=output.minutes,
    )


def open_rows(test_id: UUID, consequence: str) -> TestRows:
    """The rows of an open test. Raises BadInput or Refused."""
    rows = must_load(test_id)
    must_be_open(rows.test, consequence)
    return rows
