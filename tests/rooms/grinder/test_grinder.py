"""Tubs, blends, batches and the log: what goes in comes out, and every lot is found again."""

from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.grinding.judging import How
from cutting.quantities import Unit, Weight
from rooms.bench.actions.finishing import reopen
from rooms.bench.actions.weighings import take_back, take_weight
from rooms.bench.models import CuttingTest, Output
from rooms.bench.queries.rows import load
from rooms.common.errors import Refused
from rooms.cooler.models import Bag
from rooms.grinder.actions.batch import CameOut, clean_down, finish_batch
from rooms.grinder.actions.tubs import (
    NewTub,
    hand_over,
    judge,
    left_of,
    pour_bag,
    put_in,
    start_tub,
    throw_away,
)
from rooms.grinder.models import Batch, BlendPlan, TrimTub, TubIn, TubOut
from rooms.grinder.queries.log import batch_view, found
from rooms.grinder.queries.tubs import tubs_now, waiting, what_tests_say
from rooms.pricebook.models import Product
from rooms.shop.models import Shop
from tests.cases import some_often
from tests.conftest import capture, finish, person, words_of
from tests.rooms.grinder.helpers import KEY, blend, grind, to_batch, tub

pytestmark = pytest.mark.django_db
D = Decimal


def test_a_pile_of_the_block_goes_into_a_tub_once_with_its_lots(client, weighed, fill):
    rows = weighed()
    (one, *_) = [w for w in waiting() if w.output.pile == "lean"]
    CuttingTest.objects.filter(pk=rows.test.pk).update(lot="L77")
    chuck = start_tub(NewTub(KEY(), "Trim", "beef", "lean"), None)
    sent = {"key": KEY(), "tub": chuck.pk, "output": one.output.pk}
    for _ in range(2):
        assert client.post(reverse("grinder:take_trim"), sent).status_code == 302
    entry = TubIn.objects.get()
    assert entry.weight == one.weight.value
    assert [lot["lot"] for lot in entry.lots] == ["L77"]
    assert not [w for w in waiting() if w.output.pk == one.output.pk]
    again = client.post(reverse("grinder:take_trim"), sent | {"key": KEY()})
    assert again.status_code == 409
    assert "in a tub already" in words_of(again)
    pork = start_tub(NewTub(KEY(), "Pork", "pork", "lean"), None)
    rows = weighed()
    (other,) = [w for w in waiting() if w.output.pile == "lean"]
    wrong = {"key": KEY(), "tub": pork.pk, "output": other.output.pk}
    assert "the tub is pork" in words_of(client.post(reverse("grinder:take_trim"), wrong))


def test_what_never_goes_in_and_what_is_still_on_the_block_is_refused(client, weighed, opened):
    rows = weighed()
    chuck = start_tub(NewTub(KEY(), "Trim", "beef", "lean"), None)
    main = Output.objects.filter(test=rows.test, pile="portions").first()
    sent = {"key": KEY(), "tub": chuck.pk}
    answer = client.post(reverse("grinder:take_trim"), sent | {"output": main.pk})
    assert "does not go into a tub of lean trim" in words_of(answer)
    running = opened("beef-tenderloin", "6.00")
    lean = next(o for o in running.outputs if o.pile == "lean")
    answer = client.post(reverse("grinder:take_trim"), sent | {"output": lean.pk})
    assert "still on the block" in words_of(answer)
    assert client.post(reverse("grinder:take_trim"), {"key": "x"}).status_code == 422


def test_from_a_blend_to_trays_nothing_is_lost_and_every_lot_is_found(client, two, ready, solving):
    answer = blend(client)
    assert answer.status_code == 302
    page = client.get(answer["Location"])
    words = words_of(page)
    assert "take 7.8 lb" in words or "take 8.3 lb" in words or "take" in words
    assert "May be called: ground beef" in words
    key = KEY()
    for _ in range(2):
        assert grind(client, answer, key=key).status_code == 302
    batch = Batch.objects.get()
    taken = sum(TubOut.objects.filter(batch=batch).values_list("weight", flat=True))
    assert abs(taken - D(12)) < D("0.001")
    assert sum(left_of(one) for one in two) + taken == 24
    assert {lot["lot"] for lot in batch_view(batch).lots} == {"L1", "L2"}
    assert to_batch(client, batch, "pack", trays="3", weight="2").status_code == 409
    assert (
        to_batch(client, batch, "finish", got="11.6", machine="0.3", celsius="4").status_code == 302
    )
    assert to_batch(client, batch, "pack", trays="6", weight="6.2").status_code == 302
    view = batch_view(Batch.objects.get())
    assert (view.trays, view.packed_weight) == (6, D("6.2"))
    assert view.loss.startswith("0.10 lb")
    assert "30 of 6 oz" in view.patties
    over = to_batch(client, batch, "pack", trays="9", weight="9")
    assert over.status_code == 422
    assert "are left of G-1" in words_of(over)
    for text in ("L1", "l2".upper(), "G-1", "ground beef"):
        assert found(text, None) == [batch]
    assert found("L3", None) == []
    assert found("", timezone.localdate()) == [batch]
    assert "G-1" in words_of(client.get(reverse("grinder:log"), {"text": "L2"}))
    words = words_of(client.get(reverse("grinder:batch", args=[batch.pk])))
    assert "85 % lean, 15 % fat" in words
    assert "Low Holm Provisions" in words


def test_a_lot_that_came_after_is_not_in_the_batch(client, two, ready, solving):
    blend(client)
    grind(client, None)
    lots = [{"lot": "L9"}]
    put_in(KEY(), two[0].pk, Weight(D(3), Unit.LB), lots, timezone.localdate(), None)
    batch = Batch.objects.get()
    assert "L9" not in {lot["lot"] for lot in batch_view(batch).lots}
    assert found("L9", None) == []


def test_what_is_carried_over_links_two_batches_until_the_grinder_is_cleaned(
    client, two, ready, solving
):
    blend(client)
    grind(client, None)
    first = Batch.objects.get()
    to_batch(client, first, "finish", got="11.5", machine="0.4", celsius="4")
    rest = tub("Rest", lean="0.85")
    carry = {"tub": rest.pk, "key": KEY()}
    address = reverse("grinder:batch", args=[first.pk])
    for _ in range(2):
        assert client.post(address, {"what": "carry", **carry}).status_code == 302
    assert left_of(rest) == D("0.4")
    again = client.post(address, {"what": "carry", "tub": rest.pk, "key": KEY()})
    assert "carried over already" in words_of(again)
    blend(client, weight="8", lean="86")
    grind(client, None)
    second = Batch.objects.first()
    assert f"{second}, ground beef" in words_of(client.get(reverse("grinder:due")))
    assert batch_view(second).run == batch_view(first).run
    assert [one.pk for one in batch_view(second).linked] == [first.pk]
    with pytest.raises(Refused, match="G-2 is in it"):
        clean_down(KEY(), "cleaned", person("ines").pk)
    to_batch(client, second, "finish", got="7.6", machine="0.3", celsius="4")
    for what in ("cleaned", "set_up"):
        clean_down(KEY(), what, person("ines").pk)
    late = client.post(
        reverse("grinder:batch", args=[second.pk]), {"what": "carry", "tub": rest.pk, "key": KEY()}
    )
    assert "was cleaned since" in words_of(late)


@pytest.mark.parametrize(
    ("steps", "says"),
    [([], "no clean-down is on record"), (["cleaned"], "was not set up since")],
)
def test_a_grinder_that_is_not_clean_or_not_set_up_does_not_grind(
    client, two, solving, steps, says
):
    for what in steps:
        clean_down(KEY(), what, person("ines").pk)
    blend(client)
    answer = grind(client, None)
    assert answer.status_code == 409
    assert says in words_of(answer)
    assert not Batch.objects.exists()
    assert sum(left_of(one) for one in two) == 24


def test_another_animal_asks_for_a_clean_grinder(client, two, ready, solving):
    blend(client)
    grind(client, None)
    to_batch(client, Batch.objects.get(), "finish", got="11.5", machine="0.4", celsius="4")
    pork = tub("Pork", species="pork", pounds="9", lean="0.72")
    product = Product.objects.filter(cut__species="lamb", cut__is_ground=True).first()
    lamb = tub("Lamb", species="lamb", pounds="9", lean="0.80")
    sent = {"b0-product": product.pk, "b0-rule": "none"}
    blend(client, weight="5", lean="80", **sent)
    answer = grind(client, None)
    assert "clean it before lamb" in words_of(answer)
    assert left_of(lamb) == left_of(pork) == 9


def test_somebody_under_18_neither_grinds_nor_cleans(as_role, two, ready, solving):
    """29 CFR 570.61."""
    tove = as_role("tove")
    blend(tove)
    answer = grind(tove, None)
    assert answer.status_code == 409
    assert "29 CFR 570.61" in words_of(answer)
    with pytest.raises(Refused, match="under 18"):
        clean_down(KEY(), "cleaned", person("tove").pk)


def test_warm_meat_and_a_tub_that_was_used_since_are_refused_and_nothing_is_taken(
    client, two, ready, solving
):
    blend(client)
    warm = grind(client, None, celsius="7")
    assert "4.4 °C (40 °F) or colder" in words_of(warm)
    throw_away(KEY(), two[1].pk, "smells", None)
    gone = grind(client, None)
    assert gone.status_code == 409
    assert "was emptied" in words_of(gone)
    assert not Batch.objects.exists()
    assert left_of(two[0]) == 14


@pytest.mark.parametrize(
    ("sent", "says"),
    some_often(
        [
            ({"weight": "x"}, "not a plain number"),
            ({"weight": "0"}, "more than 0"),
            ({"lean": "101"}, "at most 100"),
            (
                {"lean": "99"},
                "99.0 % cannot be had for ground beef of that weight; 80.0 to 90.8 % can",
            ),
            (
                {"lean": "92", "weight": "10", "used_up": True},
                "it cannot be had of these tubs with all of",
            ),
            ({"weight": "99"}, "99.0 lb of ground beef are asked, 24.0 lb may go into it"),
        ]
    ),
)
def test_what_cannot_be_blended_says_why_and_keeps_what_was_typed(
    client, two, ready, solving, sent, says
):
    asked = {name: value for name, value in sent.items() if name != "used_up"}
    more = {"used_up": [str(two[0].pk)]} if "used_up" in sent else {}
    answer = blend(client, **asked, **more)
    assert answer.status_code == 422
    assert says in words_of(answer)
    name, value = next(iter(sent.items()))
    assert f'name="b0-{name}" value="{value}"' in answer.content.decode()
    assert not BlendPlan.objects.exists()


def test_a_tub_nobody_judged_is_left_out_and_that_is_said(client, shop, solving):
    made = start_tub(NewTub(KEY(), "New", "beef", "lean"), None)
    put_in(KEY(), made.pk, Weight(D(9), Unit.LB), [], timezone.localdate(), None)
    answer = blend(client)
    assert "say how lean a tub is first" in words_of(answer)
    (view,) = tubs_now(timezone.localdate())
    assert view.unknown == 1
    assert "lot not known" in words_of(client.get(reverse("grinder:tub", args=[made.pk])))


def test_two_products_from_the_same_tubs_and_a_tub_used_up(client, two, ready, solving):
    fat = tub("Fat", kind="hard_fat", pounds="3", lean="0.15")
    product = Product.objects.get(cut__key="beef-ground")
    more = {"b1-product": product.pk, "b1-rule": "hamburger", "b1-weight": "6", "b1-lean": "75"}
    answer = blend(client, used_up=[str(two[1].pk)], **more)
    assert answer.status_code == 302
    plan = BlendPlan.objects.get()
    assert str(two[1].pk) not in {row["tub"] for row in plan.answer["left"]}
    first, _ = plan.answer["batches"]
    assert str(fat.pk) not in {row["tub"] for row in first["take"]}
    words = words_of(client.get(answer["Location"]))
    assert "hamburger, 75 % lean, 25 % fat" in words
    for number in ("0", "1"):
        assert grind(client, None, number=number).status_code == 302
        batch = Batch.objects.first()
        finish_batch(batch.pk, CameOut(batch.weight, D(0), 3000), None)
    assert Batch.objects.count() == 2
    assert left_of(two[1]) == 0


def test_a_bag_bought_with_a_stated_lean_is_poured_without_a_test(client, shop, fill):
    (bag,) = fill(("beef-shoulder-clod", 3, "20.00"), price="3.10")
    made = start_tub(NewTub(KEY(), "Boxed 90", "beef", "lean"), None)
    key = KEY()
    for _ in range(2):
        pour_bag(key, made.pk, bag.pk, D("0.90"), None)
    bag.refresh_from_db()
    assert bag.state == Bag.State.OPENED
    (view,) = tubs_now(timezone.localdate())
    assert (view.left, view.lean.share) == (D(20), D("0.90"))
    assert view.cost == D("3.10")
    assert view.lots == 1
    with pytest.raises(Refused, match="is opened since"):
        pour_bag(KEY(), made.pk, bag.pk, D("0.90"), None)


def test_trim_past_its_day_is_due_and_is_thrown_away_with_a_reason(client, shop):
    made = start_tub(NewTub(KEY(), "Old", "beef", "lean"), None)
    put_in(
        KEY(), made.pk, Weight(D(4), Unit.LB), [], timezone.localdate() - timedelta(days=3), None
    )
    assert tubs_now(timezone.localdate())[0].is_due
    assert "past its day" in words_of(client.get(reverse("grinder:due")))
    address = reverse("grinder:tub", args=[made.pk])
    empty = client.post(address, {"what": "throw", "key": KEY(), "reason": " "})
    assert "why it is thrown away is right" in words_of(empty)
    full = client.post(address, {"what": "close"})
    assert "are in it; an empty one is right" in words_of(full)
    assert client.post(address, {"what": "throw", "key": KEY(), "reason": "old"}).status_code == 302
    assert TubOut.objects.get().weight == 4
    assert tubs_now(timezone.localdate()) == []
    late = client.post(address, {"what": "judge", "lean": "80"})
    assert "take another tub" in words_of(late)


def test_tests_of_batches_put_the_eye_right_kindly(client, ready, shop, solving):
    ines = person("ines").pk
    for number in range(4):
        made = start_tub(NewTub(KEY(), f"T{number}", "beef", "lean"), None)
        put_in(KEY(), made.pk, Weight(D(5), Unit.LB), [{"lot": "L"}], timezone.localdate(), None)
        judge(made.pk, How.EYE, D("0.88"), ines)
        lean = f"{tubs_now(timezone.localdate())[-1].lean.share * 100:.4f}"
        answer = blend(client, weight="5", lean=lean)
        assert answer.status_code == 302, words_of(answer)
        answer = grind(client, None)
        assert answer.status_code == 302, words_of(answer)
        batch = Batch.objects.first()
        to_batch(client, batch, "fat", fat="18")
        finish_batch(batch.pk, CameOut(D(5), D(0), 3000), None)
        throw_away(KEY(), made.pk, "rest", None)
    bias = what_tests_say().eyes[ines]
    assert bias.tests == 4
    assert D("0.04") < bias.off < D("0.06")
    assert "points leaner than they are; it is allowed for" in words_of(
        client.get(reverse("grinder:front"))
    )


def test_more_cannot_come_out_than_went_in_and_finishing_twice_changes_nothing(
    client, two, ready, solving
):
    blend(client)
    grind(client, None)
    batch = Batch.objects.get()
    over = to_batch(client, batch, "finish", got="13", machine="0", celsius="4")
    assert over.status_code == 422
    assert "are more than went in" in words_of(over)
    for _ in range(2):
        same = to_batch(client, batch, "finish", got="11.5", machine="0.2", celsius="4")
        assert same.status_code == 302
    other = to_batch(client, batch, "finish", got="11.0", machine="0.2", celsius="4")
    assert other.status_code == 409
    assert to_batch(client, batch, "else").status_code == 422


def test_the_pages_are_there_on_an_empty_shop(client, shop):
    assert "No tub yet" in words_of(client.get(reverse("grinder:front")))
    assert "Nothing found" in words_of(client.get(reverse("grinder:log"), {"day": "x"}))
    sent = {"key": KEY(), "name": "Chuck", "species": "beef", "kind": "lean", "primal": "Chuck"}
    for _ in range(2):
        assert client.post(reverse("grinder:new_tub"), sent).status_code == 302
    assert TrimTub.objects.get().primal == "chuck"
    assert client.post(reverse("grinder:new_tub"), sent | {"name": ""}).status_code == 422
    assert client.post(reverse("grinder:clean"), {"key": "x"}).status_code == 422


def test_a_loss_is_held_against_those_before(client, two, ready, solving):
    blend(client, weight="2")
    grind(client, None)
    first = Batch.objects.get()
    values = {
        field.attname: getattr(first, field.attname)
        for field in Batch._meta.concrete_fields
        if field.attname not in ("id", "number", "got", "machine")
    }
    for number in range(2, 12):
        lost = D("0.02") if number % 2 else D("0.03")
        made = Batch(**values, id=KEY(), number=number, got=D("1.9") - lost, machine=D("0.1"))
        made.save(force_insert=True)
    last = Batch.objects.first()
    assert "as usual" in batch_view(last).loss
    last.got = D("1.5")
    last.save()
    assert "look for the reason" in batch_view(last).loss


def test_a_kilo_shop_grinds_what_was_weighed_in_pounds(client, weighed, ready, solving):
    Shop.objects.update(unit="kg")
    weighed()
    made = start_tub(NewTub(KEY(), "Обрезь", "beef", "lean"), None)
    assert made.unit == "kg"
    for one in waiting():
        if one.output.pile == "lean":
            hand_over(KEY(), made.pk, one.output.pk, None)
    judge(made.pk, How.EYE, D("0.85"), None)
    left = left_of(made)
    assert left > 0
    answer = blend(client, weight=f"{left:.4f}", lean="85")
    assert answer.status_code == 302, words_of(answer)
    assert "Обрезь" in words_of(client.get(answer["Location"]))
    assert grind(client, None).status_code == 302
    batch = Batch.objects.get()
    assert batch.unit == "kg"
    assert left_of(made) < D("0.01")
    assert to_batch(client, batch, "finish", got="0.2", machine="0", celsius="3").status_code == 302
    assert "oz" in batch_view(Batch.objects.get()).patties


def test_two_tablets_grind_the_same_tubs_and_the_second_is_told(client, two, ready, solving):
    blend(client, weight="20", lean="86")
    first = BlendPlan.objects.get()
    blend(client, weight="20", lean="86")
    grind(client, None)
    sent = {"key": KEY(), "number": "0", "celsius": "2"}
    busy = client.post(reverse("grinder:grind", args=[first.pk]), sent)
    assert "G-1 is in it" in words_of(busy)
    finish_batch(Batch.objects.get().pk, CameOut(D(19), D(1), 3000), None)
    late = client.post(reverse("grinder:grind", args=[first.pk]), sent)
    assert late.status_code == 409
    assert "are left" in words_of(late)
    assert "blend again" in words_of(late)
    assert Batch.objects.count() == 1
    assert sum(left_of(one) for one in two) == 4


def test_few_queries_however_many_tubs(client, shop, django_assert_max_num_queries):
    for number in range(12):
        tub(f"T{number}", pounds="5")
    address = reverse("grinder:front")
    client.get(address)
    with django_assert_max_num_queries(15):
        assert client.get(address).status_code == 200


def test_a_test_taken_back_to_the_block_after_its_trim_was_handed_over_changes_no_tub(
    client, weighed
):
    rows = weighed()
    one = next(w for w in waiting() if w.output.pile == "lean")
    made = start_tub(NewTub(KEY(), "Trim", "beef", "lean"), None)
    hand_over(KEY(), made.pk, one.output.pk, None)
    before = left_of(made)
    reopen(rows.test.pk, None)
    again = load(rows.test.pk)
    own = next(w for w in again.standing if w.output_id == one.output.pk)
    take_back(rows.test.pk, str(own.pk), None)
    assert left_of(made) == before
    assert one.output.pk not in {w.output.pk for w in waiting()}
    again = load(rows.test.pk)
    again = take_weight(rows.test.pk, capture(one.output, f"{own.value}"), None)
    finish(rows.test.pk, str(again.revision))
    assert one.output.pk not in {w.output.pk for w in waiting()}
    with pytest.raises(Refused, match="in a tub already"):
        hand_over(KEY(), made.pk, one.output.pk, None)


def test_a_damaged_request_is_refused_in_words(client, two, ready, solving):
    blend(client)
    grind(client, None)
    batch = Batch.objects.get()
    at = {"tub": reverse("grinder:tub", args=[two[0].pk])}
    at |= {"batch": reverse("grinder:batch", args=[batch.pk])}
    take = reverse("grinder:take_trim")
    for address, sent in (
        (at["tub"], {"what": "throw", "key": "x", "reason": "old"}),
        (at["tub"], {"what": "throw", "reason": "old"}),
        (at["batch"], {"what": "carry", "key": KEY(), "tub": "x"}),
        (take, {"key": KEY(), "tub": two[0].pk, "output": "9" * 40}),
        (take, {"key": KEY(), "tub": two[0].pk, "output": "\u0663"}),
    ):
        assert client.post(address, sent).status_code == 422, sent
    for wrong in ("9" * 40, "x", "\u0663"):
        assert client.get(reverse("grinder:front"), {"blend": wrong}).status_code == 200
    assert sum(left_of(one) for one in two) == 12
