"""A grinder that may run, and two tubs."""

import pytest

from rooms.grinder.actions.batch import clean_down
from tests.conftest import person
from tests.rooms.grinder.helpers import KEY, tub


@pytest.fixture
def ready(shop):
    """A clean grinder that is set up."""
    for what in ("cleaned", "set_up"):
        clean_down(KEY(), what, person("ines").pk)


@pytest.fixture
def two(shop):
    return tub("Chuck", pounds="14", lot="L1"), tub("Round", pounds="10", lean="0.93", lot="L2")
