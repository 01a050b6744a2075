"""A tub's ledger and a test's revision under every action, one after the other."""

import uuid
from decimal import Decimal as D

import pytest
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from cutting.quantities import Unit, Weight, storable
from rooms.bench.actions.correct import Correcting, correct
from rooms.bench.actions.finishing import approve, reopen
from rooms.bench.actions.piles import Chosen, add_pile, choose, merge_piles, move_weighing, unmerge
from rooms.bench.actions.record import add_note, check_step, mark_time
from rooms.bench.actions.scales import take_scale
from rooms.bench.actions.tubs import choose_tub, close_tub, start_tub
from rooms.bench.actions.weighings import take_back, take_weight
from rooms.bench.models import TubEntry
from rooms.bench.queries.open_tests import revision_of
from rooms.bench.queries.piles import sum_of
from rooms.bench.queries.rows import TestRows, load
from rooms.bench.queries.tub_entries import gross_of
from rooms.bench.queries.tubs import tub_views
from rooms.common.errors import Refused
from tests.conftest import capture, finish, reading, shown

pytestmark = pytest.mark.django_db
LEAN, FAT = 2, 3
"""Places of those piles in the tenderloin's plan."""


def tub(name="Lean 80", pile="lean", shows="1.00", unit="lb"):
    return start_tub(uuid.uuid4(), name, (shows, unit), pile, None)


def into(rows, place, its_tub):
    """The rows with that pile going into the tub."""
    return choose_tub(rows.test.pk, str(rows.outputs[place].pk), str(its_tub.pk), None)


def weigh(rows, place, value, gross=None, unit="lb", its_tub=None):
    """Typed, or with what the scale shows."""
    output = load(rows.test.pk).outputs[place]
    if gross is None:
        return take_weight(rows.test.pk, capture(output, value, unit, is_typed=True), None)
    seen = f"{gross_of(its_tub or output.tub):f}"
    return take_weight(rows.test.pk, shown(output, gross, value=value, tub_before=seen), None)


def right(rows, weighing, value, key=None):
    rows = load(rows.test.pk)
    wanted = Correcting(key or str(uuid.uuid4()), "typo", {weighing.pk: value}, {}, {})
    return correct(rows.test.pk, wanted, rows.test.cutter_id)


def inside(its_tub):
    """(gross, what is in it, what is nobody's), footing."""
    view = next(view for view in tub_views() if view.tub == its_tub)
    found = view.inside
    assert found.start + found.weight + found.nobodys == found.gross == gross_of(its_tub)
    return found.gross, found.weight, found.nobodys


def test_a_corrected_weighing_changes_the_share_and_never_what_the_scale_showed(opened):
    its_tub = tub()
    first = into(opened(lot="L1"), LEAN, its_tub)
    first = weigh(first, LEAN, "2.00", "3.00")
    finish(first.test.pk, str(first.revision))
    again = right(first, first.standing[0], "1.98")
    assert inside(its_tub) == (D("3.00"), D("1.98"), D("0.02"))
    second = into(opened(lot="L2"), LEAN, its_tub)  # the next test pays for its own trim alone
    second = weigh(second, LEAN, "0.50", "3.50")
    assert second.standing[0].value == D("0.50")
    right(again, again.standing[0], "2.01")  # a correction of a correction
    assert inside(its_tub) == (D("3.50"), D("2.51"), D("-0.01"))
    last = load(first.test.pk)
    right(last, last.standing[0], "")  # left out: the tub still holds what the scale showed
    assert inside(its_tub) == (D("3.50"), D("0.50"), D("2.00"))
    view = tub_views()[0]
    assert [(test.pk, share.lots) for test, share in view.shares] == [(second.test.pk, ("L2",))]
    assert [words for _, words in view.ledger] == [
        "corrected",
        "corrected",
        "weighed in",
        "corrected",
        "weighed in",
    ]


def test_a_corrected_typed_weight_takes_its_tub_along_until_the_scale_sees_it(opened):
    its_tub = tub()
    rows = weigh(into(opened(), LEAN, its_tub), LEAN, "2.00")
    finish(rows.test.pk, str(rows.revision))
    rows = right(rows, rows.standing[0], "1.95")
    assert inside(its_tub) == (D("2.95"), D("1.95"), 0)
    weigh(into(opened(), LEAN, its_tub), LEAN, "1.00", "3.95")
    right(rows, rows.standing[0], "1.90")
    assert inside(its_tub) == (D("3.95"), D("2.90"), D("0.05"))


@pytest.mark.parametrize(("value", "unit"), [("0.3", "kg"), ("250", "g"), ("5.5", "oz")])
def test_a_typed_weight_in_any_unit_goes_into_a_tub_of_pounds_and_out_again(opened, value, unit):
    its_tub = tub()
    rows = weigh(into(opened(), LEAN, its_tub), LEAN, value, unit=unit)
    pounds = storable(Weight.of(value, unit), Unit.LB).value
    assert inside(its_tub) == (1 + pounds, pounds, 0)
    assert (rows.standing[0].value, rows.standing[0].unit) == (D(value), unit)
    take_back(rows.test.pk, str(rows.standing[0].pk), None)
    assert inside(its_tub) == (D("1.00"), 0, 0)


def test_a_missed_weight_is_charged_to_the_tub_of_its_pile(opened):
    its_tub = tub()
    rows = weigh(into(opened(), LEAN, its_tub), LEAN, "2.00", "3.00")
    finish(rows.test.pk, str(rows.revision))
    missed = {rows.outputs[LEAN].pk: "0.10"}
    wanted = Correcting(str(uuid.uuid4()), "missed one", {}, missed, {})
    for _ in range(2):  # sent twice: once in the ledger
        correct(rows.test.pk, wanted, rows.test.cutter_id)
    assert inside(its_tub) == (D("3.00"), D("2.10"), D("-0.10"))


def test_a_move_between_piles_goes_from_tub_to_tub_and_back(opened):
    lean, fat = tub(), tub("Fat", "fat", "0.50", "kg")
    rows = into(into(opened(), LEAN, lean), FAT, fat)
    rows = weigh(rows, LEAN, "2.00", "3.00")
    piles = [str(rows.outputs[place].pk) for place in (LEAN, FAT)]
    weighing = str(rows.standing[0].pk)
    for _ in range(2):  # twice: no change
        move_weighing(rows.test.pk, weighing, piles[1], piles[0], None)
    kilos = storable(Weight.of("2.00", "lb"), Unit.KG).value
    assert inside(lean) == (D("1.00"), 0, 0)
    assert inside(fat) == (D("0.50") + kilos, kilos, 0)
    move_weighing(rows.test.pk, weighing, piles[0], piles[1], None)
    assert inside(lean)[:2] == (D("3.00"), D("2.00"))
    assert inside(fat) == (D("0.50"), 0, 0)
    take_back(rows.test.pk, weighing, None)
    assert inside(lean) == (D("1.00"), 0, 0)


def test_a_merge_and_its_undo_leave_the_tubs_as_they_were_even_a_closed_one(opened):
    lean = tub()
    rows = weigh(into(opened(), LEAN, lean), LEAN, "2.00", "3.00")
    first, second, third = (str(rows.outputs[place].pk) for place in (LEAN, 0, 1))
    merge_piles(rows.test.pk, first, second, sum_of(rows, rows.outputs[LEAN]), None)
    assert inside(lean) == (D("1.00"), 0, 0)
    rows = load(rows.test.pk)
    merge_piles(rows.test.pk, second, third, sum_of(rows, rows.outputs[0]), None)
    close_tub(lean.pk)
    with pytest.raises(Refused, match="undo that merge first"):
        unmerge(rows.test.pk, first, None)
    unmerge(rows.test.pk, second, None)
    for _ in range(2):
        rows = unmerge(rows.test.pk, first, None)
    assert rows.by_output[rows.outputs[LEAN].pk][0].value == D("2.00")
    assert inside(lean)[:2] == (D("3.00"), D("2.00"))


def test_another_tablet_on_the_same_tub_sees_that_it_grew(opened):
    its_tub = tub()
    here, there = into(opened(), LEAN, its_tub), into(opened(), LEAN, its_tub)
    weigh(here, LEAN, "2.00", "3.00")
    assert load(there.test.pk).revision > there.revision


ACTIONS = {
    "weigh": lambda rows: weigh(rows, 0, "0.10"),
    "tub": lambda rows: into(rows, LEAN, tub(uuid.uuid4().hex[:8])),
    "into a tub": lambda rows: weigh(rows, LEAN, "0.10"),
    "take back": lambda rows: take_back(rows.test.pk, str(rows.standing[-1].pk), None),
    "move": lambda rows: move_weighing(
        rows.test.pk,
        str(rows.standing[-1].pk),
        str(next(o.pk for o in rows.piles if o.pk != rows.standing[-1].output_id)),
        str(rows.standing[-1].output_id),
        None,
    ),
    "merge": lambda rows: merge_piles(
        rows.test.pk,
        str(rows.piles[-1].pk),
        str(rows.piles[0].pk),
        sum_of(rows, rows.piles[-1]),
        None,
    ),
    "unmerge": lambda rows: unmerge(
        rows.test.pk, str([o for o in rows.outputs if o.merged_into_id][-1].pk), None
    ),
    "pile": lambda rows: add_pile(rows.test.pk, uuid.uuid4().hex[:8], "lean"),
    "mark": lambda rows: mark_time(rows.test.pk, str(uuid.uuid4()), "start", "", None),
    "note": lambda rows: add_note(rows.test, str(uuid.uuid4()), "a word", None),
    "tray": lambda rows: choose(
        rows.test.pk,
        Chosen(
            str(uuid.uuid4()),
            "tray",
            str(rows.outputs[0].pk),
            str((rows.outputs[0].tray_size or 1) + 1),
        ),
        None,
    ),
    "close tub": lambda rows: close_tub(next(o.tub_id for o in rows.outputs if o.tub_id)),
    "finish and reopen": lambda rows: (
        finish(rows.test.pk, str(rows.revision)),
        reopen(rows.test.pk, None),
    ),
}


def possible(rows):
    """Names of what can be done now."""
    names = ["pile", "mark", "note"]
    names += ["weigh"] if rows.outputs[0].merged_into_id is None else []
    names += ["tub", "into a tub"] if rows.outputs[LEAN].merged_into_id is None else []
    names += ["take back", "move", "finish and reopen"] if rows.standing else []
    names += ["merge"] if len(rows.piles) > 2 else []
    names += ["unmerge"] if any(o.merged_into_id for o in rows.outputs) else []
    names += ["close tub"] if any(o.tub_id for o in rows.outputs) else []
    return names + (["tray"] if rows.outputs[0].merged_into_id is None else [])


@pytest.mark.long
@settings(
    max_examples=12,
    phases=(Phase.explicit, Phase.reuse, Phase.generate, Phase.target),
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(st.lists(st.integers(0, 10**6), min_size=4, max_size=14))
def test_after_any_actions_tubs_foot_weight_is_kept_and_the_revision_only_grows(opened, choices):
    rows = opened()
    for choice in choices:
        names = possible(rows)
        before, held = rows.revision, sum(w.value for w in rows.standing)
        name = names[choice % len(names)]
        told = None
        try:
            told = ACTIONS[name](rows)
        except Refused:
            assert name == "unmerge"  # of a pile whose own pile was merged on
        now = load(rows.test.pk)
        for one in told if isinstance(told, tuple) else (told,):
            if isinstance(one, TestRows):  # what an action answers with is what it left
                assert (one.whole, one.weighed) == (now.whole, now.weighed), name
        if name != "unmerge":
            assert now.revision > before, name
        assert revision_of(rows.test.pk) == now.revision >= before
        if name not in ("weigh", "into a tub", "take back"):
            assert sum(w.value for w in now.standing) == held, name
        rows = now
        for view in tub_views():
            inside(view.tub)
            lying = TubEntry.objects.filter(tub=view.tub).values_list("weighing", flat=True)
            most = sum(w.value for w in rows.standing if w.pk in set(lying))
            own = [s.weight for s in view.inside.shares if s.source == rows.test.pk]
            assert 0 <= sum(own) <= most, name


def test_actions_on_a_finished_sheet_raise_the_revision_too(weighed, shop):
    rows = weighed()
    seen = [rows.revision]
    for change in (
        lambda: add_note(rows.test, str(uuid.uuid4()), "looked at", None),
        lambda: right(rows, rows.standing[0], "3.44"),
        lambda: approve(rows.test.pk, "a scrap fell", shop["bram"].pk),
    ):
        change()
        seen.append(load(rows.test.pk).revision)
    assert seen == sorted(set(seen))


def test_taking_the_scale_and_ticking_a_step_raise_the_revision_once(opened):
    rows, other = opened(), opened()
    take_scale(other.test.pk, "block", None)
    seen = [rows.revision]
    for change in (
        lambda: take_scale(rows.test.pk, "block", None),
        lambda: check_step(rows.test.pk, "silver-skin", None, is_done=True),
    ):
        for _ in range(2):
            change()
        seen.append(load(rows.test.pk).revision)
    assert seen == [seen[0], seen[0] + 1, seen[0] + 2]


def test_rows_read_and_added_without_the_models_are_as_the_models_give_them(opened):
    """What is converted once a column, and added in plain SQL, is what `objects.get` gives."""
    rows = opened()
    proof = reading("0.44")
    take_weight(rows.test.pk, shown(rows.outputs[0], "0.44", proof=proof, portions="2"), None)
    take_weight(rows.test.pk, capture(rows.outputs[1], "450", "g"), None)
    found = load(rows.test.pk)
    for row in (found.test, *found.outputs, *found.weighings):
        model = type(row).objects.get(pk=row.pk)
        for field in type(row)._meta.concrete_fields:
            mine, theirs = getattr(row, field.attname), getattr(model, field.attname)
            assert (type(mine), mine) == (type(theirs), theirs), field.attname
    assert (found.revision, found.test.revision) == (2, 2)
