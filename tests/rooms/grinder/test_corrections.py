"""Undo after everything at the grinder: each action, and what it can follow or precede."""

from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from cutting.quantities import Unit, Weight
from rooms.common.errors import Refused
from rooms.cooler.models import Bag
from rooms.grinder.actions.batch import (
    Begun,
    CameOut,
    Packing,
    begin_batch,
    carry_over,
    clean_down,
    finish_batch,
    keep_blend,
    pack,
    take_back_clean,
    take_back_packed,
    tell_fat,
    undo_batch,
)
from rooms.grinder.actions.tubs import (
    NewTub,
    hand_over,
    left_of,
    pour_bag,
    put_in,
    start_tub,
    take_back_entry,
    take_back_throwing,
    throw_away,
)
from rooms.grinder.models import Batch, BlendPlan, Came, CleanDown, TrimTub, TubIn, TubOut
from rooms.grinder.queries.log import batch_view, found, records
from rooms.grinder.queries.machine import machine_now
from rooms.grinder.queries.tubs import state_of_tub, tubs_now, waiting, what_tests_say
from rooms.pricebook.models import Product
from tests.conftest import person, words_of
from tests.rooms.grinder.helpers import KEY, blend, grind, to_batch, tub

pytestmark = pytest.mark.django_db
D = Decimal
SHORT = (Phase.explicit, Phase.reuse, Phase.generate, Phase.target)


@pytest.fixture
def ground(client, two, ready, solving):
    """A batch of 12 lb of two tubs, in the grinder."""
    blend(client)
    grind(client, None)
    return Batch.objects.get()


def test_a_batch_begun_by_mistake_gives_its_meat_back_and_keeps_its_number(client, two, ground):
    lean, _ = two
    before = left_of(lean)
    for _ in range(2):
        assert to_batch(client, ground, "undo").status_code == 302
    assert [left_of(one) for one in two] == [14, 10]
    assert left_of(lean) > before
    assert machine_now().last is None
    assert found("L1", None) == [ground]
    assert "taken back" in words_of(client.get(reverse("grinder:log")))
    page = words_of(client.get(reverse("grinder:batch", args=[ground.pk])))
    assert "nothing was ground" in page
    for what, more in (
        ("finish", {"got": "11", "machine": "0", "celsius": "3"}),
        ("fat", {"fat": "15"}),
        ("carry", {"tub": lean.pk}),
    ):
        answer = to_batch(client, ground, what, **more)
        assert answer.status_code == 409, what
        assert "was taken back" in words_of(answer)
    blend(client)
    assert grind(client, None).status_code == 302
    assert Batch.objects.first().number == 2


def test_a_batch_whose_tub_was_put_away_opens_it_again(client, two, ready, solving):
    blend(client, weight="24", lean="85.4166")
    grind(client, None)
    batch = Batch.objects.get()
    for one in two:
        to = reverse("grinder:tub", args=[one.pk])
        assert client.post(to, {"what": "close"}).status_code == 302
    assert tubs_now(timezone.localdate()) == []
    undo_batch(batch.pk, None)
    assert {one.left for one in tubs_now(timezone.localdate())} == {14, 10}


def test_what_was_ground_is_not_taken_back(client, ground):
    tell_fat(KEY(), ground.pk, D("0.15"), None)
    assert "was ground" in words_of(to_batch(client, ground, "undo"))
    row = ground.tested.get()
    assert to_batch(client, ground, "not_tested", row=row.pk).status_code == 302
    assert what_tests_say().usual == {}
    assert to_batch(client, ground, "undo").status_code == 302


def test_what_came_out_is_corrected_and_both_stay(client, ground):
    to_batch(client, ground, "finish", got="1.15", machine="0.3", celsius="4")
    other = to_batch(client, ground, "finish", got="11.5", machine="0.3", celsius="4")
    assert other.status_code == 409
    assert "Look at the page again" in words_of(other)
    right = {"got": "11.5", "machine": "0.3", "celsius": "4", "seen": "1"}
    for _ in range(2):
        assert to_batch(client, ground, "finish", **right).status_code == 302
    assert [one.got for one in Came.objects.all()] == [D("1.15"), D("11.5")]
    words = words_of(client.get(reverse("grinder:batch", args=[ground.pk])))
    assert "11.5 lb, 0.3 in the grinder" in words
    assert "before: 1.15 and 0.3" in words
    pack(KEY(), ground.pk, Packing(5, D(10)), None)
    less = to_batch(client, ground, "finish", **(right | {"got": "9", "seen": "2"}))
    assert "10 lb are packed already" in words_of(less)


def test_a_carry_over_holds_what_stayed_until_it_is_taken_back(client, ground):
    finish_batch(ground.pk, CameOut(D("11.5"), D("0.3"), 4000), None)
    rest = tub("Rest")
    entry = carry_over(KEY(), ground.pk, rest.pk, None)
    change = {"got": "11.5", "machine": "0.4", "celsius": "4", "seen": "1"}
    assert "carried over" in words_of(to_batch(client, ground, "finish", **change))
    take_back_entry(KEY(), entry.pk, None)
    fat = tub("Fat", kind="hard_fat", lean="0.15")
    into_fat = to_batch(client, ground, "carry", tub=fat.pk)
    assert "is hard fat" in words_of(into_fat)
    assert left_of(rest) == 0
    assert to_batch(client, ground, "finish", **change).status_code == 302
    again = carry_over(KEY(), ground.pk, rest.pk, None)
    assert again.weight == D("0.4")


def test_trays_taken_back_may_be_packed_again(client, ground):
    finish_batch(ground.pk, CameOut(D("11.5"), D("0.3"), 4000), None)
    row = pack(KEY(), ground.pk, Packing(9, D("11.4")), None)
    full = to_batch(client, ground, "pack", trays="2", weight="2")
    assert full.status_code == 422
    key = KEY()
    for _ in range(2):
        take_back_packed(key, ground.pk, row.pk, None)
    assert "taken back already" in words_of(
        to_batch(client, ground, "not_packed", row=row.pk, key=KEY())
    )
    assert to_batch(client, ground, "pack", trays="8", weight="11.2").status_code == 302
    view = batch_view(Batch.objects.get())
    assert (view.trays, view.packed_weight) == (8, D("11.2"))


def test_a_pile_in_the_wrong_tub_is_taken_back_and_goes_into_another(client, weighed):
    rows = weighed()
    one = next(w for w in waiting() if w.output.pile == "lean")
    wrong, right = (start_tub(NewTub(KEY(), n, "beef", "lean"), None) for n in "AB")
    entry = hand_over(KEY(), wrong.pk, one.output.pk, None)
    at = reverse("grinder:tub", args=[wrong.pk])
    assert client.post(at, {"what": "back", "key": KEY(), "row": entry.pk}).status_code == 302
    assert "taken back" in words_of(client.get(at))
    assert one.output.pk in {w.output.pk for w in waiting()}
    hand_over(KEY(), right.pk, one.output.pk, None)
    with pytest.raises(Refused, match="in a tub already"):
        hand_over(KEY(), wrong.pk, one.output.pk, None)
    assert (left_of(wrong), left_of(right)) == (0, one.weight.value)
    assert rows.test.pk


def test_a_bag_put_in_by_mistake_is_in_the_cooler_again(client, fill):
    (bag,) = fill(("beef-shoulder-clod", 3, "20.00"), price="3.10")
    made = start_tub(NewTub(KEY(), "Boxed", "beef", "lean"), None)
    entry = pour_bag(KEY(), made.pk, bag.pk, D("0.90"), None)
    take_back_entry(KEY(), entry.pk, None)
    bag.refresh_from_db()
    assert (bag.state, bag.left_at) == (Bag.State.IN, None)
    pour_bag(KEY(), made.pk, bag.pk, D("0.90"), None)
    assert left_of(made) == 20


def test_what_was_ground_since_cannot_be_told_apart_any_more(client, two, ground):
    entry = two[0].ins.get()
    with pytest.raises(Refused, match=r"went into G-1 since"):
        take_back_entry(KEY(), entry.pk, None)
    later = put_in(
        KEY(), two[0].pk, Weight(D(2), Unit.LB), [{"lot": "L9"}], timezone.localdate(), None
    )
    take_back_entry(KEY(), later.pk, None)
    undo_batch(ground.pk, None)
    take_back_entry(KEY(), entry.pk, None)
    assert left_of(two[0]) == 0
    assert found("L1", None) == []


def test_a_tub_thrown_away_by_mistake_stands_there_again(client, two):
    throw_away(KEY(), two[0].pk, "smells", None)
    out = TubOut.objects.get()
    at = reverse("grinder:tub", args=[two[0].pk])
    answer = client.post(at, {"what": "not_thrown", "key": KEY(), "row": out.pk})
    assert answer.status_code == 302
    assert left_of(two[0]) == 14
    with pytest.raises(Refused, match="taken back already"):
        take_back_throwing(KEY(), out.pk, None)


def test_a_clean_down_pressed_by_mistake_breaks_no_chain(client, shop, two, solving):
    ines = person("ines").pk
    for what in ("cleaned", "set_up", "cleaned"):
        clean_down(KEY(), what, ines)
    assert machine_now().set_up is None
    last = CleanDown.objects.filter(what="cleaned").first()
    sent = {"what": "back", "key": KEY(), "row": last.pk}
    assert client.post(reverse("grinder:clean"), sent).status_code == 302
    assert machine_now().set_up is not None
    blend(client)
    grind(client, None)
    with pytest.raises(Refused, match=r"G-1 was ground since"):
        take_back_clean(KEY(), machine_now().cleaned.pk, ines)


def test_two_tablets_take_back_and_grind_the_same(client, two, ready, solving):
    """One takes the entry back after the other has blended: the batch is refused, nothing is lost."""
    blend(client)
    take_back_entry(KEY(), two[1].ins.get().pk, None)
    answer = grind(client, None)
    assert answer.status_code == 409
    assert "blend again" in words_of(answer)
    assert (left_of(two[0]), left_of(two[1])) == (14, 0)


@pytest.mark.parametrize("what", ["back", "lot", "not_thrown"])
@pytest.mark.parametrize("row", ["", "x", "9" * 30, "999999"])
def test_a_row_that_is_not_there_is_refused_in_words(client, two, what, row):
    at = reverse("grinder:tub", args=[two[0].pk])
    answer = client.post(at, {"what": what, "key": KEY(), "row": row, "lot": "L1"})
    assert answer.status_code == 422
    assert "Entry" in words_of(answer)


def test_the_record_of_a_day_has_what_the_rule_asks(client, two, ground):
    """9 CFR 320.1(b)(4), value from memory: time, suppliers, establishments, lots, dates, materials, the
    last clean-down."""
    finish_batch(ground.pk, CameOut(D("11.5"), D("0.3"), 4000), None)
    rest = tub("Rest")
    carry_over(KEY(), ground.pk, rest.pk, None)
    blend(client, weight="6")
    grind(client, None)
    today = timezone.localdate()
    first, second = records(today, today)
    assert {lot["lot"] for lot in first.lots} == {"L1", "L2"}
    assert "Low Holm Provisions" in ", ".join(first.row())
    assert "carry-over" not in first.materials
    page = client.get(reverse("grinder:records"), {"from": today, "to": today})
    words = words_of(page)
    for text in ("G-1", "G-2", "cleaned", "set up", "2.5, 4.0 °C", "ground beef"):
        assert text in words, text
    table = client.get(reverse("grinder:records"), {"as": "csv"})
    assert table.status_code == 200
    assert table.content.decode().count("\n") == 3
    assert second.batch.number == 2
    wrong = client.get(reverse("grinder:records"), {"from": "2020-01-01", "to": today})
    assert wrong.status_code == 422
    assert client.get(reverse("grinder:records"), {"from": "x"}).status_code == 422


def begun(of, pounds):
    """A batch of one tub, without the solver."""
    weight = {"value": f"{pounds:f}", "unit": "lb"}
    document = {
        "format": "mindful-tally.blend",
        "version": 1,
        "currency": "USD",
        "tubs": [
            {
                "name": str(of.pk),
                "shown": of.name,
                "species": "beef",
                "kind": "lean",
                "weight": weight,
                "lean": "0.85",
                "cost": {"amount": "3", "per": "lb"},
                "state": state_of_tub(of),
            }
        ],
        "batches": [
            {
                "name": "ground beef",
                "rule": "ground_beef",
                "species": "beef",
                "weight": weight,
                "fat": {"least": "0.14", "most": "0.16"},
            }
        ],
    }
    take = [{"tub": str(of.pk), "weight": weight}]
    answer = {"batches": [{"take": take, "fat": "0.15", "fat_sd": "0.01", "cost": "9"}]}
    plan = keep_blend(KEY(), document, answer, None)
    return begin_batch(Begun(KEY(), plan.pk, 0, 2000), None)


def goes_in(tubs, number):
    day, lots = timezone.localdate(), [{"lot": f"M{TubIn.objects.count()}"}]
    weight = Weight(D(number % 20 + 1), Unit.LB)
    put_in(KEY(), tubs[number % 2].pk, weight, lots, day, None)


def is_ground(tubs, number):
    left = left_of(tubs[number % 2])
    if left > 0:
        begun(tubs[number % 2], left / (number % 3 + 1) if number % 3 < 2 else left)


def comes_out(tubs, number):
    batch = Batch.objects.in_grinder().first()
    if batch is not None:
        rest = batch.weight / 10
        finish_batch(batch.pk, CameOut(batch.weight - rest, rest, 3000), None)


def is_undone(tubs, number):
    batch = Batch.objects.in_grinder().first()
    if batch is not None:
        undo_batch(batch.pk, None)


def is_carried_over(tubs, number):
    done = Batch.objects.standing().exclude(finished_at=None)
    batch = done.exclude(pk__in=TubIn.objects.standing().exclude(batch=None).values("batch"))
    if batch.exists():
        carry_over(KEY(), batch.first().pk, tubs[number % 2].pk, None)


def last_is_taken_back(tubs, number):
    entry = TubIn.objects.standing().last()
    if entry is None:
        return
    if entry.tub.outs.standing().filter(at__gte=entry.at).exists():
        with pytest.raises(Refused, match="went into"):
            take_back_entry(KEY(), entry.pk, None)
    else:
        take_back_entry(KEY(), entry.pk, None)


ACTIONS = (goes_in, is_ground, comes_out, is_undone, is_carried_over, last_is_taken_back, goes_in)


@pytest.mark.long
@settings(
    max_examples=8,
    phases=SHORT,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(st.lists(st.tuples(st.sampled_from(ACTIONS), st.integers(0, 99)), min_size=5, max_size=14))
def test_after_any_actions_no_meat_is_made_or_lost_and_every_lot_is_found(ready, actions):
    """No tub holds less than nothing; what a batch took is what it weighs; each batch's lots are found
    again, and no others."""
    start = TubIn.objects.count()
    tubs = [start_tub(NewTub(KEY(), name, "beef", "lean"), None) for name in "AB"]
    for act, number in actions:
        act(tubs, number)
        into = sum((one.weight for one in TubIn.objects.standing()), D(0))
        out = sum((one.weight for one in TubOut.objects.standing()), D(0))
        assert into - out == sum(left_of(one) for one in TrimTub.objects.all())
        assert all(left_of(one) >= 0 for one in TrimTub.objects.all())
    for batch in Batch.objects.standing():
        took = sum(batch.takes.standing().values_list("weight", flat=True), D(0))
        assert abs(took - batch.weight) < D("0.001")
        lots = {lot["lot"] for lot in batch_view(batch).lots}
        for number in range(start, TubIn.objects.count()):
            assert (batch in found(f"M{number}", None)) == (f"M{number}" in lots)


def test_what_was_asked_of_a_blend_stands_there_for_the_next(client, two, ready, solving):
    """“And with 86 %?” is one figure, not five; tubs that were ticked are ticked."""
    page = client.get(blend(client, weight="12", lean="85").url)
    first, second, _ = page.context["forms"]
    assert (first["weight"].value(), first["lean"].value()) == ("12", "85")
    assert first["product"].value() == str(Product.objects.get(cut__key="beef-ground").pk)
    assert not second["weight"].value()
    assert first["key"].value() != str(BlendPlan.objects.get().key)
    both = [str(one.pk) for one in two]
    page = client.get(blend(client, weight="", lean="", used_up=both).url)
    lines = page.context["lines"]
    assert {line.key for line in lines if line.key in page.context["ticked"]} == set(both)
