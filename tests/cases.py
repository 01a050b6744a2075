"""Long tables of cases: every third in each run, all of them in the long one."""

from collections.abc import Sequence
from typing import Any

import pytest


def some_often(cases: Sequence[tuple[Any, ...]]) -> list[Any]:
    return [
        case if number % 3 == 0 else pytest.param(*case, marks=pytest.mark.long)
        for number, case in enumerate(cases)
    ]
