"""A weighing that came too late is kept and placed by a person; a test opened by mistake is voided."""

import uuid
from decimal import Decimal

import pytest
from django.urls import reverse

from rooms.bench.actions.finishing import NotWeighedOut, reopen, void_test
from rooms.bench.actions.finishing import finish as act
from rooms.bench.actions.piles import merge_piles
from rooms.bench.actions.tubs import choose_tub, close_tub, start_tub
from rooms.bench.actions.weighings import discard_weighing, place_weighing, take_weight
from rooms.bench.models import CuttingTest, Move, Unplaced, Weighing
from rooms.bench.queries.finishing import Agreed
from rooms.bench.queries.piles import sum_of
from rooms.bench.queries.rows import load
from rooms.bench.queries.unplaced import all_waiting
from rooms.common.errors import BadInput, KeyTaken, Refused
from rooms.cooler.models import Bag
from tests.conftest import address, capture, finish, words_of
from tests.rooms.trays.helpers import of_bag

pytestmark = pytest.mark.django_db
D = Decimal
KEY = uuid.uuid4


@pytest.fixture
def late(weighed):
    """0.44 lb sent for a pile of a test that was finished meanwhile."""
    rows = weighed()
    take_weight(rows.test.pk, capture(rows.outputs[0], "0.44"), rows.test.cutter_id)
    return Unplaced.objects.get()


def test_it_counts_nowhere_and_the_block_and_today_say_so(client, late):
    rows = load(late.test_id)
    assert all(one.value != D("0.44") for one in rows.weighings)
    assert (late.value, late.taken_by_id) == (D("0.44"), rows.test.cutter_id)
    assert all_waiting() == [late]
    for page in ("bench:not_placed", "bench:scales"):
        assert "not placed" in words_of(client.get(reverse(page)))
    assert "1 weighing came after the end and counts nowhere" in words_of(
        client.get(address("sheet", rows))
    )
    reopen(late.test_id, rows.test.cutter_id)
    assert "1 weighing not placed" in words_of(client.get(address("test", rows)))


def test_it_is_placed_onto_a_pile_as_it_was_weighed(late):
    rows = load(late.test_id)
    pile = rows.outputs[1]
    with pytest.raises(Refused, match="not placed"):
        place_weighing(KEY(), late.pk, str(pile.pk), None)
    reopen(late.test_id, rows.test.cutter_id)
    with pytest.raises(BadInput, match="Pile"):
        place_weighing(KEY(), late.pk, "nowhere", None)
    key = KEY()
    for _ in range(2):
        placed = place_weighing(key, late.pk, str(pile.pk), None)
    made = Weighing.objects.get(pk=placed.weighing_id)
    assert (made.value, made.output_id, made.taken_at) == (late.value, pile.pk, late.taken_at)
    assert all_waiting() == []
    with pytest.raises(Refused, match="placed it already"):
        discard_weighing(KEY(), late.pk, "weighed twice", None)
    with pytest.raises(KeyTaken):
        place_weighing(key, late.pk, str(rows.outputs[0].pk), None)


def test_it_is_discarded_with_a_reason_and_stays_readable(client, late):
    before = Weighing.objects.count()
    with pytest.raises(BadInput, match="Reason"):
        discard_weighing(KEY(), late.pk, " ", None)
    discard_weighing(KEY(), late.pk, "weighed twice", None)
    assert (Weighing.objects.count(), all_waiting()) == (before, [])
    page = words_of(client.get(reverse("bench:weighings", args=[late.test_id])))
    assert "weighed twice" in page
    assert "0.44" in page


def test_a_repeat_of_a_late_weighing_is_the_same_and_an_altered_one_is_told(weighed):
    rows = weighed()
    one = capture(rows.outputs[0], "0.44")
    for _ in range(3):
        take_weight(rows.test.pk, one, None)
    assert Unplaced.objects.count() == 1
    with pytest.raises(KeyTaken):
        take_weight(rows.test.pk, capture(rows.outputs[0], "0.45", key=one.key), None)
    reopen(rows.test.pk, rows.test.cutter_id)
    take_weight(rows.test.pk, one, None)  # the tablet tries once more: it is still not placed
    assert Weighing.objects.filter(key=one.key).count() == 0


def test_a_merged_pile_hands_it_on_with_its_move(opened):
    rows = opened()
    take_weight(rows.test.pk, capture(rows.outputs[2], "0.93"), None)
    rows = load(rows.test.pk)
    gone, into = rows.outputs[2], rows.outputs[1]
    waited = capture(gone, "0.44")
    merge_piles(rows.test.pk, str(gone.pk), str(into.pk), sum_of(rows, gone), None)
    for _ in range(2):
        take_weight(rows.test.pk, waited, None)
    made = Weighing.objects.get(key=waited.key)
    assert made.output_id == into.pk
    assert Move.objects.filter(weighing=made).count() == 1
    assert not Unplaced.objects.exists()


def test_one_for_a_tub_that_was_closed_waits(opened):
    rows = opened()
    tub = start_tub(KEY(), "Lean 80", ("1.12", "lb"), "lean", None)
    choose_tub(rows.test.pk, str(rows.outputs[2].pk), str(tub.pk), None)
    sent = capture(rows.outputs[2], "0.93", tub=str(tub.pk))
    close_tub(tub.pk)
    take_weight(rows.test.pk, sent, None)
    assert "no shared tub" in Unplaced.objects.get().why


# --- finishing: A8 ----------------------------------------------------------------------------


def test_much_unweighed_or_an_empty_pile_is_agreed_to_and_little_is_one_touch(opened):
    """More than 2 % unweighed, a pile of 1 % or more empty: common practice, no published source."""
    rows = opened()
    rows = take_weight(rows.test.pk, capture(rows.outputs[0], "3.00"), None)
    seen = str(rows.revision)
    with pytest.raises(NotWeighedOut) as asked:
        act(rows.test.pk, seen)
    told, empty = asked.value.told, frozenset(one.pk for one in asked.value.told.empty)
    assert told.unweighed == "3.17"
    assert rows.outputs[0].pk not in empty
    with pytest.raises(NotWeighedOut):
        act(rows.test.pk, seen, agreed=Agreed("3.17"))
    with pytest.raises(NotWeighedOut):
        act(rows.test.pk, seen, agreed=Agreed("3.10", empty))
    done = act(rows.test.pk, seen, agreed=Agreed("3.17", empty))
    assert not done.test.is_open
    assert {one.pk for one in load(rows.test.pk).outputs if one.is_none} == empty


def test_all_of_it_weighed_is_finished_by_one_touch(opened):
    rows = opened()
    for output, weight in zip(
        rows.outputs, ("3.45", "0.80", "0.93", "0.68", "0.22", "0.06"), strict=False
    ):
        rows = take_weight(rows.test.pk, capture(output, weight), None)
    assert not act(rows.test.pk, str(rows.revision)).test.is_open


# --- void -------------------------------------------------------------------------------------


def test_a_test_opened_by_mistake_is_voided_and_its_bag_lies_in_the_cooler_again(
    client, opened, fill
):
    (bag,) = fill(("beef-tenderloin", 9, "6.17"))
    rows = opened(**of_bag(bag))
    days = Bag.objects.values_list("ends_on", "lost_days").get(pk=bag.pk)
    with pytest.raises(BadInput, match="Reason"):
        void_test(rows.test.pk, "", None)
    for _ in range(2):
        void_test(rows.test.pk, "wrong bag", None)
    bag.refresh_from_db()
    assert bag.state == Bag.State.IN
    assert (bag.ends_on, bag.lost_days) == days
    test = CuttingTest.objects.get()
    assert (test.number, test.void_reason) == (rows.test.number, "wrong bag")
    again = opened(**of_bag(bag))
    assert again.test.number == test.number + 1


def test_a_weighed_test_is_not_voided_and_a_late_weighing_for_a_void_one_waits(opened, fill):
    rows = opened()
    take_weight(rows.test.pk, capture(rows.outputs[0], "0.44"), None)
    with pytest.raises(Refused, match="something was weighed"):
        void_test(rows.test.pk, "wrong bag", None)
    other = opened()
    void_test(other.test.pk, "wrong bag", None)
    take_weight(other.test.pk, capture(other.outputs[0], "0.44"), None)
    assert "voided" in Unplaced.objects.get().why
    finish(other.test.pk, str(load(other.test.pk).revision))  # it is not open: nothing changes
    other.test.refresh_from_db()
    assert (other.test.finished_at, other.test.voided_at is not None) == (None, True)
