"""How a state machine is walked: fixed walks in `make test`, new ones of Hypothesis in `make search`."""

from decimal import Decimal
from inspect import signature
from random import Random

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, rule, run_state_machine_as_test

from rooms.common.errors import KeyTaken
from rooms.grinder.actions.tubs import put_in
from rooms.grinder.models import TubIn
from rooms.trays.models import TrayEvent


class Walking(RuleBasedStateMachine):
    """A machine with `deeds`, names of what people do; `keys`, what was sent as (action, values, key); `tubs`;
    and `facts`, what a refusal must not change. A weight is drawn in `hundredths` of a pound."""

    deeds: tuple[str, ...] = ()
    hundredths = (5, 250)

    @rule(seed=st.integers(0, 2**32 - 1))
    def somebody(self, seed):
        """One rule for all deeds, so that each is as likely."""
        chance = Random(seed)
        deed = getattr(self, chance.choice(self.deeds))
        drawn = {
            "place": chance.randrange(20),
            "other": chance.randrange(20),
            "weight": Decimal(chance.randrange(*self.hundredths)) / 100,
            "is_stale": chance.random() < 0.3,
        }
        deed(**{name: drawn[name] for name in signature(deed).parameters})

    def presses_altered(self, place):
        """A key that was used, with another tub: told, and nothing changes."""
        rows = ((TrayEvent, "key"), (TubIn, "key"))
        used = [
            (act, values, key)
            for act, values, key in self.keys
            if act is not put_in  # a part of other actions, which see to the key
            and any(value in self.tubs for value in values)
            and any(model.objects.filter(**{name: key}).exists() for model, name in rows)
        ]
        if not used:
            return
        act, values, key = used[place % len(used)]
        tubs = self.tubs
        other = [tubs[1 - tubs.index(value)] if value in tubs else value for value in values]
        before = self.facts()
        with pytest.raises(KeyTaken):
            act(key, *other)
        assert self.facts() == before


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
