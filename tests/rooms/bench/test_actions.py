"""Every change at the bench: what is recorded, what is refused, what a repeat does."""

import threading
import uuid
from decimal import Decimal

import pytest
from django.db import IntegrityError, connection, transaction

from cutting.quantities import Weight
from rooms.bench.actions.finishing import approve, reopen
from rooms.bench.actions.piles import add_pile
from rooms.bench.actions.record import add_note
from rooms.bench.actions.weighings import take_back, take_weight
from rooms.bench.models import CuttingTest, Note, TakeBack, Weighing
from rooms.bench.queries.rows import load
from rooms.common.errors import BadInput, KeyTaken, Refused
from tests.conftest import capture, finish

pytestmark = pytest.mark.django_db


def test_a_test_starts_with_the_plans_piles_and_todays_prices(opened):
    rows = opened()
    names = [output.name for output in rows.outputs]
    assert names == ["Center filet", "Tips", "Lean trim", "Hard fat", "Silver skin", "Purge"]
    filet, tips, trim, fat, skin, purge = rows.outputs
    assert (filet.retail, filet.replacement) == (Decimal("29.99"), Decimal("24.50"))
    assert filet.is_counted
    assert (tips.credit, trim.in_case, fat.retail) == (Decimal("7.90"), True, None)
    assert (skin.role, purge.role) == ("discard", "purge")


def test_opening_twice_with_one_key_opens_one_test(opened):
    key = uuid.uuid4()
    assert opened(key=key).test.number == opened(key=key).test.number
    assert CuttingTest.objects.count() == 1


def test_tests_are_numbered_in_order(opened):
    assert [opened().test.number for _ in range(3)] == [1, 2, 3]


@pytest.mark.parametrize("more", [{"discount": Decimal(99)}, {"paid": "0"}, {"at": "0"}])
def test_an_impossible_opening_is_refused(opened, more):
    with pytest.raises(BadInput, match="is right"):
        opened(**more)


def test_a_weighing_is_kept_exactly_as_shown(opened):
    rows = opened()
    take_weight(rows.test.pk, capture(rows.outputs[0], "7.10", "oz", division="0.1"), None)
    kept = Weighing.objects.get()
    assert (str(kept.value), kept.unit, str(kept.division)) == ("7.10", "oz", "0.1")
    assert (kept.portions, kept.is_typed, kept.is_over) == (1, True, False)  # nothing signed it


def test_the_same_key_records_once(opened):
    rows = opened()
    one = capture(rows.outputs[0], "0.44")
    for _ in range(3):
        after = take_weight(rows.test.pk, one, None)
    assert Weighing.objects.count() == len(after.weighings) == 1


def test_a_key_of_another_test_is_refused(opened):
    first, second = opened(), opened()
    key = str(uuid.uuid4())
    take_weight(first.test.pk, capture(first.outputs[0], "0.44", key=key), None)
    with pytest.raises(KeyTaken, match=r"Already recorded from this page: 0\.44 lb"):
        take_weight(second.test.pk, capture(second.outputs[0], "0.44", key=key), None)


@pytest.mark.parametrize(
    ("value", "more", "says"),
    [
        ("0", {}, "Weight: 0 lb cannot be recorded; more than 0 is right."),
        ("-0.44", {}, "more than 0 is right"),
        ("heavy", {}, "'heavy' is not a plain decimal"),
        ("", {}, "Weight: '' is not a plain decimal"),
        ("NaN", {}, "not a plain decimal"),
        ("30.01", {}, "over the scale's 30 lb"),
        ("481", {"unit": "oz"}, "over the scale's 30 lb"),
        ("1", {"unit": "stone"}, "Unit: 'stone'"),
        ("1", {"division": "0"}, "Division: 0"),
        ("1", {"portions": "0"}, "Portions: 0"),
        ("1", {"portions": "six"}, "Portions: six"),
        ("1", {"portions": "²"}, "Portions: ²"),
        ("1", {"key": "x"}, "Key: "),
    ],
)
def test_a_wrong_weight_is_refused_by_field_and_value(opened, value, more, says):
    rows = opened(paid="60")
    with pytest.raises(BadInput) as refused:
        take_weight(rows.test.pk, capture(rows.outputs[0], value, **more), None)
    assert says in refused.value.message
    assert not Weighing.objects.exists()


def test_an_unknown_pile_or_test_is_refused(opened):
    rows, other = opened(), opened()
    with pytest.raises(BadInput, match=r"Pile: 0\.44 lb was sent for no pile"):
        take_weight(rows.test.pk, capture(other.outputs[0], "0.44"), None)
    with pytest.raises(BadInput, match="no such test"):
        take_weight(uuid.uuid4(), capture(rows.outputs[0], "0.44"), None)


def test_heavier_than_what_is_left_is_recorded_and_flagged(opened):
    rows = opened()
    take_weight(rows.test.pk, capture(rows.outputs[0], "6.00"), None)
    take_weight(rows.test.pk, capture(rows.outputs[1], "0.20"), None)  # rounding explains it
    after = take_weight(rows.test.pk, capture(rows.outputs[2], "0.90"), None)
    assert [w.is_over for w in after.weighings] == [False, False, True]


def test_purge_of_a_piece_weighed_after_opening_never_was_on_the_block(opened):
    rows = opened(opened=Weight.of("6.10", "lb"))
    take_weight(rows.test.pk, capture(rows.outputs[0], "6.10"), None)
    after = take_weight(rows.test.pk, capture(rows.outputs[5], "0.07"), None)
    assert [w.is_over for w in after.weighings] == [False, False]


def test_taking_back_keeps_the_weighing_and_a_repeat_changes_nothing(opened):
    rows = opened()
    rows = take_weight(rows.test.pk, capture(rows.outputs[0], "0.44"), None)
    before = rows.revision
    for _ in range(2):
        rows = take_back(rows.test.pk, str(rows.weighings[0].pk), None)
    assert (rows.standing, len(rows.weighings), TakeBack.objects.count()) == ([], 1, 1)
    assert load(rows.test.pk).revision == rows.revision > before
    with pytest.raises(BadInput, match="no such weighing"):
        take_back(rows.test.pk, "999", None)


def test_weighings_notes_and_take_backs_are_only_ever_added(opened):
    rows = opened()
    rows = take_weight(rows.test.pk, capture(rows.outputs[0], "0.44"), None)
    row = Weighing.objects.get()
    for wrong in (row.save, row.delete):
        with pytest.raises(TypeError):
            wrong()


def test_finishing_needs_a_weighing_and_a_page_that_saw_the_last_one(opened):
    rows = opened()
    with pytest.raises(BadInput, match="nothing has been weighed"):
        finish(rows.test.pk, "0")
    seen = take_weight(rows.test.pk, capture(rows.outputs[0], "6.00"), None).revision
    take_weight(rows.test.pk, capture(rows.outputs[1], "0.15"), None)
    with pytest.raises(Refused, match=r"older than the test.*0\.15 lb for Tips") as refused:
        finish(rows.test.pk, str(seen))
    assert refused.value.status == 409
    first = finish(rows.test.pk, str(seen + 1)).test.finished_at
    assert finish(rows.test.pk, "anything").test.finished_at == first


def test_a_finished_test_takes_no_more_changes_but_a_repeat_is_harmless(opened):
    rows = opened()
    one = capture(rows.outputs[0], "6.12")
    rows = take_weight(rows.test.pk, one, None)
    finish(rows.test.pk, str(rows.revision))
    assert len(take_weight(rows.test.pk, one, None).weighings) == 1
    for change in (
        lambda: take_back(rows.test.pk, str(rows.weighings[0].pk), None),
        lambda: add_pile(rows.test.pk, "Scraps", "lean"),
    ):
        with pytest.raises(Refused, match="was finished on") as refused:
            change()
        assert refused.value.status == 409


def test_a_sheet_out_of_balance_is_approved_only_with_a_reason(weighed, shop):
    rows = weighed(piles=("3.00",))
    for reason in ("", "   "):
        with pytest.raises(BadInput, match="Reason: it is empty"):
            approve(rows.test.pk, reason, shop["bram"].pk)
    with pytest.raises(BadInput, match="501 characters"):
        approve(rows.test.pk, "x" * 501, shop["bram"].pk)
    first = approve(rows.test.pk, "The tub fell.", shop["bram"].pk).test
    again = approve(rows.test.pk, "Another reason.", shop["ines"].pk).test
    assert (again.approval_reason, again.approved_at) == ("The tub fell.", first.approved_at)


def test_a_sheet_in_balance_needs_no_reason_and_an_open_test_no_approval(weighed, opened):
    assert approve(weighed().test.pk, "", None).test.approved_at
    with pytest.raises(Refused, match="still open"):
        approve(opened().test.pk, "why", None)


def test_a_test_finished_too_early_goes_back_to_the_block_with_a_note(weighed, shop):
    rows = weighed()
    before = len(rows.standing)
    for _ in range(2):
        rows = reopen(rows.test.pk, shop["ines"].pk)
    assert rows.test.is_open
    note = rows.test.notes.get()
    assert "then taken back to the block" in note.text
    assert note.by == shop["ines"]
    rows = take_weight(rows.test.pk, capture(rows.outputs[4], "0.02"), None)
    assert len(rows.standing) == before + 1
    finish(rows.test.pk, str(rows.revision))
    approve(rows.test.pk, "", None)
    with pytest.raises(Refused, match="the sheet is approved"):
        reopen(rows.test.pk, None)


def test_the_database_itself_refuses_approval_of_an_open_test(opened):
    rows = opened()
    with pytest.raises(IntegrityError), transaction.atomic():
        CuttingTest.objects.filter(pk=rows.test.pk).update(approved_at=rows.test.started_at)


@pytest.mark.parametrize(
    ("name", "pile", "says"),
    [
        ("tips ", "secondary", "already a pile named tips"),
        ("", "lean", "it is empty"),
        ("x" * 61, "lean", "at most 60"),
        ("Scraps", "gold", "Kind: choose"),
        ("a\x00b", "lean", "plain characters"),
    ],
)
def test_a_pile_needs_a_name_of_its_own_and_a_kind(opened, name, pile, says):
    with pytest.raises(BadInput, match=says):
        add_pile(opened().test.pk, name, pile)


def test_an_added_pile_takes_weight(opened):
    rows = add_pile(opened().test.pk, "Marrow  bone", "bone")
    added = rows.outputs[-1]
    assert (added.name, added.role) == ("Marrow bone", "credit")
    assert take_weight(rows.test.pk, capture(added, "0.30"), None).standing[0].output_id == added.pk


def test_a_note_is_added_once(opened):
    test = opened().test
    key = str(uuid.uuid4())
    for _ in range(2):
        add_note(test, key, " film  loose ", None)
    assert [note.text for note in Note.objects.all()] == ["film loose"]
    for bad in ({"text": " "}, {"text": "x" * 501}, {"key": "no"}):
        with pytest.raises(BadInput, match="Note: "):
            add_note(test, **{"key": str(uuid.uuid4()), "text": "x", "by_id": None, **bad})


@pytest.mark.long
@pytest.mark.django_db(transaction=True)
def test_many_hands_at_once_lose_nothing(opened):
    """Six threads, each repeating its captures: every key once, no lock error."""
    rows = opened(paid="60")
    keys = [[str(uuid.uuid4()) for _ in range(8)] for _ in range(6)]
    faults = []

    def hand(mine):
        try:
            for key in [*mine, *mine]:
                take_weight(rows.test.pk, capture(rows.outputs[0], "0.44", key=key), None)
        except Exception as fault:
            faults.append(fault)
        finally:
            connection.close()

    threads = [threading.Thread(target=hand, args=(mine,)) for mine in keys]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert faults == []
    assert {str(w.key) for w in Weighing.objects.all()} == {k for mine in keys for k in mine}
    assert Weighing.objects.count() == 48
