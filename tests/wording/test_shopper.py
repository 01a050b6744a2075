"""What a card says of heat: safe from the published minimum, done in its own words."""

import pytest

from cutting.quantities import Unit
from wording.shopper import Told, degrees_words, doneness_words

STEAK = {"grill": "best", "pan": "good"}


def told(grades=STEAK, species="beef", unit=Unit.LB, **more):
    return Told.of(grades, None, unit, species=species, **more)


def test_a_steak_says_when_it_comes_off_the_fire_in_the_shops_degrees():
    """Common practice, no published source."""
    assert told().doneness.startswith(
        "off the fire at: rare 120 °F, medium rare 130 °F, medium 140 °F"
    )
    assert "it climbs about 5 °F" in told().doneness
    assert "rare 49 °C, medium rare 54 °C, medium 60 °C, well done 68 °C" in doneness_words(Unit.KG)
    assert "about 3 °C" in doneness_words(Unit.KG)


@pytest.mark.parametrize(
    "more",
    [
        {"is_ground": True},
        {"is_cubed": True},
        {"is_tenderized": True},
        {"species": "pork"},
        {"grades": {"braise": "best", "grill": "fair"}},
        {"grades": {"roast": "best"}},
    ],
)
def test_nothing_else_is_called_rare(more):
    assert told(**more).doneness == ""


def test_a_braise_is_done_in_its_own_words_and_safe_from_the_minimum():
    """USDA FSIS, safe minimum internal temperatures."""
    found = told({"braise": "best"}, done="a fork turns in it")
    assert found.done == "a fork turns in it"
    assert found.core.words.startswith("145 °F (62.8 °C)")
    assert told(is_cubed=True).core.fahrenheit == 160


@pytest.mark.parametrize(("f", "c"), [(145, "63 °C"), (32, "0 °C"), (120, "49 °C")])
def test_degrees_are_those_of_the_shops_unit(f, c):
    assert degrees_words(f, Unit.LB) == f"{f} °F"
    assert degrees_words(f, Unit.KG) == c
