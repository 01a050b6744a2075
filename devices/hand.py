"""The hand at the simulated scale: it loads it, and makes the trouble the bench must live with."""

from __future__ import annotations

import asyncio
import math
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Any

from devices.simulated_scale import FAULTS, SimulatedScale

if TYPE_CHECKING:
    from devices.bridge import Line

LONGEST_WAIT = 600.0


class Hand:
    """Say {"put": grams}, {"take_off": true}, {"on": true}, {"as_new": true}, {"line": false}, {"fault": one of none,
    wobble, drift, freeze, jump}, or {"script": [[seconds, {"put": 450}], …]}."""

    def __init__(self, scale: SimulatedScale, line: Line) -> None:
        self.scale, self.line = scale, line
        self._plays: asyncio.Task[None] | None = None

    async def do(self, wanted: dict[str, Any]) -> None:
        """One thing, or a script of them. Raises ValueError, TypeError or KeyError for another."""
        if "script" not in wanted:
            return self._meant(wanted)()
        acts = [(self._seconds(wait), self._meant(act)) for wait, act in wanted["script"]]
        if self._plays:
            self._plays.cancel()
        self._plays = asyncio.create_task(self._play(acts))

    async def _play(self, acts: list[tuple[float, Callable[[], None]]]) -> None:
        for wait, act in acts:
            await asyncio.sleep(wait)
            act()

    @staticmethod
    def _seconds(wait: object) -> float:
        seconds = float(wait)  # type: ignore[arg-type]
        if not 0 <= seconds <= LONGEST_WAIT:
            raise ValueError(wait)
        return seconds

    def _meant(self, act: dict[str, Any]) -> Callable[[], None]:
        ((what, how),) = act.items()
        if what == "put":
            grams = float(how)
            if math.isfinite(grams) and abs(grams) <= 100_000:
                return partial(self.scale.put, grams)
        elif what == "take_off" and how is True:
            return self.scale.take_off
        elif what == "as_new" and how is True:
            return self._all_anew
        elif what == "on" and isinstance(how, bool):
            return partial(self.scale.switch, how)
        elif what == "line" and isinstance(how, bool):
            return partial(self._cut, not how)
        elif what == "fault" and how in FAULTS:
            return partial(self.scale.fault, how)
        raise ValueError(what)

    def _all_anew(self) -> None:
        if self._plays:
            self._plays.cancel()
        self._cut(False)
        self.scale.as_new()

    def _cut(self, is_cut: bool) -> None:
        self.line.is_cut = is_cut
