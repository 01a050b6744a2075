"""A test's rows, loaded together, and the core's test made from them."""

from dataclasses import dataclass
from decimal import Decimal
from uuid import UUID

from cutting import cutting_test as core
from cutting.quantities import Unit, UnitPrice, Weight
from rooms.bench.models import CuttingTest, Output, Weighing


@dataclass
class TestRows:
    """One test with its piles and every weighing, taken back or not, in order."""

    test: CuttingTest
    outputs: list[Output]
    weighings: list[Weighing]

    __test__ = False

    @property
    def standing(self) -> list[Weighing]:
        """Weighings that count."""
        return [w for w in self.weighings if not is_taken_back(w)]

    @property
    def revision(self) -> int:
        """Grows with every weighing and every take-back: what a page has seen."""
        return 2 * len(self.weighings) - len(self.standing)

    def of(self, output: Output) -> list[Weighing]:
        return [w for w in self.standing if w.output_id == output.pk]


def is_taken_back(weighing: Weighing) -> bool:
    return getattr(weighing, "taken_back", None) is not None


def load(test_id: UUID) -> TestRows | None:
    """Three queries, whatever the size of the test."""
    test = CuttingTest.objects.filter(pk=test_id).select_related("cutter", "approved_by").first()
    if test is None:
        return None
    return load_all([test])[0]


def load_all(tests: list[CuttingTest]) -> list[TestRows]:
    """Two queries for any number of tests."""
    rows = {test.pk: TestRows(test, [], []) for test in tests}
    for output in Output.objects.filter(test__in=tests).order_by("test_id", "position"):
        rows[output.test_id].outputs.append(output)
    weighings = Weighing.objects.filter(test__in=tests).select_related("taken_back")
    for weighing in weighings.order_by("id"):
        rows[weighing.test_id].weighings.append(weighing)
    return list(rows.values())


def to_core(rows: TestRows, *, weighed_only: bool) -> core.CuttingTest:
    """The core's test. `weighed_only` leaves out piles with nothing in them, as on a sheet."""
    taken: dict[int, list[Weighing]] = {}
    for weighing in rows.standing:
        taken.setdefault(weighing.output_id, []).append(weighing)
    return core.CuttingTest(
        piece=to_piece(rows.test),
        scale_division=Weight(rows.test.division_value, Unit(rows.test.division_unit)),
        outputs=tuple(
            _to_output(output, taken.get(output.pk, []))
            for output in rows.outputs
            if output.pk in taken or not weighed_only
        ),
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
    per = Unit(output.price_per)

    def price(amount: Decimal | None) -> UnitPrice | None:
        return None if amount is None else UnitPrice(amount, per)

    return core.Output(
        name=output.name,
        role=core.Role(output.role),
        weighings=tuple(
            core.Weighing(
                Weight(w.value, Unit(w.unit)),
                None if w.division is None else Weight(w.division, Unit(w.unit)),
            )
            for w in weighings
        ),
        count=portions(output, weighings),
        target=target(output),
        retail=price(output.retail),
        credit=price(output.credit),
        replacement=price(output.replacement),
        in_case=output.in_case,
        minutes=output.minutes,
    )
