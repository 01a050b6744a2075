import pytest

from mindful_tally import solver as process
from rooms.common.errors import BadInput
from rooms.planner.rules import solver


@pytest.fixture
def solving(monkeypatch):
    """The solver without its process: what is asked is answered by the same functions."""
    from cutting.errors import BadDocument

    def ask(path, asked, seconds=0):
        try:
            return {
                "/choose": process.choose,
                "/worth": process.worth,
                "/order": process.order,
            }[path](asked)
        except BadDocument as bad:
            raise BadInput(solver.said([str(one) for one in bad.faults])) from None

    monkeypatch.setattr(solver, "ask", ask)
    return ask
