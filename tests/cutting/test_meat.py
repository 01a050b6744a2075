"""What meat may become, and that nothing of it is lost on the way."""

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cutting.errors import BadValue
from cutting.labels.origin import origin_line
from cutting.meat import (
    Meat,
    Origin,
    Target,
    mixed,
    past_its_end,
    why_clean_first,
    why_not_in_tub,
    why_not_packed,
)

FLAT_IRON = Target("flat-iron", "Flat iron", "beef", "flat-iron", "infraspinatus")
STEW = Target("stew", "Stew beef", "beef", "stew", is_material=True)
GROUND = Target("ground", "Ground beef", "beef", "ground", is_ground=True)
CHUCK = Target("ground-chuck", "Ground chuck", "beef", "ground-chuck", is_ground=True)
PILE = Meat("beef", cut="flat-iron", muscle="infraspinatus")
BATCH = Meat("beef", product="ground", is_ground=True)
ROAST = Meat("beef", cut="roast", muscle="infraspinatus", product="blade-roast")


@pytest.mark.parametrize(
    ("meat", "target", "again", "says"),
    [
        (PILE, FLAT_IRON, False, ""),
        (BATCH, GROUND, False, ""),
        (BATCH, GROUND, True, ""),
        (ROAST, FLAT_IRON, True, ""),  # another cut of the same muscle
        (ROAST, STEW, True, ""),  # diced
        (Meat("pork", cut="flat-iron"), FLAT_IRON, False, "it is pork; Flat iron is beef"),
        (Meat("beef", cut="flat-iron", is_waste=True), FLAT_IRON, False, "it is waste"),
        (PILE, GROUND, False, "grind it first"),
        (BATCH, FLAT_IRON, False, "it is ground; Flat iron is not"),
        (BATCH, STEW, True, "it is ground"),
        (BATCH, CHUCK, False, "made as another product"),
        (BATCH, CHUCK, True, "made as another product"),
        (Meat("beef", cut="tips"), FLAT_IRON, False, "another cut"),
        (Meat("beef", cut="tips", muscle="psoas", product="tips"), FLAT_IRON, True, "another prod"),
        (Meat(), FLAT_IRON, False, "its species is not known"),
    ],
)
def test_what_meat_may_be_packed_as(meat, target, again, says):
    """Ground names: 9 CFR 319.15, 320.1(b)(4). The others: common practice, no published source."""
    why = why_not_packed(meat, target, again=again)
    assert (says in why) if says else why == ""


@pytest.mark.parametrize(
    ("meat", "says"),
    [
        (PILE, ""),
        (Meat(), ""),
        (Meat("beef", was_frozen=True, is_tenderized=True), ""),  # it travels as a fact instead
        (Meat("lamb"), "it is lamb; the tub is beef"),
        (Meat("beef", is_waste=True), "it is waste"),
        (Meat("beef", ingredients=("beef", "salt")), "seasoned (beef, salt)"),
        (Meat("beef", ingredients=("beef", "soy sauce"), allergens=("soy",)), "seasoned (soy)"),
    ],
)
def test_what_may_go_into_a_tub_of_beef_trim(meat, says):
    why = why_not_in_tub(meat, "beef")
    assert (says in why) if says else why == ""


@pytest.mark.parametrize(
    ("last", "now", "says"),
    [
        (Meat("beef"), Meat("beef"), ""),
        (Meat("beef"), Meat("beef", allergens=("soy",)), ""),
        (Meat("pork"), Meat("beef"), "pork was in it last"),
        (Meat("beef", allergens=("soy",)), Meat("beef"), "soy was in it last"),
        (Meat("beef", allergens=("soy",)), Meat("beef", allergens=("soy",)), ""),
        (Meat("beef", ingredients=("garlic",)), Meat("beef"), "garlic was in it last"),
    ],
)
def test_when_the_grinder_is_cleaned_between_two_batches(last, now, says):
    why = why_clean_first(last, now)
    assert (says in why) if says else why == ""


NAMES = {"US": "United States", "CA": "Canada", "NZ": "New Zealand", "AU": "Australia"}
US = Origin("US", "US", "US")


@pytest.mark.parametrize(
    ("species", "origins", "is_ground", "line"),
    [
        ("lamb", [US], False, "Born, raised and slaughtered in the U.S."),
        ("lamb", [US, US], False, "Born, raised and slaughtered in the U.S."),
        (
            "lamb",
            [Origin("CA", "US", "US")],
            False,
            "Born in Canada, raised and slaughtered in the U.S.",
        ),
        (
            "lamb",
            [Origin("CA", "CA", "US")],
            False,
            "Born and raised in Canada, slaughtered in the U.S.",
        ),
        (
            "lamb",
            [Origin("AU", "CA", "US")],
            False,
            "Born in Australia, raised in Canada, slaughtered in the U.S.",
        ),
        ("lamb", [Origin("NZ", "NZ", "NZ")], False, "Product of New Zealand"),
        ("lamb", [Origin("US", "US", "CA")], False, "Product of Canada"),
        ("lamb", [Origin(country="NZ")], False, "Product of New Zealand"),
        ("lamb", [US, Origin(country="NZ")], True, "Product of U.S. and New Zealand"),
        ("lamb", [Origin("CA", "US", "US"), Origin(country="NZ")], True, "U.S., Canada and New"),
        ("beef", [], False, ""),
        ("pork", [Origin(country="CA")], True, ""),
    ],
)
def test_the_line_of_origin(species, origins, is_ground, line):
    """7 CFR 65.135, 65.300(d) to (h), values from memory; beef and pork left it with 81 FR 10755."""
    found = origin_line(species, origins, is_ground=is_ground, named=NAMES.__getitem__)
    assert line in found
    assert bool(line) == bool(found)


@pytest.mark.parametrize(
    ("origins", "says"),
    [
        ([], "not on record"),
        ([Origin()], "not on record"),
        ([Origin(country="US")], "not on record"),  # where it was born is not told by that
        ([US, Origin()], "not on record"),
        ([US, Origin(country="NZ")], "meat of one origin on one tray"),
    ],
)
def test_lamb_of_no_known_origin_has_no_label(origins, says):
    with pytest.raises(BadValue, match=says):
        origin_line("lamb", origins, is_ground=False, named=NAMES.__getitem__)


def test_a_life_told_in_part_is_none():
    with pytest.raises(BadValue, match="part of it is empty"):
        Origin(born="US")


words = st.text("abcdef", min_size=1, max_size=5)
lists = st.lists(words, max_size=3, unique=True).map(tuple)
countries = st.sampled_from(sorted(NAMES))
origins = st.one_of(
    st.builds(Origin, countries, countries, countries),
    st.builds(Origin, country=st.one_of(st.just(""), countries)),
)
days = st.dates(date(2026, 1, 1), date(2026, 12, 31))
meats = st.builds(
    Meat,
    species=st.just("beef"),
    is_tenderized=st.booleans(),
    was_frozen=st.booleans(),
    ingredients=lists,
    allergens=lists,
    lean=st.sampled_from(["", "80/20", "93/7"]),
    origins=st.lists(origins, max_size=2).map(tuple),
    since=st.none() | days,
    ends=st.lists(days, max_size=2).map(tuple),
)


@given(st.lists(meats, min_size=1, max_size=5))
def test_nothing_of_any_source_is_lost_and_no_claim_outlives_its_meat(some):
    whole = mixed(some, "beef")
    for one in some:
        assert set(one.allergens) <= set(whole.allergens)
        assert set(one.ingredients) <= set(whole.ingredients)
        assert set(one.origins) <= set(whole.origins)
        assert whole.is_tenderized >= one.is_tenderized
        assert whole.was_frozen >= one.was_frozen
        assert whole.lean in ("", one.lean)
        if one.ends:
            assert whole.ends_on <= one.ends_on
        if one.since:
            assert whole.since <= one.since
    assert mixed(reversed(some), "beef").allergens or not whole.allergens


@given(st.lists(meats, min_size=2, max_size=5))
def test_meat_mixed_in_two_steps_is_what_it_is_in_one(some):
    first, *rest = some
    once = mixed(some, "beef")
    assert mixed([mixed([first, rest[0]], "beef"), *rest[1:]], "beef") == once


@given(meats)
def test_what_is_kept_of_meat_gives_it_back(meat):
    kept = Meat("beef", since=meat.since, ends=meat.ends).with_record(meat.record())
    assert kept == meat


def test_meat_is_past_its_end_the_day_after():
    meat = Meat("beef", ends=(date(2026, 11, 9), date(2026, 11, 5)))
    assert past_its_end(meat, date(2026, 11, 5)) is None
    assert past_its_end(meat, date(2026, 11, 6)) == date(2026, 11, 5)
    assert past_its_end(Meat("beef"), date(2026, 11, 6)) is None
