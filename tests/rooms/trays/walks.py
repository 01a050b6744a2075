"""How a state machine is walked: fixed walks in `make test`, new ones of Hypothesis in `make search`."""

from random import Random

from hypothesis import HealthCheck, settings
from hypothesis.stateful import run_state_machine_as_test


def walked(machine, *, walks, steps):
    """Walk a machine that has a rule `somebody(seed)` and `checks`, names of what always holds.

    Hypothesis spends so few runs mostly on what is small and what is the same, so here each step is drawn
    evenly; a failure tells its walk and step.
    """
    if not settings.default.derandomize:
        run_state_machine_as_test(
            machine,
            settings=settings(
                max_examples=150,
                stateful_step_count=40,
                deadline=None,
                suppress_health_check=list(HealthCheck),
            ),
        )
        return
    for walk in range(walks):
        chance, one = Random(walk), machine()
        one.begin()
        try:
            for _ in range(steps):
                one.somebody(chance.getrandbits(32))
                for check in one.checks:
                    getattr(one, check)()
        finally:
            one.teardown()
