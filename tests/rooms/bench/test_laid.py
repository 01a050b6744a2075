"""A test that is cut by a layout: what is asked next, and whatever else can happen to it."""

import uuid
from decimal import Decimal
from urllib.parse import urlencode

import pytest
from django.urls import reverse

from cutting.quantities import Unit, Weight
from rooms.bench.actions.correct import Correcting, correct
from rooms.bench.actions.finishing import reopen
from rooms.bench.actions.layout import lay, take_layout_off
from rooms.bench.actions.pieces import put_back
from rooms.bench.actions.piles import Chosen, choose, merge_piles, move_weighing, unmerge
from rooms.bench.actions.weighings import take_back, take_weight
from rooms.bench.forms import laying_of
from rooms.bench.models import CuttingTest, Laid, LaidPortion
from rooms.bench.queries.laid import pile_of, standing
from rooms.bench.queries.next_cut import next_cut
from rooms.bench.queries.piles import sum_of
from rooms.bench.queries.rows import load_known
from rooms.catalog.models import Piece
from rooms.catalog.queries.shapes import shape_of
from rooms.common.errors import BadInput, Refused
from rooms.cooler.models import Bag
from rooms.layout.models import CameOut
from rooms.layout.queries.pooling import pooled
from tests.conftest import capture, decide, finish, words_of

pytestmark = pytest.mark.django_db
ASKED = {"plan": "steaks-one-inch", "weight": "12.40", "unit": "lb"}
STEAK = "Rib-eye steak"


@pytest.fixture
def laid(opened):
    """A rib-eye of 14.50 lb that is cut by a layout of the 12.40 lb left of it when trimmed."""

    def open_it(**more):
        test = opened("beef-ribeye", "14.50", "9.99").test
        piece = Piece.objects.get(key="beef-ribeye")
        laying = laying_of(piece, urlencode(ASKED | more), uuid.uuid4())
        lay(test.pk, laying, None)
        return load_known(test.pk)

    return open_it


def asked_of(rows):
    return standing(load_known(rows.test.pk)).following.next


def cut(rows, by="1", portions=1, pile=""):
    """Weigh the next as asked, so much heavier than that."""
    first = asked_of(rows)[:portions]
    weight = sum(float(one.expected) for one in first) * float(by)
    output = pile_of(rows, pile or first[0].name)
    return take_weight(
        rows.test.pk, capture(output, f"{weight:.2f}", portions=str(portions), is_typed=True), None
    )


def test_a_test_opened_with_a_layout_shows_its_next_cut_and_follows_what_is_weighed(client, shop):
    query = urlencode(ASKED)
    address = reverse("bench:open", args=["beef-ribeye"])
    page = client.get(f"{address}?{urlencode({'plan': 'steaks-one-inch', 'layout': query})}")
    assert "It is cut by the layout" in words_of(page)
    key = str(uuid.uuid4())
    plan = Piece.objects.get(key="beef-ribeye").plans.get(key="steaks-one-inch").pk
    sent = {"key": key, "plan": plan, "weight": "14.50", "unit": "lb", "price": "9.99"}
    for _ in range(2):
        answer = client.post(address, {**sent, "layout": query})
        assert answer.status_code == 302
    assert Laid.objects.count() == 1
    rows = load_known(CuttingTest.objects.get(pk=key).pk)
    words = words_of(client.get(answer["Location"]))
    first = next_cut(rows)
    assert first.thick in words
    assert f"{STEAK}, about" in words
    after = cut(rows, "1.06")
    said = words_of(client.get(answer["Location"]))
    assert next_cut(after).changed in said
    assert "came out" in next_cut(after).changed


def test_a_kilo_shop_reads_its_next_cut_in_millimetres_and_grams(laid):
    decide(unit=Unit.KG)
    found = next_cut(cut(laid()))
    assert found.thick.endswith(" mm")
    assert found.weight.endswith(" g")


def test_every_weighing_keeps_what_it_was_asked_for_and_the_next_follows(laid):
    rows = laid()
    before = asked_of(rows)
    rows = cut(rows)
    kept = LaidPortion.objects.get()
    assert kept.asked["name"] == STEAK
    assert Decimal(kept.asked["thick"]) == before[0].thick
    after = asked_of(rows)
    assert len(after) == len(before) - 1
    many = cut(rows, portions=3)
    assert len(asked_of(many)) == len(after) - 3
    assert LaidPortion.objects.count() == 2


def test_a_repeated_weighing_changes_nothing(laid):
    rows = laid()
    output = pile_of(rows, STEAK)
    once = capture(output, "0.88", is_typed=True)
    for _ in range(2):
        take_weight(rows.test.pk, once, None)
    assert LaidPortion.objects.count() == 1
    assert len(Laid.objects.get().asked_of) == 1


def test_taken_back_it_stands_as_before_also_for_the_next_weighing(laid):
    rows = laid()
    first = cut(rows)
    asked = asked_of(first)
    wrong = cut(rows, "1.5")
    assert asked_of(wrong) != asked
    back = take_back(rows.test.pk, str(wrong.weighings[-1].pk), None)
    assert asked_of(back) == asked
    cut(back)
    assert standing(load_known(rows.test.pk)).told[-1].asked is not None


def test_moved_to_trim_it_is_no_portion_and_moved_again_it_is(laid):
    rows = cut(laid())
    before = asked_of(rows)
    weighing, steak = rows.weighings[-1], pile_of(rows, STEAK)
    trim = next(o for o in rows.outputs if o.name == "Lean trim")
    move_weighing(rows.test.pk, str(weighing.pk), str(trim.pk), str(steak.pk), None)
    assert standing(load_known(rows.test.pk)).told == ()
    move_weighing(rows.test.pk, str(weighing.pk), str(steak.pk), str(trim.pk), None)
    assert asked_of(rows) == before


def test_a_merged_pile_takes_its_products_along_and_undone_it_gives_them_back(laid):
    rows = cut(laid())
    before = asked_of(rows)
    steak, other = pile_of(rows, STEAK), next(o for o in rows.outputs if o.name == "Sandwich steak")
    merge_piles(rows.test.pk, str(steak.pk), str(other.pk), sum_of(rows, steak), None)
    assert pile_of(load_known(rows.test.pk), STEAK).name == "Sandwich steak"
    assert next_cut(load_known(rows.test.pk)) is not None
    unmerge(rows.test.pk, str(steak.pk), None)
    assert asked_of(rows) == before


def test_two_tablets_weigh_at_once_and_neither_bends_the_shape_by_the_other(laid):
    """The second weighing was cut by what was said before the first: it only takes its weight off."""
    rows = laid()
    steak = pile_of(rows, STEAK)
    Laid.objects.update(asked_of=[10**9])  # what another tablet is still working out
    take_weight(rows.test.pk, capture(steak, "0.88", is_typed=True), None)
    found = standing(load_known(rows.test.pk))
    assert found.told[0].asked is None
    assert found.following.seen == ()
    assert found.following.next


def test_put_back_is_off_the_far_end(opened, fill):
    fill(("beef-ribeye", 20, "14.50"))
    bag = Bag.objects.get()
    facts = {"freight": bag.freight, "packed_on": bag.packed_on, "lot": bag.lot}
    facts["supplier"] = bag.delivery.supplier
    test = opened("beef-ribeye", "14.50", bags=(bag.pk,), **facts).test
    lay(test.pk, laying_of(test.piece, urlencode(ASKED), uuid.uuid4()), None)
    rows = cut(load_known(test.pk))
    before = standing(rows).following
    put_back(test.pk, uuid.uuid4(), Weight(Decimal("5.00"), Unit.LB), None)
    found = standing(load_known(test.pk))
    assert found.laid.asked_of == [rows.weighings[-1].pk]
    after = found.following
    assert len(after.next) < len(before.next)
    assert after.layout.parts[-1].product is None
    assert after.layout.parts[-1].weight >= 5


def test_a_target_chosen_at_the_block_is_told_beside_the_layout(laid):
    rows = laid()
    assert next_cut(rows).caution == ""
    steak = pile_of(rows, STEAK)
    choose(rows.test.pk, Chosen(str(uuid.uuid4()), "target", str(steak.pk), "8 oz"), None)
    words = next_cut(load_known(rows.test.pk)).caution
    assert "another target now, 8 oz" in words
    assert "Lay it out again" in words


def test_laid_out_again_only_later_weighings_count_and_taken_off_nothing_is_asked(laid):
    rows = cut(cut(laid()))
    piece = rows.test.piece
    again = laying_of(piece, urlencode(ASKED | {"weight": "10.60"}), uuid.uuid4())
    lay(rows.test.pk, again, None)
    assert standing(load_known(rows.test.pk)).told == ()
    cut(rows)
    take_layout_off(rows.test.pk, None)
    take_layout_off(rows.test.pk, None)
    assert next_cut(load_known(rows.test.pk)) is None
    lay(rows.test.pk, laying_of(piece, urlencode(ASKED), uuid.uuid4()), None)
    assert standing(load_known(rows.test.pk)).told == ()


def test_a_finished_tests_portions_shape_the_pieces_to_come(laid):
    """Three tests whose portions came out heavy; corrected, reopened, they say what holds then."""
    piece = Piece.objects.get(key="beef-ribeye")
    plain = shape_of("beef-ribeye", "")
    for _ in range(3):
        rows = laid()
        for _ in range(4):
            rows = cut(rows, "1.06")
        finish(rows.test.pk, str(load_known(rows.test.pk).revision))
    usual = Weight(piece.usual_weight, Unit(piece.usual_unit))
    found = pooled(piece, plain, usual)
    assert found.cut == 3
    assert found.shape.length < plain.length
    assert CameOut.objects.filter(scale__gt=Decimal(1)).count() == 3
    own = CameOut.objects.get(test=rows.test.pk)
    last = load_known(rows.test.pk)
    right = {w.pk: f"{w.value * Decimal('0.94'):.2f}" for w in last.standing}
    correct(rows.test.pk, Correcting(str(uuid.uuid4()), "scale was off", right, {}, {}), None)
    assert CameOut.objects.get(test=rows.test.pk).scale < own.scale


def test_taken_back_to_the_block_a_test_says_nothing_of_the_shape_until_it_is_finished_again(laid):
    rows = laid()
    for _ in range(3):
        rows = cut(rows)
    finish(rows.test.pk, str(load_known(rows.test.pk).revision))
    assert CameOut.objects.count() == 1
    reopen(rows.test.pk, None)
    assert CameOut.objects.count() == 0
    finish(rows.test.pk, str(load_known(rows.test.pk).revision))
    assert CameOut.objects.get().portions == 3


def test_what_cannot_be_laid_is_refused_and_leaves_the_test_as_it_was(laid, client, opened):
    rows = laid()
    finished = cut(rows)
    finish(rows.test.pk, str(load_known(rows.test.pk).revision))
    laying = laying_of(rows.test.piece, urlencode(ASKED), uuid.uuid4())
    with pytest.raises(Refused, match="nothing was laid out"):
        lay(finished.test.pk, laying, None)
    other = opened("beef-tenderloin", "6.17", "7.49").test
    with pytest.raises(BadInput, match="no pile for Rib-eye steak"):
        lay(other.pk, laying, None)
    answer = client.post(
        reverse("bench:lay", args=[other.pk]),
        {"key": str(uuid.uuid4()), "asked": "weight=x&name-0=a", "piece": "beef-tenderloin"},
    )
    assert answer.status_code == 422
    assert "not a plain number" in words_of(answer)
    wrong = client.post(
        reverse("bench:lay", args=[other.pk]),
        {"key": str(uuid.uuid4()), "asked": "", "piece": "beef-ribeye"},
    )
    assert "it is of another piece" in words_of(wrong)
    assert not CuttingTest.objects.get(pk=other.pk).has_layout


def test_from_an_open_test_what_still_lies_on_the_block_is_laid_out(client, opened):
    rows = opened("beef-ribeye", "14.50", "9.99")
    trim = next(o for o in rows.outputs if o.name == "Lean trim")
    take_weight(rows.test.pk, capture(trim, "2.10", is_typed=True), None)
    words = client.get(reverse("bench:test", args=[rows.test.pk])).content.decode()
    asked = words.split('href="/layout/beef-ribeye/?')[1].split('"')[0].replace("&amp;", "&")
    page = client.get(f"/layout/beef-ribeye/?{asked}")
    assert page.context["view"].layout.task.weight == Weight(Decimal("12.40"), Unit.LB)
    sent = {"key": str(uuid.uuid4()), "asked": page.context["asked_for"], "piece": "beef-ribeye"}
    for _ in range(2):
        assert client.post(reverse("bench:lay", args=[rows.test.pk]), sent).status_code == 302
    assert Laid.objects.filter(test=rows.test).count() == 1
    off = reverse("bench:lay_off", args=[rows.test.pk])
    assert client.post(off).status_code == 302
    assert not CuttingTest.objects.get(pk=rows.test.pk).has_layout
