"""A mixed-integer programme of HiGHS: columns of 0 or more, rows, and one aim after the other.

Only the solver's own process and the command line load it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar

import highspy

Terms = dict[int, float]
"""The factor of each column, by its number."""
INFINITE = highspy.kHighsInf
SLACK = 1e-7
"""How far an earlier aim may give way in floating point; choices are compared in decimals."""


class OutOfTime(Exception):
    """The solver did not prove its answer in the time it had."""


_IS_UNWANTED: ContextVar[Callable[[], bool] | None] = ContextVar("is_unwanted", default=None)


@contextmanager
def until(is_unwanted: Callable[[], bool]) -> Iterator[None]:
    """Programmes that are solved inside stop soon after this says so, as if their time were over."""
    token = _IS_UNWANTED.set(is_unwanted)
    try:
        yield
    finally:
        _IS_UNWANTED.reset(token)


def begin() -> None:
    """Load the solver; its library writes its name to standard output once."""
    highspy.Highs()


class Programme:
    """Columns and rows; solved with gap 0 on one core."""

    def __init__(self, seconds: float) -> None:
        self.solver = highspy.Highs()
        for name, value in (
            ("output_flag", False),
            ("mip_rel_gap", 0.0),
            ("mip_abs_gap", 0.0),
            ("threads", 1),
            ("mip_allow_restart", False),  # half the time, measured on days of forty bags
            ("time_limit", seconds),
            ("mip_feasibility_tolerance", 1e-9),
            ("primal_feasibility_tolerance", 1e-9),
        ):
            self.solver.setOptionValue(name, value)
        self.is_unwanted = _IS_UNWANTED.get()
        if self.is_unwanted is not None:
            self.solver.setCallback(self._stop, None)
            self.solver.startCallback(highspy.cb.HighsCallbackType.kCallbackMipInterrupt)

    def _stop(
        self, _kind: object, _words: str, _out: object, answer: object, _data: object
    ) -> None:
        """The solver asks now and then whether it is to go on."""
        if answer is not None and self.is_unwanted is not None and self.is_unwanted():
            answer.user_interrupt = True  # type: ignore[attr-defined]

    def column(self, upper: float = INFINITE) -> int:
        """The number of a new column from 0 to `upper`."""
        number: int = self.solver.getNumCol()
        self.solver.addVar(0.0, upper)
        return number

    def whole(self, upper: float = 1.0) -> int:
        """The same in whole numbers."""
        number = self.column(upper)
        self.solver.changeColIntegrality(number, highspy.HighsVarType.kInteger)
        return number

    def row(self, low: float, high: float, terms: Mapping[int, float]) -> None:
        kept = {column: value for column, value in terms.items() if value}
        self.solver.addRow(low, high, len(kept), list(kept), list(kept.values()))

    def at_most(self, high: float, terms: Mapping[int, float]) -> None:
        self.row(-INFINITE, high, terms)

    def aim(self, terms: Mapping[int, float]) -> None:
        """Make this sum the smallest.

        It begins anew each time: begun from the answer before, the library took 5 of 600 small days
        for proven that were not (HiGHS 1.16; tests/cutting/planning/test_day.py would find it).
        """
        for column in range(self.solver.getNumCol()):
            self.solver.changeColCost(column, terms.get(column, 0.0))
        if self.is_unwanted is not None and self.is_unwanted():
            raise OutOfTime("nobody waits for it any more")
        self.solver.run()

    def hold(self, terms: Mapping[int, float], at: float) -> None:
        """An aim that is reached gives way no more."""
        self.at_most(at + SLACK * max(1.0, abs(at) / 1000), terms)

    @property
    def is_impossible(self) -> bool:
        return self.solver.getModelStatus() in (
            highspy.HighsModelStatus.kInfeasible,
            highspy.HighsModelStatus.kUnboundedOrInfeasible,
        )

    @property
    def is_proven(self) -> bool:
        return bool(self.solver.getModelStatus() == highspy.HighsModelStatus.kOptimal)

    @property
    def has_answer(self) -> bool:
        """Whether it found something that keeps to every row, proven or not."""
        status = self.solver.getInfo().primal_solution_status
        return bool(status == highspy.kSolutionStatusFeasible)

    @property
    def status(self) -> str:
        return str(self.solver.modelStatusToString(self.solver.getModelStatus()))

    @property
    def value(self) -> float:
        return float(self.solver.getInfo().objective_function_value)

    @property
    def bound(self) -> float:
        return float(self.solver.getInfo().mip_dual_bound)

    @property
    def values(self) -> list[float]:
        """Of each column, as solved last."""
        found: list[float] = self.solver.getSolution().col_value
        return found
