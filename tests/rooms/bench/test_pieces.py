"""Whole pieces that come off a test: into the cooler as bags, cut on, corrected, taken back."""

import uuid
from dataclasses import replace
from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.cooler.ageing import Window
from cutting.labels.tray_life import Life
from cutting.quantities import Unit
from rooms.bench.actions.correct import Correcting, correct
from rooms.bench.actions.finishing import reopen, void_test
from rooms.bench.actions.pieces import Keeping, into_cooler, out_of_cooler, put_back
from rooms.bench.models import PieceBag
from rooms.bench.queries.cut_today import piles_free
from rooms.bench.queries.invoice import invoice_now
from rooms.bench.queries.its_bags import WhichBag
from rooms.bench.queries.meat import bags_of_tests, meat_of_test
from rooms.bench.queries.opening import of_bags
from rooms.bench.queries.piece_bags import cost_of_pile, moved_since
from rooms.bench.queries.pile_left import left_on_pile
from rooms.bench.queries.rows import load
from rooms.catalog.models import Piece, Plan
from rooms.common.db.seen import state_of
from rooms.common.errors import BadInput, KeyTaken, Refused
from rooms.cooler.actions.bags import BagFacts, correct_bag, set_window, was_frozen
from rooms.cooler.actions.holds import hold_lot
from rooms.cooler.actions.parts import seal_again
from rooms.cooler.models import Bag
from rooms.cooler.queries.days import core_bags
from rooms.cooler.queries.deliveries import delivery_view, prices_now
from rooms.cooler.queries.windows import repacked
from rooms.recall.queries.trace import trace
from rooms.recall.queries.trace_page import way_view
from rooms.recall.queries.weights import End
from rooms.trays.actions.life import becomes
from rooms.trays.queries.lot_graph import Start
from tests.pieces import opened_from, weighed_out
from tests.rooms.trays.helpers import flat_iron, pack, tray_set

pytestmark = pytest.mark.django_db
D = Decimal
HALF = Decimal("0.5")


@pytest.fixture
def quarter(fill):
    """`quarter()`: a hindquarter 10 days old, cut by seams and finished."""

    def cut(age=10, **more):
        (bag,) = fill(("beef-hindquarter", age, "160.00"), **more)
        set_window(bag.piece, Window(0, 0, 20, 45))
        bag.refresh_from_db()
        plan = Plan.objects.get(piece=bag.piece, key="by-seams")
        rows = weighed_out(opened_from([bag], plan))
        return bag, rows

    return cut


def pile(rows, key):
    """The pile that is a whole piece, and its weighing."""
    piece = Piece.objects.get(key=key)
    output = next(one for one in rows.outputs if one.piece_id == piece.pk)
    return output, rows.of(output)[0]


def kept(rows, key, *, is_sealed=True, **more):
    _, weighing = pile(rows, key)
    keeping = Keeping(uuid.uuid4(), weighing.pk, key, is_sealed)
    return into_cooler(rows.test.pk, replace(keeping, **more), None)


def corrected(rows, weighings, **more):
    typed = {one.pk: f"{one.value:f}" for one in rows.standing} | weighings
    correct(
        rows.test.pk,
        Correcting(str(uuid.uuid4()), "the scale was off", typed, {}, more),
        None,
    )
    return load(rows.test.pk)


def test_a_piece_goes_into_the_cooler_with_all_that_travels_with_the_meat(quarter):
    whole, rows = quarter(
        claims="grass fed", grade="Choice", born="US", raised="US", slaughtered="CA"
    )
    output, weighing = pile(rows, "beef-short-loin")
    bag = kept(rows, "beef-short-loin")
    assert bag.weight == weighing.reading.weight
    assert bag.line.price == cost_of_pile(rows, output)
    for name in ("lot", "lot_key", "grade", "country", "born", "raised", "slaughtered", "claims"):
        assert getattr(bag, name) == getattr(whole, name), name
    assert (bag.cut_of, bag.delivery, bag.piece.key) == (whole, whole.delivery, "beef-short-loin")
    core = core_bags([bag])[bag.pk]
    assert core.window == repacked(bag.piece)
    assert core.ends_on <= core_bags([whole])[whole.pk].ends_on
    assert bag.aged.on(timezone.localdate()) == 10
    assert left_on_pile(rows, output).value == 0
    assert output.pk not in piles_free(timezone.localdate())


def test_it_is_not_what_the_supplier_billed(quarter):
    whole, rows = quarter()
    bag = kept(rows, "beef-short-loin")
    assert delivery_view(whole.delivery).totals.bags == 1
    assert prices_now([bag.piece_id]) == {}
    weighed_out(opened_from([bag], Plan.objects.get(piece=bag.piece, key="boned")))
    assert invoice_now([bag.piece_id]) == {}  # its cost here is no price of a box


@pytest.mark.parametrize("is_sealed", [True, False])
def test_only_what_is_sealed_ages_on(quarter, is_sealed):
    _, rows = quarter()
    bag = kept(rows, "beef-short-loin", is_sealed=is_sealed)
    later = timezone.localdate() + timedelta(days=4)
    assert bag.aged.on(later) == (14 if is_sealed else 10)
    end = timezone.localdate() + timedelta(days=14 if is_sealed else 5)
    assert bag.ends_on == end  # the days of opened meat, in the file of windows


def test_no_piece_outlives_the_bag_it_came_from(quarter):
    whole, rows = quarter(age=44)
    for is_sealed in (True, False):
        key = "beef-short-loin" if is_sealed else "beef-top-round"
        bag = kept(rows, key, is_sealed=is_sealed)
        assert bag.ends_on == core_bags([whole])[whole.pk].ends_on


def test_sealing_later_is_recorded_and_undone(quarter, client):
    _, rows = quarter()
    bag = kept(rows, "beef-short-loin", is_sealed=False)
    today = timezone.localdate()
    Bag.objects.filter(pk=bag.pk).update(packed_on=today - timedelta(days=2))
    end = Bag.objects.get(pk=bag.pk)
    address = reverse("cooler:sealed", args=[bag.pk])
    for _ in range(2):
        assert client.post(address, {"sealed": "1"}).status_code == 302
    bag.refresh_from_db()
    assert (bag.is_unsealed, bag.sealed_on) == (False, today)
    assert [bag.aged.on(today + timedelta(days=n)) for n in (0, 3)] == [10, 13]
    assert bag.ends_on == today + timedelta(days=12)  # its clock counts from the day it was cut
    assert bag.events.filter(kind="sealed").count() == 1
    assert client.post(address, {"sealed": "0"}).status_code == 302
    bag.refresh_from_db()
    assert (bag.is_unsealed, bag.sealed_on) == (True, None)
    assert bag.aged.on(today + timedelta(days=3)) == 10
    assert end.state == bag.state
    seal = reverse("cooler:seal", args=[bag.pk])
    assert client.post(seal, {"seal": "leaking"}).status_code == 409  # there is no film to leak
    assert client.post(address, {"sealed": "x"}).status_code == 422


def test_what_came_sealed_is_not_sealed_again(fill):
    (bag,) = fill(("beef-short-loin", 10, "20"))
    with pytest.raises(Refused, match="came sealed"):
        seal_again(bag.pk, is_sealed=True, by_id=None)


def test_the_same_key_again_is_one_bag_and_another_content_is_refused(quarter):
    _, rows = quarter()
    _, weighing = pile(rows, "beef-short-loin")
    keeping = Keeping(uuid.uuid4(), weighing.pk, "beef-short-loin", True)
    first = into_cooler(rows.test.pk, keeping, None)
    assert into_cooler(rows.test.pk, keeping, None) == first
    with pytest.raises(KeyTaken):
        into_cooler(rows.test.pk, replace(keeping, is_sealed=False), None)
    with pytest.raises(Refused, match="in the cooler already"):  # another tablet
        into_cooler(rows.test.pk, replace(keeping, key=uuid.uuid4()), None)
    assert PieceBag.objects.count() == 1


def test_what_cannot_be_a_piece_is_refused(quarter, opened):
    _, rows = quarter()
    _, weighing = pile(rows, "beef-short-loin")
    right = Keeping(uuid.uuid4(), weighing.pk, "beef-short-loin", True)
    waste = next(one for one in rows.outputs if one.role == "discard")
    for wrong, error, says in (
        ({"weighing": 10**9}, BadInput, "not on the sheet"),
        ({"piece": "pork-loin"}, BadInput, "one of those shown"),
        ({"piece": "ребро"}, BadInput, "one of those shown"),
        ({"weighing": rows.of(waste)[0].pk}, Refused, "waste or a by-product"),
        ({"bag": uuid.uuid4()}, WhichBag, "choose the bag"),
    ):
        with pytest.raises(error, match=says):
            into_cooler(rows.test.pk, replace(right, key=uuid.uuid4(), **wrong), None)
    test = opened().test
    with pytest.raises(Refused, match="Finish the test first"):
        into_cooler(test.pk, right, None)
    assert not PieceBag.objects.exists()


def test_what_was_not_opened_from_a_bag_is_received_in_the_cooler(weighed):
    rows = weighed()
    main = rows.of(rows.outputs[0])[0]
    with pytest.raises(Refused, match="not opened from a bag"):
        into_cooler(rows.test.pk, Keeping(uuid.uuid4(), main.pk, "beef-ribeye", True), None)


def test_of_two_lots_the_bag_is_chosen(fill):
    bags = fill(("beef-hindquarter", 10, "80"), ("beef-hindquarter", 12, "20"))
    plan = Plan.objects.get(piece=bags[0].piece, key="by-seams")
    rows = weighed_out(opened_from(bags, plan))
    with pytest.raises(WhichBag, match="L10 or L12"):
        kept(rows, "beef-short-loin")
    assert kept(rows, "beef-short-loin", bag=bags[1].pk).lot == "L12"


def test_a_held_lot_keeps_its_pieces_where_they_are(quarter):
    whole, rows = quarter()
    bag = kept(rows, "beef-short-loin")
    hold_lot(uuid.uuid4(), whole.lot, "glass was found", None)
    with pytest.raises(Refused, match="is held"):
        kept(rows, "beef-flank")
    with pytest.raises(Refused, match="is held"):
        of_bags([str(bag.pk)])


def test_what_is_packed_does_not_go_into_the_cooler_and_the_other_way(quarter):
    _, rows = quarter()
    output, _ = pile(rows, "beef-flank")
    size, product = tray_set(), flat_iron("beef-flank-steak")
    tray = pack(product, size, "0.64", f"test:{output.pk}")
    with pytest.raises(Refused, match=r"do not lie there any more; 1\.00 lb do"):
        kept(rows, "beef-flank")
    becomes(uuid.uuid4(), tray.pk, Life.UNDONE, None, reason="the wrong pile")
    bag = kept(rows, "beef-flank")
    with pytest.raises((BadInput, Refused), match=r"only 0\.00 lb is left"):
        pack(product, size, "0.64", f"test:{output.pk}")
    out_of_cooler(bag.pk, None)
    assert pack(product, size, "0.64", f"test:{output.pk}").net == D("0.60")


# --- what is corrected on the way ---


def test_what_is_put_right_on_the_first_bag_goes_on_to_its_pieces(quarter):
    whole, rows = quarter()
    bag = kept(rows, "beef-short-loin")
    inner = weighed_out(opened_from([bag], Plan.objects.get(piece=bag.piece, key="boned")))
    strip = kept(inner, "beef-strip-loin")
    whole = Bag.objects.get(pk=whole.pk)
    packed = whole.packed_on - timedelta(days=3)
    use_by = timezone.localdate() + timedelta(days=2)
    facts = BagFacts("L-77", packed, use_by, "Prime", "Canada", "CA", "CA", "CA")
    correct_bag(whole.pk, facts, state_of(whole), None)
    was_frozen([whole.pk], None)
    for pk in (bag.pk, strip.pk):
        one = Bag.objects.get(pk=pk)
        assert (one.lot, one.lot_key, one.grade, one.born) == ("L-77", "l77", "Prime", "CA")
        assert one.ends_on <= use_by
        assert one.was_frozen
        assert one.aged.on(timezone.localdate()) == 13
        assert one.events.filter(words__contains="as the bag it came from").exists()
    bags = bags_of_tests([inner.test.pk])[inner.test.pk]
    meat = meat_of_test(inner.test, bags)
    assert meat.was_frozen
    assert [one.born for one in meat.origins] == ["CA"]
    with pytest.raises(Refused, match="correct that one"):
        correct_bag(bag.pk, replace(facts, lot="L-78"), state_of(Bag.objects.get(pk=bag.pk)), None)


def test_a_piece_has_the_claims_of_its_bag_and_no_others(quarter, client):
    whole, rows = quarter(claims="grass fed")
    bag = kept(rows, "beef-short-loin")
    address = reverse("cooler:quality", args=[bag.pk])
    answer = client.post(address, {"marbling": "", "claims": "grass fed, no hormones"})
    assert answer.status_code == 409
    assert "no hormones" in answer.content.decode()
    assert client.post(address, {"marbling": "", "claims": "grass fed"}).status_code == 302
    sent = {"marbling": "", "claims": "grain fed"}
    assert client.post(reverse("cooler:quality", args=[whole.pk]), sent).status_code == 302
    bag.refresh_from_db()
    assert bag.claims == "grain fed"


def test_a_corrected_sheet_gives_its_bags_their_new_weight_and_cost(quarter, client):
    _, rows = quarter()
    bag = kept(rows, "beef-short-loin")
    inner = weighed_out(opened_from([bag], Plan.objects.get(piece=bag.piece, key="boned")))
    _, weighing = pile(rows, "beef-short-loin")
    less = weighing.value - HALF
    rows = corrected(rows, {weighing.pk: f"{less}"})
    output, _ = pile(rows, "beef-short-loin")
    bag.refresh_from_db()
    assert bag.weight_value == less
    assert bag.line.price == cost_of_pile(rows, output)
    assert left_on_pile(rows, output).value == 0
    told = moved_since(inner.test, [bag])
    assert told[0] == f"weighs {less.normalize():f} lb, not {inner.test.weight_value:f}"
    page = client.get(reverse("bench:sheet", args=[inner.test.pk])).content.decode()
    assert told[0] in page
    rows = corrected(rows, {}, price_amount="5.00")
    bag.refresh_from_db()
    assert bag.line.price == cost_of_pile(rows, output)
    now = {"weight_value": f"{less}", "price_amount": f"{bag.price_amount}"}
    inner = corrected(inner, {}, **now)
    assert moved_since(inner.test, [bag]) == []


def test_a_weighing_in_the_cooler_is_not_left_out_and_its_sheet_not_reopened(quarter):
    _, rows = quarter()
    bag = kept(rows, "beef-short-loin")
    _, weighing = pile(rows, "beef-short-loin")
    with pytest.raises(Refused, match="Take the bag back"):
        corrected(rows, {weighing.pk: ""})
    with pytest.raises(Refused, match="in the cooler as bags"):
        reopen(rows.test.pk, None)
    out_of_cooler(bag.pk, None)
    reopen(rows.test.pk, None)
    assert load(rows.test.pk).test.is_open


def test_a_piece_comes_back_onto_its_sheet_and_goes_again(quarter):
    whole, rows = quarter()
    bag = kept(rows, "beef-short-loin")
    output, _ = pile(rows, "beef-short-loin")
    for _ in range(2):
        out_of_cooler(bag.pk, None)
    bag.refresh_from_db()
    assert (bag.state, bag.left_at is None) == (Bag.State.UNDONE, False)
    assert left_on_pile(rows, output).value > 0
    again = kept(rows, "beef-short-loin")
    assert again.pk != bag.pk
    inner = opened_from([again], Plan.objects.get(piece=again.piece, key="boned"))
    with pytest.raises(Refused, match="opened since"):
        out_of_cooler(again.pk, None)
    void_test(inner.test.pk, "the wrong one", None)
    out_of_cooler(again.pk, None)
    with pytest.raises(BadInput, match="did not come off"):
        out_of_cooler(whole.pk, None)


def test_part_of_a_piece_goes_back_and_ages_as_it_did(quarter):
    _, rows = quarter()
    bag = kept(rows, "beef-short-loin", is_sealed=False)
    Bag.objects.filter(pk=bag.pk).update(packed_on=timezone.localdate() - timedelta(days=2))
    bag.refresh_from_db()
    inner = opened_from([bag], Plan.objects.get(piece=bag.piece, key="boned"))
    put_back(inner.test.pk, uuid.uuid4(), replace(bag.weight, value=D(3)), None)
    part = Bag.objects.get(part_of=bag)
    assert part.aged.on(timezone.localdate()) == 10  # the two days it lay open do not count
    assert part.ends_on <= bag.ends_on


# --- the way of the meat ---


def test_the_way_goes_through_the_piece_to_what_was_cut_of_it(quarter):
    whole, rows = quarter()
    bag = kept(rows, "beef-short-loin")
    round_ = kept(rows, "beef-top-round")
    gone = kept(rows, "beef-flank")
    out_of_cooler(gone.pk, None)
    inner = weighed_out(opened_from([bag], Plan.objects.get(piece=bag.piece, key="boned")))
    strip = kept(inner, "beef-strip-loin")
    for start in (Start(lot=whole.lot_key), Start(bag=whole.pk), Start(test=rows.test.pk)):
        found = trace(start)
        assert {whole.pk, bag.pk, round_.pk, strip.pk} - found.reached.bags <= {whole.pk}
        assert gone.pk not in found.reached.bags
        assert inner.test.pk in found.reached.tests
        ends = found.ends()
        assert sum(ends.values()) == pytest.approx(found.weight)
        in_cooler = sum((one.weight.to(Unit.G) for one in (round_, strip)), D(0))
        assert ends[End.COOLER] == pytest.approx(in_cooler)
        assert End.MORE not in ends
    drawn = way_view(Start(lot=whole.lot_key)).picture
    names = [box.thing.name for box in drawn.boxes]
    assert names[1:3] == [whole.piece.shown_name, f"test {rows.test.number}"]
    assert (
        f"test {inner.test.number}" not in names
    )  # from left to right: it stands as the first test
    cooler = next(box.thing for box in drawn.boxes if box.thing.name == "in the cooler")
    assert cooler.weight == pytest.approx(in_cooler)
    assert any("to in the cooler" in band.title for band in drawn.bands)
    back = trace(Start(bag=strip.pk))
    assert {rows.test.pk, inner.test.pk} <= back.origins.tests
    assert {whole.pk, bag.pk} <= back.origins.bags
    assert back.origins.lots == {whole.lot_key}
    assert back.into_it.in_it[("lot", whole.lot_key)] == pytest.approx(back.weight)


# --- the page ---


def test_the_sheet_offers_its_whole_pieces_and_keeps_what_was_chosen(quarter, client):
    _, rows = quarter()
    address = reverse("bench:sheet", args=[rows.test.pk])
    page = client.get(address).content.decode()
    assert "Whole pieces" in page
    assert "Put a piece in the cooler" in page
    _, weighing = pile(rows, "beef-short-loin")
    post = reverse("bench:into_cooler", args=[rows.test.pk])
    sent = {"key": uuid.uuid4(), "weighing": weighing.pk, "piece": "beef-short-loin", "sealed": "0"}
    assert client.post(post, sent | {"sealed": ""}).status_code == 422
    assert client.post(post, sent | {"piece": "pork-loin"}).status_code == 422
    assert client.post(post, sent).status_code == 302
    bag = Bag.objects.get(cut_of__isnull=False)
    page = client.get(address).content.decode()
    assert "in the cooler as Short loin" in " ".join(page.split())
    assert reverse("cooler:bag", args=[bag.pk]) in page
    words = client.get(reverse("cooler:bag", args=[bag.pk])).content.decode()
    assert "Cut from" in words
    assert "Sealed today" in words
    back = reverse("bench:out_of_cooler", args=[rows.test.pk])
    assert client.post(back, {"bag": "x"}).status_code == 422
    assert client.post(back, {"bag": bag.pk}).status_code == 302
    assert client.post(back, {"bag": bag.pk}).status_code == 302
