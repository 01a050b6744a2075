"""Long tables of cases: every third in each run, all of them in the long one."""

from collections.abc import Iterable
from typing import Any

import pytest


def some_often(cases: Iterable[Any]) -> list[Any]:
    """`cases`: tuples, or single values where a test takes one."""
    return [
        case
        if number % 3 == 0
        else pytest.param(*(case if isinstance(case, tuple) else (case,)), marks=pytest.mark.long)
        for number, case in enumerate(cases)
    ]
