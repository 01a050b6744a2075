"""The cooler's simulated probe, a process of its own: it sends a reading a minute to the shop.

    python -m devices.probe --to http://127.0.0.1:8000/cooler/readings/ --key KEY

SIGUSR1 opens the door for twenty minutes, SIGUSR2 loses the sensor and finds it again. A real
probe needs only to send the same message.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import math
import signal
import time
import urllib.error
import urllib.request
from dataclasses import dataclass, field
from datetime import UTC, datetime

MINUTE = 60.0
COMPRESSOR = 25 * MINUTE
SET_POINT = 1600
DOOR_GAIN, DOOR_TIME = 9000, 14 * MINUTE
FALL_TIME = 16 * MINUTE


@dataclass
class SimulatedProbe:
    """A believable cooler: the compressor's saw, people going in and out, the odd fault.

    `read` gives the same value for the same moment, so that a history can be made afterwards.
    Temperatures in thousandths of a °C; None while the sensor is lost.
    """

    seed: int = 7
    doors: list[tuple[float, float]] = field(default_factory=list)
    """Long openings, from and to, in seconds since 1970."""
    lost: list[tuple[float, float]] = field(default_factory=list)

    def read(self, at: float) -> int | None:
        if any(start <= at < end for start, end in self.lost):
            return None
        saw = 380 * math.sin(2 * math.pi * at / COMPRESSOR)
        day = 150 * math.sin(2 * math.pi * (at / 86400 - 0.3))
        value = SET_POINT + saw + day + 60 * self._noise(int(at // MINUTE))
        value += sum(self._opening(at, start, end) for start, end in self.doors)
        value += self._visits(at)
        return round(value / 10) * 10

    def _noise(self, what: int) -> float:
        """Between -1 and 1, the same for the same minute."""
        digest = hashlib.blake2b(f"{self.seed}:{what}".encode(), digest_size=4).digest()
        return int.from_bytes(digest, "big") / 2**31 - 1

    def _visits(self, at: float) -> float:
        """Short openings in working hours: one in three quarters of an hour, a little warmth."""
        total = 0.0
        slot = int(at // 2700)
        for one in (slot - 1, slot):
            start = one * 2700 + 900 * (1 + self._noise(one * 13))
            hour = (start / 3600) % 24
            if 11 <= hour <= 22 and self._noise(one * 7) > 0:
                total += self._opening(at, start, start + 120) * 0.9
        return total

    @staticmethod
    def _opening(at: float, start: float, end: float) -> float:
        """Warmth of an open door: it rises while it is open and falls after."""
        if at < start:
            return 0.0
        risen = DOOR_GAIN * (1 - math.exp(-(min(at, end) - start) / DOOR_TIME))
        return risen * math.exp(-max(at - end, 0.0) / FALL_TIME)


def send(to: str, key: str, at: float, value: int | None) -> bool:
    """One reading to the shop. False when the shop did not take it: it is sent again."""
    body = {
        "at": datetime.fromtimestamp(at, UTC).isoformat(),
        "celsius": None if value is None else f"{value / 1000:.2f}",
    }
    headers = {"Content-Type": "application/json", "Probe-Key": key}
    request = urllib.request.Request(to, json.dumps(body).encode(), headers)  # noqa: S310
    try:
        with urllib.request.urlopen(request, timeout=5):  # noqa: S310 (the shop's own address)
            return True
    except urllib.error.HTTPError as answer:
        return answer.code in (409, 422)  # it was heard and refused: sending again helps nothing
    except OSError:
        return False


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--to", required=True)
    options.add_argument("--key", required=True)
    options.add_argument("--every", type=float, default=MINUTE)
    wanted = options.parse_args()
    probe = SimulatedProbe()

    def open_door(*_: object) -> None:
        probe.doors.append((time.time(), time.time() + 20 * MINUTE))

    def sensor(*_: object) -> None:
        now = time.time()
        if probe.lost and probe.lost[-1][1] > now:
            probe.lost[-1] = (probe.lost[-1][0], now)
        else:
            probe.lost.append((now, math.inf))

    signal.signal(signal.SIGUSR1, open_door)
    signal.signal(signal.SIGUSR2, sensor)
    waiting: list[tuple[float, int | None]] = []
    while True:
        at = math.floor(time.time() / wanted.every) * wanted.every
        waiting.append((at, probe.read(at)))
        while waiting and send(wanted.to, wanted.key, *waiting[0]):
            waiting.pop(0)
        time.sleep(max(at + wanted.every - time.time(), 0.05))


if __name__ == "__main__":
    main()
