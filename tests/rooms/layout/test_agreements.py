"""What ships agrees with itself: plan, guide, layout, card, name."""

import io
import re
from decimal import Decimal
from fractions import Fraction
from itertools import pairwise

import pytest
from django.core.management import CommandError, call_command
from hypothesis import given
from hypothesis import strategies as st

from cutting.layout.placing import longest_free, share_out, target_ratio, thickness_limits
from cutting.layout.profile import MM, Profile, Section, Station
from cutting.quantities import Unit, Weight
from rooms.catalog.models import Cut, Piece, Plan, PlanOutput, Step
from rooms.catalog.queries import shipped
from rooms.layout import agreements as own
from rooms.layout.agreements import AGREEMENTS, agreements, said_inches
from rooms.layout.queries.first import sold_outputs

PIECES = shipped.document()["pieces"]
D = Decimal


@pytest.mark.long
@pytest.mark.django_db
@pytest.mark.parametrize("key", PIECES)
def test_everything_that_ships_agrees(catalog, key):
    (found,) = agreements(Piece.objects.filter(key=key))
    assert found.faults == []


@pytest.mark.django_db
@pytest.mark.parametrize("key", ["beef-chuck-roll", "pork-loin-bone-in"])
def test_two_pieces_agree_in_every_run(catalog, key):
    (found,) = agreements(Piece.objects.filter(key=key))
    assert found.faults == []
    assert found.found["layout"] == []


def wrong(model, key, **fields):
    """Write something that does not agree, and return what the agreements say of its piece."""
    rows = model.objects.filter(**key)
    assert rows.update(**fields)
    piece = key.get("plan__piece__key") or key.get("piece__key") or "beef-tenderloin"
    (found,) = agreements(Piece.objects.filter(key=piece))
    return found.faults


FILET = {"plan__piece__key": "beef-tenderloin", "key": "centre-filet"}


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("model", "key", "fields", "says"),
    [
        (
            PlanOutput,
            FILET,
            {"share": D("0.20")},
            "layout: whole: Center filet is 4[0-9].* usually 20",
        ),
        (
            PlanOutput,
            FILET,
            {"usual_count": "12"},
            "layout: whole: [0-9] × Center filet, usually 12",
        ),
        (PlanOutput, FILET, {"target_value": D(20)}, "part: .*20 oz is asked for"),
        (PlanOutput, FILET, {"thickness": "5 in"}, "guide: Center filet is 5 in; its steps say"),
        (PlanOutput, FILET, {"part": "leg"}, "part: .*no part “leg”"),
        (PlanOutput, FILET, {"zone": "middle"}, "part: .*no stretch “middle”"),
        (Cut, {"key": "beef-centre-filet"}, {"cooking": "pan to 145 °F"}, "card: .*temperature"),
        (
            Cut,
            {"key": "beef-filet-tips"},
            {"grades": {"braise": "best"}},
            "card: .*when it is done",
        ),
        (Plan, {"piece__key": "beef-tenderloin"}, {"minutes_per_lb": None}, "minutes: .*how long"),
        (Cut, {"key": "beef-filet-tips"}, {"house_name": "Eye fillet steak"}, None),
    ],
)
def test_what_does_not_agree_is_told_by_its_agreement(catalog, model, key, fields, says):
    faults = wrong(model, key, **fields)
    if says is None:
        assert faults == []
    else:
        assert any(re.match(says, one) for one in faults), faults


@pytest.mark.django_db
def test_a_product_of_another_muscle_is_told(catalog):
    other = Cut.objects.get(key="beef-flat-iron")
    faults = wrong(PlanOutput, FILET, cut=other)
    assert any("infraspinatus does not lie in" in one for one in faults)


@pytest.mark.django_db
def test_one_shown_name_on_two_muscles_is_told_at_both(catalog):
    name = Cut.objects.get(key="beef-flat-iron").name
    faults = wrong(Cut, {"key": "beef-filet-tips"}, house_name=name)
    assert any(one.startswith("names: ") and "beef-flat-iron" in one for one in faults)


@pytest.mark.django_db
def test_a_step_at_the_tenderizer_makes_what_a_label_tells(catalog):
    faults = wrong(Step, {"piece__key": "beef-tenderloin", "key": "filets"}, machine="tenderizer")
    assert any(one.startswith("steps: ") for one in faults)


@pytest.mark.django_db
@pytest.mark.parametrize("bones", [10, 12, 13, 14])
def test_every_composition_of_a_pork_loin_can_be_chosen_whatever_its_ribs(catalog, bones):
    """Limits stand on the same lines as bones: four country-style ribs, the rack behind them."""
    plan = Plan.objects.get(piece__key="pork-loin-bone-in", key="country-style")
    outputs = sold_outputs(plan)
    laid = next(iter(own.laid_parts(plan.piece, plan, outputs, bones)))
    country = laid.layout.slices[0]
    cut = laid.task.at(country.end)
    assert laid.weights.keys() == {row["name"] for row in laid.lying.rows()}
    per_rib = laid.task.profile.length * laid.shape.ribs / bones
    assert abs(cut - 4 * per_rib) <= MM["in"] / 16


@pytest.mark.django_db
def test_the_table_is_printed_and_a_fault_makes_it_fail(catalog):
    out = io.StringIO()
    call_command("agreements", "beef-flank", stdout=out)
    head, line = out.getvalue().splitlines()
    assert head.split() == list(AGREEMENTS)
    assert line.split()[:2] == ["beef-flank", "-"]  # no shape
    assert set(line.split()[1:]) == {"-", "ok"}
    Plan.objects.filter(piece__key="beef-flank").update(minutes_per_lb=None)
    with pytest.raises(CommandError, match="beef-flank, minutes: Whole steak"):
        call_command("agreements", "beef-flank", stdout=out)
    with pytest.raises(CommandError, match="no-such are not in the catalog"):
        call_command("agreements", "no-such", stdout=out)


# --- where a product is cut ---------------------------------------------------------------------

BOX = Profile(Section.BOX, (Station(D(0), D(10), D(10)), Station(D(100), D(10), D(10))))
shares = st.lists(st.decimals(D("0.01"), D("0.9"), places=2), min_size=1, max_size=6)


@given(shares)
def test_stretches_follow_each_other_and_fill_what_is_free(some):
    found = share_out(BOX, some, (D(10), D(90)))
    assert (found[0][0], found[-1][1]) == (10, 90)
    assert all(one[1] == other[0] for one, other in pairwise(found))
    for (start, end), share in zip(found, some, strict=True):
        assert abs((end - start) / 80 - share / sum(some)) < D("0.01")
    assert share_out(BOX, [], (D(0), D(1))) == []


@pytest.mark.parametrize(
    ("taken", "free"),
    [
        ([], (0, 100)),
        ([(0, 20)], (20, 100)),
        ([(30, 100)], (0, 30)),
        ([(20, 50), (40, 60)], (60, 100)),
        ([(0, 100)], None),
    ],
)
def test_what_no_zone_takes_is_shared_by_the_others(taken, free):
    assert longest_free(D(100), [(D(a), D(b)) for a, b in taken]) == free


@pytest.mark.parametrize(
    ("thickness", "stretch", "most", "limits"),
    [
        ("25", "300", None, ("20", "31.25")),  # 0.8 to 1.25 of the plan's
        (None, "400", None, ("76.2", "152.4")),  # roasts of 3 to 6 in
        (None, "100", None, ("55", "152.4")),  # a short stretch is taken whole
        (None, "400", 2, ("110", "400")),
    ],
)
def test_how_thin_and_how_thick(thickness, stretch, most, limits):
    found = thickness_limits(None if thickness is None else D(thickness), D(stretch), most)
    assert found == (D(limits[0]), D(limits[1]))


def test_a_target_is_held_against_what_a_slice_weighs():
    """1,000 g over 100 mm: 25 mm weigh 250 g, half a slice 125 g."""
    piece, whole = Weight(D(1000), Unit.G), [(D(0), D(100))]

    def ratio(grams, across=(1,)):
        return target_ratio(BOX, piece, Weight(D(grams), Unit.G), D(25), whole, across)

    assert ratio(250) == 1
    assert ratio(500) == 2
    assert ratio(125) == D("0.5")
    assert ratio(125, (1, 2)) == 1


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("steaks of 1/2 to 3/4 in across", [("1/2", "3/4")]),
        ("about 1 in, then 2 in", [("1", "1"), ("2", "2")]),
        ("3/4 or 1 1/2 in", [("3/4", "1 1/2")]),
        ("in halves, in 1990", []),
    ],
)
def test_lengths_that_a_sentence_names(text, found):
    told = [tuple(str(one) for one in pair) for pair in said_inches(text)]
    want = [tuple(sum_of(one) for one in pair) for pair in found]
    assert told == want


def sum_of(text):
    return str(sum(Fraction(one) for one in text.split()))
