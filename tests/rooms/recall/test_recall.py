"""A lot from its bag to the last tray: followed, held, looked for, let go; trays sold for less."""

from datetime import timedelta
from decimal import Decimal

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from cutting.grinding.judging import How
from cutting.labels.tray_life import Life
from cutting.quantities import Unit, working
from cutting.tracing.flow import Kind
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.bags import leave, open_for_grinding
from rooms.cooler.actions.holds import hold_lot, lift_hold
from rooms.cooler.actions.parts import Remainder, repack
from rooms.cooler.models import Bag, LotHold
from rooms.cooler.queries.bags import due_today
from rooms.grinder.actions import batch as grinding
from rooms.grinder.actions.batch import CameOut, begin_batch, carry_over, finish_batch
from rooms.grinder.actions.tubs import (
    Pulled,
    answer_lot,
    hand_over,
    judge,
    pour_bag,
    pull,
    put_in,
    take_back_entry,
)
from rooms.grinder.models import Batch, BlendPlan, TubIn, TubOut
from rooms.grinder.queries.lots import lots_of_batch
from rooms.grinder.queries.worth import pounds_for_case
from rooms.pricebook.models import Product
from rooms.recall.actions.recalls import end_looking, find_tray, hold_and_look, lift, start_drill
from rooms.recall.models import Found, Recall
from rooms.recall.queries.trace import trace
from rooms.recall.queries.weights import End
from rooms.recall.queries.whereabouts import whereabouts
from rooms.trays.actions.house import change_label_rules
from rooms.trays.actions.life import becomes, not_so, to_tub
from rooms.trays.actions.mark_down import mark_down
from rooms.trays.actions.printing import print_waiting, reprint
from rooms.trays.models import MarkDown, PrintJob, Tray
from rooms.trays.queries.labelling import picture_of
from rooms.trays.queries.lot_graph import Start
from rooms.trays.queries.marking import marking
from rooms.trays.queries.shrink import shrink_lately
from tests.conftest import decide, person, words_of
from tests.rooms.grinder.helpers import blend, grind, tub
from tests.rooms.trays.helpers import KEY, LOT, lb, of_bag, pack

pytestmark = pytest.mark.django_db
D = Decimal


def pounds(grams):
    with working():
        return grams / Unit.LB.grams


def test_every_gram_of_a_lot_is_somewhere(chain):
    found = trace(Start(lot="l40"))
    ends = found.ends()
    with working():
        assert abs(sum(ends.values()) - found.weight) < D("0.001")
    assert found.weight == lb("6.17").to(Unit.G)
    assert End.UNACCOUNTED in ends  # 6.17 paid, 6.14 weighed out
    assert End.MORE not in ends  # all of the trim left its own pile
    assert round(pounds(ends[End.UNACCOUNTED]), 2) == D("0.03")
    share = pounds(found.from_it.in_it[Kind.BATCH, str(chain.batch.pk)]) / 12
    trim = pounds(found.from_it.in_it[Kind.ENTRY, str(chain.entry.pk)])
    assert abs(share - trim / (13 + trim)) < D("0.0001")  # mixed with 13 lb of L7
    with working():
        assert abs(pounds(ends[End.FOR_SALE]) - share * D("3.50")) < D("0.0001")


def test_a_tray_leads_back_to_each_lot_by_weight(chain):
    found = trace(Start(tray=chain.trays[0].pk))
    lots = {name: pounds(w) for (kind, name), w in found.into_it.in_it.items() if kind is Kind.LOT}
    assert set(lots) == {"l40", "l7"}
    with working():
        assert abs(sum(lots.values()) - D("2.00")) < D("0.0001")
    assert lots["l7"] > lots["l40"] > 0


def test_a_tray_in_a_tub_and_a_carry_over_are_followed_on(client, chain, size):
    first = chain.trays[0]
    other = tub("Other", pounds="4.0", lot="L9")
    event = to_tub(KEY(), first.pk, other.pk, None)
    carried = carry_over(KEY(), chain.batch.pk, other.pk, None)
    assert (event.entry.from_batch, carried.from_batch) == (chain.batch, chain.batch)
    TubOut.objects.create(
        key=KEY(), tub=other, weight=D("6.30"), reason="old", at=timezone.now() + timedelta(hours=1)
    )
    found = trace(Start(lot="l40"))
    ends = found.ends()
    with working():
        assert abs(sum(ends.values()) - found.weight) < D("0.001")
        share = pounds(found.from_it.in_it[Kind.BATCH, str(chain.batch.pk)]) / 12
        assert abs(pounds(ends[End.THROWN]) - share * D("2.30")) < D("0.001")
    alone = trace(Start(tray=first.pk))
    assert {end: round(pounds(w), 2) for end, w in alone.ends().items()} == {End.THROWN: D("2.00")}
    of_tub = trace(Start(tub=other.pk))
    assert round(pounds(of_tub.weight), 2) == D("6.30")
    assert {"l40", "l7", "l9"} == of_tub.origins.lots


def test_a_tray_packed_again_counts_once(chain, size, numbered):
    first = chain.trays[0]
    becomes(KEY(), first.pk, Life.TO_BLOCK, None)
    again = pack(chain.product, size, "1.24", f"tray:{first.pk}")
    assert (again.from_batch, again.batch) == (chain.batch, None)
    ends = trace(Start(batch=chain.batch.pk)).ends()
    assert round(pounds(ends[End.FOR_SALE]), 2) == D("2.70")  # 1.50 and 1.20
    assert round(pounds(ends[End.AT_BLOCK]), 2) == D("0.80")
    ends = trace(Start(tray=first.pk)).ends()
    assert {end: round(pounds(w), 2) for end, w in ends.items()} == {
        End.FOR_SALE: D("1.20"),
        End.AT_BLOCK: D("0.80"),
    }


def test_what_does_not_foot_is_shown(client, chain):
    """More left the block than the sheet has: a correction, or a hand that weighed twice."""
    TubIn.objects.create(
        key=KEY(),
        tub=chain.tub,
        source="case",
        weight=D(9),
        from_test=chain.rows.test,
        lots=[{"lot": LOT}],
        day=timezone.localdate(),
        at=timezone.now(),
    )
    ends = trace(Start(test=chain.rows.test.pk)).ends()
    assert ends[End.MORE] < 0
    answer = client.get(reverse("recall:trace", args=["test", chain.rows.test.pk]))
    assert "more than there was" in words_of(answer)


def test_a_lot_found_out_late_is_told_on_to_everything_made_of_it(client, chain, size):
    """Something of an unknown lot is ground, carried over and ground again; then its lot is found out."""
    unknown = pull(KEY(), chain.tub.pk, Pulled(lb("6"), "", timezone.localdate()), None)
    judge(chain.tub.pk, How.TESTER, D("0.855"), None)
    blend(client, weight="5")
    grind(client, None)
    first = Batch.objects.order_by("number").last()
    finish_batch(first.pk, CameOut(D("4.5"), D("0.3"), 4000), None)
    tray = pack(chain.product, size, "1.04", f"batch:{first.pk}")
    later = tub("Later", pounds="9", lot="L8")
    carry_over(KEY(), first.pk, later.pk, None)
    judge(later.pk, How.TESTER, D("0.855"), None)
    blend(client, weight="6")
    grind(client, None)
    second = Batch.objects.order_by("number").last()
    finish_batch(second.pk, CameOut(D("5.5"), D("0.3"), 4000), None)
    assert any(not lot["lot"] for lot in lots_of_batch(second))
    with pytest.raises(BadInput, match=r"G-3 was ground after this went into the tub"):
        answer_lot(KEY(), unknown.pk, "G-3", None)
    answer_lot(KEY(), unknown.pk, "L-77", None)
    for batch in (first, second):
        lots = [lot["lot"] for lot in lots_of_batch(batch)]
        assert "L-77" in lots
        assert all(lots)
    _held("l77")
    with pytest.raises(Refused, match="Lot l77 is held"):
        grinding.pack(KEY(), second.pk, grinding.Packing(1, D("1")), None)
    with pytest.raises(Refused, match="Lot l77 is held"):
        becomes(KEY(), tray.pk, Life.SOLD, None)
    assert trace(Start(batch=second.pk)).origins.lots >= {"l77", "l8"}


def test_what_was_poured_by_mistake_is_taken_back_under_a_hold_and_stays_held(chain, fill):
    (other,) = fill(("beef-tenderloin", 40, "5.00"))
    new = tub("New")
    entry = pour_bag(KEY(), new.pk, other.pk, D("0.9"), None)
    _held()
    take_back_entry(KEY(), entry.pk, None)
    assert Bag.objects.in_cooler().filter(pk=other.pk).exists()
    assert not Bag.objects.free().filter(pk=other.pk).exists()
    put_in(
        KEY(), new.pk, lb("1"), [{"lot": "L99"}], timezone.localdate(), None
    )  # it is clean again


def _held(lot="l-40"):
    return hold_lot(KEY(), lot, "metal found", None)


BLOCKED = {
    "poured into a tub": lambda c: open_for_grinding(c.other.pk, None),
    "packed again": lambda c: repack(
        c.bag.pk, Remainder(KEY(), lb("1"), timezone.localdate()), None
    ),
    "poured with its lean": lambda c: pour_bag(KEY(), c.tub.pk, c.other.pk, D("0.9"), None),
    "opened for a test": lambda c: c.weighed(paid="5.00", **of_bag(c.other)),
    "opened by its number": lambda c: c.weighed(lot="L 40"),
    "put into another tub": lambda c: hand_over(KEY(), c.clean.pk, c.trim.pk, None),
    "with more meat on top": lambda c: c.more(c.tub),
    "ground": lambda c: begin_batch(
        grinding.Begun(KEY(), BlendPlan.objects.first().pk, 0, 2000), person("ines").pk
    ),
    "carried over": lambda c: carry_over(KEY(), c.batch.pk, c.clean.pk, None),
    "packed by count": lambda c: grinding.pack(
        KEY(), c.batch.pk, grinding.Packing(1, D("1")), None
    ),
    "packed with a label": lambda c: pack(c.product, c.size, "1.54", f"batch:{c.batch.pk}"),
    "packed from its pile": lambda c: pack(c.steak, c.size, "0.54", f"test:{c.rows.outputs[0].pk}"),
    "labeled again": lambda c: reprint(KEY(), c.trays[0].pk, None),
    "put into the case": lambda c: becomes(KEY(), c.trays[0].pk, Life.IN_CASE, None),
    "sold": lambda c: becomes(KEY(), c.trays[0].pk, Life.SOLD, None),
    "marked down": lambda c: mark_down(KEY(), c.trays[0].pk, None, None),
    "put into a tub as a tray": lambda c: to_tub(KEY(), c.trays[0].pk, c.clean.pk, None),
    "taken back to the block": lambda c: becomes(KEY(), c.trays[0].pk, Life.TO_BLOCK, None),
}


def test_nothing_of_a_held_lot_goes_on(client, chain, fill, weighed, size):
    (chain.other,) = fill(("beef-tenderloin", 40, "5.00"))
    chain.weighed, chain.size, chain.clean = weighed, size, tub("Clean", pounds="1", lot="L8")
    chain.steak = Product.objects.filter(cut=chain.rows.outputs[0].cut).first()
    chain.more = tub_in
    blend(client, weight="1")
    hold = _held()
    before = (TubIn.objects.count(), Tray.objects.count(), Batch.objects.count())
    for name, act in BLOCKED.items():
        with pytest.raises(Refused, match="Lot l-40 is held since") as why:
            act(chain)
        assert "metal found" in why.value.message, name
    assert (TubIn.objects.count(), Tray.objects.count(), Batch.objects.count()) == before
    assert chain.other.pk not in {one.pk for one in due_today(timezone.localdate())}
    leave(chain.other.pk, "back", "held", None)
    becomes(KEY(), chain.trays[0].pk, Life.THROWN, None, "held")
    lift_hold(KEY(), hold.pk, "false alarm", None)
    becomes(KEY(), chain.trays[1].pk, Life.SOLD, None)


def test_a_held_tub_is_left_out_of_blends_and_of_what_the_case_can_have(client, chain):
    today = timezone.localdate() + timedelta(days=1)
    before = pounds_for_case(today)["beef"]
    assert before > 1
    _held()
    front = words_of(client.get(reverse("grinder:front")))
    assert "held, lot l-40: leave it" in front
    asked = blend(client, weight="1")
    assert asked.status_code == 422
    assert "lot l-40 is held; a free tub of beef is right" in words_of(asked)
    assert pounds_for_case(today).get("beef", 0) == 0
    lift_hold(KEY(), LotHold.objects.get().pk, "false alarm", None)
    assert pounds_for_case(today)["beef"] == before


def tub_in(into):
    return put_in(KEY(), into.pk, lb("1"), [{"lot": "L99"}], timezone.localdate(), None)


@pytest.mark.parametrize("at_once", [pytest.param(20, marks=pytest.mark.long), 1])
def test_labels_of_a_held_lot_stay_in_the_queue_and_the_others_come_out(
    chain, size, printer, numbered, monkeypatch, at_once
):
    """Also behind more of them than are looked at in one go."""
    monkeypatch.setattr("rooms.trays.actions.printing.MOST_AT_ONCE", at_once)
    printer.trouble = "off line"
    held = pack(chain.product, size, "1.14", f"batch:{chain.batch.pk}")
    free = pack(numbered, size, "1.28")
    _held()
    printer.trouble = ""
    _print_all()
    jobs = {job.tray_id: job.state for job in PrintJob.objects.all()}
    assert (jobs[held.pk], jobs[free.pk]) == ("waiting", "printed")
    lift_hold(KEY(), LotHold.objects.get().pk, "false alarm", None)
    _print_all()
    assert PrintJob.objects.get(tray=held).state == "printed"
    assert len(printer.out) == len({name for name, _ in printer.out}) == 4


def _print_all():
    while print_waiting().came_out:
        pass


def test_a_lot_is_held_once_and_only_a_manager_lets_it_go(client, as_role, chain):
    at, key = reverse("recall:hold"), KEY()
    sent = {"key": key, "lot": "L-40", "reason": "metal found"}
    for _ in range(2):
        assert as_role("ines").post(at, sent).status_code == 302
    again = client.post(at, sent | {"key": KEY(), "lot": "l40", "reason": "glass"})
    assert again.status_code == 409
    assert "is held since" in words_of(again)
    assert 'value="glass"' in again.content.decode()
    empty = client.post(at, sent | {"key": KEY(), "lot": "L7", "reason": " "})
    assert (empty.status_code, "why it is held" in words_of(empty)) == (422, True)
    recall = Recall.objects.get()
    away = reverse("recall:let_go", args=[recall.pk])
    refused = as_role("ines").post(away, {"key": KEY(), "reason": "never mind"})
    assert refused.status_code == 403
    assert "is for a manager" in words_of(refused)
    assert not hasattr(LotHold.objects.get(), "lifted")
    assert client.post(away, {"key": KEY(), "reason": ""}).status_code == 422
    key = KEY()
    for _ in range(2):
        assert client.post(away, {"key": key, "reason": "false alarm"}).status_code == 302
    late = client.post(away, {"key": KEY(), "reason": "me too"})
    assert (late.status_code, "is free since" in words_of(late)) == (409, True)
    recall.refresh_from_db()
    assert recall.report["for_sale"] == 2


def test_what_is_left_is_found_tray_by_tray(client, chain, size, numbered):
    stranger = pack(numbered, size, "1.28")
    becomes(KEY(), chain.trays[1].pk, Life.IN_CASE, None)
    becomes(KEY(), chain.trays[1].pk, Life.SOLD, None)
    recall = hold_and_look(KEY(), LOT, "metal found", None)
    at = reverse("recall:recall", args=[recall.pk])
    shown = words_of(client.get(at))
    assert "Still to be found: 1" in shown
    assert "Sold by hour" in shown
    assert "G-1" in shown
    link = f"https://shop.example/01/1/21/{chain.trays[0].serial}?x=1"
    for code, status, says in (
        (f"tray {stranger.number}", 409, "is not of lot L40: leave it where it is"),
        (link, 200, "found. Keep it apart"),
        (chain.trays[0].serial, 200, "was found already"),
        ("nonsense 9", 422, "nothing here is"),
        ("", 422, "0 characters"),
    ):
        answer = client.post(at, {"what": "found", "code": code})
        assert (answer.status_code, says in words_of(answer)) == (status, True), code
    assert Found.objects.count() == 1
    assert "Every tray that can still be stopped is found" in words_of(client.get(at))
    becomes(KEY(), chain.trays[0].pk, Life.THROWN, None, "called back")
    returned, was_there = find_tray(recall.pk, chain.trays[1], None)  # a shopper brought it back
    assert (returned.tray, was_there) == (chain.trays[1], False)
    assert whereabouts(recall.lot_key, recall).report()["looked_for"] == 2
    notice = words_of(client.get(reverse("recall:notice", args=[recall.pk])))
    assert "Do not eat" in notice
    assert "Ground beef" in notice


def test_a_drill_is_kept_with_its_time_and_holds_nothing(client, chain):
    key = KEY()
    for _ in range(2):
        client.post(reverse("recall:drill"), {"key": key, "lot": "l 40"})
    drill = Recall.objects.get()
    Recall.objects.update(started_at=timezone.now() - timedelta(minutes=11, seconds=20))
    assert find_tray(drill.pk, chain.trays[0], None)[1] is False
    becomes(KEY(), chain.trays[1].pk, Life.IN_CASE, None)
    at = reverse("recall:recall", args=[drill.pk])
    for _ in range(2):
        assert client.post(at, {"what": "end"}).status_code == 302
    drill.refresh_from_db()
    assert (drill.minutes, drill.report["found"], drill.report["for_sale"]) == (12, 1, 2)
    assert D(drill.report["accounted"]) > D("0.99")
    with pytest.raises(Refused, match="has ended"):
        find_tray(drill.pk, chain.trays[1], None)
    shown = words_of(client.get(reverse("recall:trace_front")))
    assert "drill" in shown
    assert "1 of 2" in shown
    with pytest.raises(BadInput, match="nothing is held"):
        lift(KEY(), drill.pk, "why", None)
    assert end_looking(drill.pk, None).report == drill.report
    with pytest.raises(BadInput, match="it is empty"):
        start_drill(KEY(), " ", None)


def test_anything_typed_or_scanned_finds_its_way(client, chain, numbered, size):
    at = reverse("recall:trace_front")
    tray, bag = chain.trays[0], chain.bag
    gs1 = f"(01){numbered.label.gtin}(3202)000124(21){tray.serial}"
    for code, kind in (
        ("l 40", "way/lot/"),
        ("G-1", "way/batch/"),
        (f"test {chain.rows.test.number}", "way/test/"),
        ("chuck", "way/tub/"),
        (f"tray {tray.number}", "way/tray/"),
        (tray.serial, "way/tray/"),
        (gs1, "way/tray/"),
        (f"https://shop.example/01/1/10/G-1/21/{tray.serial}", "way/tray/"),
    ):
        answer = client.get(at, {"code": code})
        assert answer.status_code == 302, code
        assert kind in answer["Location"], code
        page = client.get(answer["Location"])
        assert page.status_code == 200
        assert "Where it" in words_of(page)
    both = client.get(at, {"code": "1"})  # test 1 and tray 1
    assert both.status_code == 200
    assert "may be" in words_of(both)
    for code in ("L41", "x" * 301, "https://else.example/21/1234", "\x00", "(01)123"):
        assert client.get(at, {"code": code}).status_code in (400, 422), code
    assert client.get(reverse("recall:trace_lot"), {"lot": "L41"}).status_code == 422
    assert client.get(reverse("recall:trace", args=["bag", KEY()])).status_code == 404
    assert client.get(reverse("recall:trace", args=["ship", bag.pk])).status_code == 404


def test_a_store_code_finds_the_trays_of_its_product_and_price(client, size, numbered, printer):
    from cutting.labels.codes import StoreCode, store_code

    tray = pack(numbered, size, "1.28")
    code = store_code(StoreCode.PRICE_13, "12301", tray.total, tray.weight).content
    answer = client.get(reverse("recall:trace_front"), {"code": code})
    assert answer["Location"] == reverse("recall:trace", args=["tray", tray.pk])


def test_a_lot_written_two_ways_is_one_and_that_is_said(client, fill):
    _, other = fill(("beef-tenderloin", 40, "6.17"), ("beef-tenderloin", 40, "5.00"))
    other.lot = "L-40"
    other.save()
    shown = words_of(client.get(reverse("recall:trace_lot"), {"lot": "l40"}))
    assert "written in 2 ways: L-40, L40" in shown
    assert "11.17" in shown
    _held("L 40")
    cooler = client.get(reverse("cooler:cooler")).content.decode()
    assert cooler.count('<b class="trouble">held</b>') == 2


def test_a_lot_in_another_script_and_a_shop_that_weighs_in_kilos(client, fill):
    decide(unit=Unit.KG)
    (bag,) = fill(("beef-tenderloin", 40, "6.17"))
    bag.lot = "Партия-12/б"
    bag.save()
    found = client.get(reverse("recall:trace_front"), {"code": "партия 12Б"})
    page = words_of(client.get(found["Location"]))
    assert "Lot Партия-12/б" in page
    assert "2.80 kg" in page
    sent = {"key": KEY(), "lot": "ПАРТИЯ 12б", "reason": "стекло"}
    shown = client.get(client.post(reverse("recall:hold"), sent)["Location"])
    assert "стекло" in words_of(shown)
    with pytest.raises(Refused, match="стекло"):
        open_for_grinding(bag.pk, None)


def test_each_place_says_where_its_meat_comes_from(client, chain):
    for kind, pk, says in (
        (
            "test",
            chain.rows.test.pk,
            "From lot L40, Skerry Point Packing; goes to Chuck, G-1, 2 trays",
        ),
        ("tub", chain.tub.pk, "From lot L40, Skerry Point Packing; lot L7"),
        ("batch", chain.batch.pk, "goes to 2 trays"),
        ("bag", chain.bag.pk, "goes to Chuck, G-1, 2 trays"),
        ("tray", chain.trays[0].pk, "From lot L40"),
    ):
        assert says in words_of(client.get(reverse("recall:line", args=[kind, pk]))), kind
    _held()
    line = words_of(client.get(reverse("recall:line", args=["tray", chain.trays[0].pk])))
    assert "Held: lot l-40, metal found" in line


def public(client, tray, gtin=None):
    gtin = gtin or tray.document["product"]["gtin"]
    return client.get(f"/01/{gtin}/10/{tray.document['lot']}/21/{tray.serial}")


def test_the_page_behind_the_qr_says_what_a_shopper_needs_and_nothing_of_the_inside(
    client, chain, size, numbered
):
    from django.test import Client

    nobody = Client()
    Tray.objects.filter(pk=chain.trays[0].pk).update(
        document=chain.trays[0].document
        | {"product": chain.trays[0].document["product"] | {"gtin": numbered.label.gtin}}
    )
    tray = Tray.objects.get(pk=chain.trays[0].pk)
    answer = public(nobody, tray)
    assert answer.status_code == 200
    assert answer["X-Robots-Tag"] == "noindex"
    shown = words_of(answer)
    assert "Ground beef" in shown
    assert "160 °F" in shown
    assert "Do not eat" not in shown
    for inside in ("Skerry", LOT, "Chuck", "Ines", "/trays/"):
        assert inside not in shown
    assert public(nobody, tray, "00012345678905").status_code == 404
    assert nobody.get(f"/01/{numbered.label.gtin}/21/000000000000").status_code == 404
    assert nobody.get(f"/01/{numbered.label.gtin}/21/{'9' * 50}").status_code == 404
    _held()
    held = words_of(public(nobody, tray))
    assert "Do not eat it" in held
    assert "held by the shop" in held
    assert "metal" not in held
    lift_hold(KEY(), LotHold.objects.get().pk, "false alarm", None)
    becomes(KEY(), tray.pk, Life.THROWN, None, "smells")
    assert "was taken out of sale" in words_of(public(nobody, tray))
    change_label_rules({"link": ""}, None)
    assert public(nobody, tray).status_code == 404


def test_a_lot_that_is_not_here_can_be_held_before_it_comes(client, fill, opened):
    sent = {"key": KEY(), "lot": "L 40", "reason": "the supplier warned of it"}
    answer = client.post(reverse("recall:hold"), sent)
    shown = words_of(client.get(answer["Location"]))
    assert "No tray of it can still be stopped" in shown
    (bag,) = fill(("beef-tenderloin", 40, "6.17"))
    page = client.get(reverse("bench:open", args=[bag.piece.key]), {"bag": bag.pk})
    assert page.status_code == 409
    assert "the supplier warned of it" in words_of(page)


def test_a_piece_on_the_block_and_a_tray_packed_by_hand_have_a_way_too(
    client, opened, numbered, size, printer
):
    rows = opened(lot="L 5")
    page = words_of(client.get(reverse("recall:trace", args=["test", rows.test.pk])))
    assert "still on the block" in page
    assert "100.0 %" in page
    tray = pack(numbered, size, "1.28")
    page = words_of(client.get(reverse("recall:trace", args=["tray", tray.pk])))
    assert "lot not known" in page
    line = words_of(client.get(reverse("recall:line", args=["tray", tray.pk])))
    assert "No lot is known" in line


@pytest.fixture
def due(numbered, size, printer):
    change_label_rules({"markdown_days": 1, "markdown_off": D("0.30")}, None)
    tray = pack(numbered, size, "1.28")
    Tray.objects.update(sell_by=timezone.localdate() + timedelta(days=1))
    return Tray.objects.get(pk=tray.pk)


def test_what_is_due_is_marked_down_once_with_a_label_over_the_old(client, due, printer):
    (proposal,) = marking(timezone.localdate()).due
    at, key = reverse("trays:marking"), KEY()
    seen = f"{due.price.amount:f}"
    sent = {"key": key, "tray": due.pk, "seen": seen, "amount": f"{proposal.now.price.amount}"}
    for _ in range(2):
        assert client.post(at, sent).status_code == 302
    due.refresh_from_db()
    assert (due.state, due.price_now) == (Life.MARKED_DOWN, proposal.now.total)
    assert due.total > due.price_now
    mark = MarkDown.objects.get()
    assert (mark.was_total, mark.total) == (due.total, proposal.now.total)
    words = " ".join(one.text for one in picture_of(due.label_now, "large").words)
    assert f"Reduced: ${due.total:f}, now ${mark.total:f}" in words
    assert f"${mark.amount:f}/lb" in words
    assert len(printer.out) == PrintJob.objects.filter(state="printed").count()
    late = client.post(at, sent | {"key": KEY()})
    assert late.status_code == 409
    assert "it costs" in words_of(late)
    assert MarkDown.objects.count() == 1


def test_a_marking_down_is_taken_back_and_its_label_with_it(due, printer):
    printer.trouble = "the roll is empty"
    mark_down(KEY(), due.pk, D("5.00"), None)
    first = Tray.objects.get(pk=due.pk)
    mark_down(KEY(), due.pk, D("4.00"), None)
    not_so(KEY(), due.pk, None)
    tray = Tray.objects.get(pk=due.pk)
    assert (tray.state, tray.mark) == (Life.MARKED_DOWN, first.mark)
    waiting = PrintJob.objects.filter(state="waiting")
    assert [one.document for one in waiting] == [first.mark.document]
    becomes(KEY(), due.pk, Life.SOLD, None)
    assert Tray.objects.get(pk=due.pk).price_now == first.mark.total
    with pytest.raises(Refused, match="cannot be done"):
        mark_down(KEY(), due.pk, None, None)


@pytest.mark.parametrize(
    ("amount", "says"), [("99", "below"), ("0", "above 0 and below"), ("x", "plain decimal")]
)
def test_a_price_that_is_none_is_told_and_stays_typed(client, due, amount, says):
    sent = {"key": KEY(), "tray": due.pk, "seen": f"{due.price.amount:f}", "amount": amount}
    answer = client.post(reverse("trays:marking"), sent)
    assert answer.status_code == 422
    assert says in words_of(answer)
    assert f'value="{amount}"' in answer.content.decode()
    assert not MarkDown.objects.exists()


def test_all_of_it_by_the_rule_and_what_two_tablets_do_at_once(
    client, due, size, numbered, printer
):
    other = pack(numbered, size, "1.10")
    Tray.objects.update(sell_by=timezone.localdate())
    past = pack(numbered, size, "1.04")
    Tray.objects.filter(pk=past.pk).update(sell_by=timezone.localdate() - timedelta(days=1))
    seen = f"{due.price.amount:f}"
    mark_down(KEY(), other.pk, None, None)  # the other tablet was faster
    sent = {"key": KEY(), "what": "all", "row": [f"{due.pk} {seen}", f"{other.pk} {seen}"]}
    answer = client.post(reverse("trays:marking"), sent)
    assert answer.status_code == 409
    assert f"tray {other.number}: it costs" in words_of(answer)
    assert Tray.objects.get(pk=due.pk).state is Life.MARKED_DOWN
    found = marking(timezone.localdate())
    assert ([one.pk for one in found.past], found.due) == ([past.pk], [])
    assert {one.pk for one in found.done} == {due.pk, other.pk}
    with pytest.raises(Refused, match="its last day was"):
        mark_down(KEY(), past.pk, None, None)
    assert f"{past.number} " in words_of(client.get(reverse("trays:due")))


def test_many_trays_are_asked_at_once_whether_they_are_held(client, due, size, numbered, printer):
    trays = [pack(numbered, size, "1.10") for _ in range(4)]
    Tray.objects.update(sell_by=timezone.localdate())
    Tray.objects.filter(pk=trays[0].pk).update(lots=[{"lot": "L 40"}])
    _held()
    _held("L7")
    with CaptureQueriesContext(connection) as asked:
        found = marking(timezone.localdate())
    assert {one.tray.pk for one in found.due} == {due.pk, *(one.pk for one in trays[1:])}
    assert len(asked.captured_queries) <= 5 + 2 * 6


def test_what_was_lost_is_offered_as_the_products_shrink(client, due, size, numbered, printer):
    mark_down(KEY(), due.pk, None, None)
    thrown = pack(numbered, size, "1.10")
    becomes(KEY(), thrown.pk, Life.THROWN, None, "dropped")
    due.refresh_from_db()
    (lost,) = shrink_lately(timezone.localdate()).values()
    assert lost.packed == due.total + thrown.total
    assert (lost.marked_down, lost.thrown) == (due.total - due.price_now, thrown.total)
    part = words_of(client.get(reverse("trays:shrink", args=[numbered.pk])))
    assert "Use it as its shrink" in part
    offered = part.split("?shrink=")[1].split('"')[0]
    page = client.get(reverse("pricebook:product", args=[numbered.pk]), {"shrink": offered})
    assert f'value="{offered}"' in page.content.decode()
    assert offered not in ("0", "")


def test_the_card_of_a_product_comes_out_of_the_label_printer(client, numbered, printer, size):
    key = KEY()
    for _ in range(2):
        assert (
            client.post(reverse("trays:card", args=[numbered.pk]), {"key": key}).status_code == 302
        )
    job = PrintJob.objects.get()
    assert (job.kind, job.state, len(printer.out)) == ("card", "printed", 1)
    assert job.document["told"]
    assert client.post(reverse("trays:card", args=[10**6]), {"key": KEY()}).status_code == 422
