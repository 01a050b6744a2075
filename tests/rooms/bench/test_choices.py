"""Opening what is too young or was frozen, and what is chosen for one test."""

import json
import uuid
from dataclasses import replace
from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.costing.schools import CostingSchool
from cutting.quantities import UnitPrice, Weight
from rooms.bench.actions.correct import Correcting, correct
from rooms.bench.actions.finishing import approve
from rooms.bench.actions.import_tests import bring_in
from rooms.bench.actions.open_test import LAST, Opening, start_test
from rooms.bench.actions.pieces import put_back
from rooms.bench.actions.piles import Chosen, add_pile, choose, merge_piles, unmerge
from rooms.bench.actions.weighings import take_weight
from rooms.bench.models import Choice, CuttingTest
from rooms.bench.queries.block import Glass, block
from rooms.bench.queries.corrections import as_it_was, corrections_of
from rooms.bench.queries.piles import sum_of
from rooms.bench.queries.pool import pools
from rooms.bench.queries.rows import load
from rooms.bench.queries.sheet import sheet_view
from rooms.catalog.models import Piece
from rooms.common.errors import BadInput, Refused
from rooms.cooler.models import Bag
from rooms.cooler.queries.days import core_bags
from tests.conftest import address, capture, finish, words_of

pytestmark = pytest.mark.django_db
D = Decimal


def opening_of(piece, plan, age, **more):
    """A piece packed `age` days ago, typed at opening."""
    found = Piece.objects.get(key=piece)
    return Opening(
        key=uuid.uuid4(),
        plan=found.plans.get(key=plan),
        weight=Weight.of("18.00", "lb"),
        price=UnitPrice.of("4.85", "lb"),
        packed_on=timezone.localdate() - timedelta(days=age),
        **more,
    )


# --- too young ---


@pytest.mark.parametrize(
    ("piece", "plan", "age", "young"),
    [  # least ages: common practice, no published source
        ("beef-chuck-roll", "straight", 6, ["The piece"]),
        ("beef-chuck-roll", "straight", 10, []),
        ("beef-chuck-roll", "seam", 12, ["Under-blade steak"]),
        ("beef-chuck-roll", "seam", 14, []),
        ("beef-knuckle", "basic", 8, []),
        ("beef-knuckle", "seamed-steaks", 8, ["Center steak"]),
        ("pork-loin", "chops-and-roast", 0, []),
    ],
)
def test_a_piece_is_held_against_its_window_and_every_cut_of_the_plan(
    shop, piece, plan, age, young
):
    opening = opening_of(piece, plan, age)
    if not young:
        assert start_test(opening, None).too_young == []
        return
    with pytest.raises(BadInput) as refused:
        start_test(opening, None)
    told = str(refused.value)
    assert all(name in told for name in young)
    assert not [one for one in ("short ribs", "Lower blade", "eye steak") if one in told]
    assert not CuttingTest.objects.exists()


def test_a_word_opens_it_all_the_same_and_stands_with_the_test(client, shop):
    opening = opening_of("beef-knuckle", "seamed-steaks", 8, young_reason="ordered for today")
    test = start_test(opening, None)
    (said,) = test.too_young
    assert said.startswith("Center steak: 6 days too young, old enough from")
    for name in ("test", "sheet"):
        page = words_of(client.get(reverse(f"bench:{name}", args=[test.pk])))
        assert "Why: ordered for today." in page
    record = client.get(reverse("bench:document", args=[test.pk])).json()["record"]
    assert (record["too_young"], record["young_reason"]) == ([said], "ordered for today")


def test_a_young_bag_says_what_and_from_when_and_offers_plans_that_suit(client, fill):
    bag = fill(("beef-knuckle", 8, "10.00"))[0]
    query = {"bag": [bag.pk], "plan": "seamed-steaks"}
    url = reverse("bench:open", args=["beef-knuckle"])
    page = words_of(client.get(url, query))
    assert "Center steak: 6 days too young" in page
    assert "plan=basic" in page
    assert "plan=mixed" not in page  # it has the young steak too
    plan = Piece.objects.get(key="beef-knuckle").plans.get(key="seamed-steaks")
    data = {"key": uuid.uuid4(), "plan": plan.pk, "supplier": "x"}
    asked = f"{url}?bag={bag.pk}&plan=seamed-steaks"
    refused = client.post(asked, data)
    assert refused.status_code == 422
    assert "Too young" in words_of(refused)
    assert Bag.objects.get(pk=bag.pk).state == "in"
    assert client.post(asked, data | {"young_reason": "ordered"}).status_code == 302
    assert client.post(asked, data | {"young_reason": "ordered"}).status_code == 302  # repeated
    assert CuttingTest.objects.get().young_reason == "ordered"


def test_of_several_bags_the_youngest_counts_and_a_part_ages_on(client, fill):
    old, young = fill(("beef-knuckle", 20, "10.00"), ("beef-knuckle", 8, "9.80"))
    url = reverse("bench:open", args=["beef-knuckle"])
    query = {"plan": "seamed-steaks"}
    assert "too young" in words_of(client.get(url, query | {"bag": [old.pk, young.pk]}))
    plan = Piece.objects.get(key="beef-knuckle").plans.get(key="seamed-steaks")
    client.post(f"{url}?bag={old.pk}", {"key": uuid.uuid4(), "plan": plan.pk})
    put_back(CuttingTest.objects.get().pk, uuid.uuid4(), Weight.of("2.00", "lb"), None)
    part = Bag.objects.get(part_of=old)
    assert part.packed_on == timezone.localdate()
    assert "too young" not in words_of(client.get(url, query | {"bag": [part.pk]}))


# --- frozen ---


def test_signs_of_freezing_go_from_the_bag_to_the_test_and_to_what_is_packed_again(client, fill):
    bag = fill(("beef-knuckle", 20, "10.00"))[0]
    url = f"{reverse('bench:open', args=['beef-knuckle'])}?bag={bag.pk}"
    plan = Piece.objects.get(key="beef-knuckle").plans.first()
    client.post(url, {"key": uuid.uuid4(), "plan": plan.pk, "was_frozen": "on"})
    test = CuttingTest.objects.get()
    bag.refresh_from_db()
    assert test.was_frozen
    assert bag.was_frozen
    assert "signs of freezing" in str(list(bag.events.all()))
    put_back(test.pk, uuid.uuid4(), Weight.of("1.00", "lb"), None)
    part = Bag.objects.get(part_of=bag)
    assert part.was_frozen
    for name in ("test", "sheet"):
        page = words_of(client.get(reverse(f"bench:{name}", args=[test.pk])))
        assert "Previously frozen" in page


def test_a_thawed_bag_has_a_shorter_clock_that_counts_from_the_day_it_came(fill):
    thawed, fresh = fill(("beef-knuckle", 20, "10.00"), ("beef-knuckle", 20, "9.00"))
    Bag.objects.filter(pk=thawed.pk).update(was_frozen=True)
    thawed.refresh_from_db()
    found = core_bags([thawed, fresh])
    assert found[thawed.pk].ends_on < found[fresh.pk].ends_on
    assert found[thawed.pk].ends_on >= timezone.localdate()


# --- choices ---


def chosen(rows, name, now, at=0, key=None):
    pile = "" if name == "fat" else str(rows.outputs[at].pk)
    return choose(rows.test.pk, Chosen(key or str(uuid.uuid4()), name, pile, now), None)


LEAN = 2


def costs(rows):
    """The figure of each school of costing."""
    return [one.figure for one in sheet_view(rows, CostingSchool.SALES_VALUE).schools]


def test_a_target_moves_band_hint_and_tray_and_stands_with_the_test(client, opened):
    rows = opened()
    before = rows.outputs[0]
    assert (before.target_value, before.tray_size) == (7, 2)
    rows = chosen(rows, "target", "14 oz")
    assert (rows.outputs[0].target_value, rows.outputs[0].tray_size) == (14, 1)
    rows = take_weight(rows.test.pk, capture(rows.outputs[0], "14.1", "oz"), None)
    view = block(rows, Glass()).piles[0].portions
    assert "right" in view.hint_words
    page = words_of(client.get(address("test", rows)))
    assert 'data-target="14 oz"' in page
    finish(rows.test.pk, str(rows.revision))
    sheet = words_of(client.get(address("sheet", rows)))
    assert "target: 14 oz instead of 7 oz" in sheet
    output = client.get(address("document", rows)).json()["outputs"][0]
    assert output["target"] == {"value": "14", "unit": "oz"}


def test_a_tray_that_was_chosen_stays_when_the_target_moves(opened):
    rows = chosen(opened(), "tray", "4")
    rows = chosen(rows, "target", "14 oz")
    assert rows.outputs[0].tray_size == 4


def test_what_is_chosen_twice_or_is_so_already_changes_nothing(opened):
    rows, key = opened(), str(uuid.uuid4())
    for _ in range(2):
        found = chosen(rows, "thickness", "1 1/4 in", key=key)
    assert found.outputs[0].thickness == "1 1/4 in"
    assert chosen(rows, "thickness", "1 1/4 in").revision == found.revision
    assert Choice.objects.count() == 1
    assert found.revision == rows.revision + 1


@pytest.mark.parametrize(
    ("name", "now", "at", "says"),
    [
        ("target", "0.01 oz", 0, "is what the scale shows"),
        ("target", "80 lb", 0, "is what the scale shows"),
        ("target", "8 stone", 0, "a weight with its unit"),
        ("target", "x oz", 0, "Target"),
        ("target", "8 oz", LEAN, "not cut in portions"),
        ("thickness", "thick", 0, "inches such as"),
        ("thickness", "9 in", 0, "inches such as"),
        ("tray", "25", 0, "0 to 24 is right"),
        ("fat", "2 in", 0, "none, 1/8 in, 1/4 in is right"),
        ("value", "-1", LEAN, "0 to 1000"),
        ("value", "1.00", 0, "no by-product"),
        ("colour", "red", 0, "cannot be chosen"),
    ],
)
def test_what_cannot_be_chosen_is_told_and_changes_nothing(opened, name, now, at, says):
    rows = opened()
    with pytest.raises(BadInput, match=says.replace(".", r"\.")):
        chosen(rows, name, now, at)
    assert not Choice.objects.exists()
    assert load(rows.test.pk).revision == rows.revision


def test_a_finished_test_takes_no_choice(weighed):
    with pytest.raises(Refused):
        chosen(weighed(), "target", "8 oz")


def test_a_by_products_value_holds_for_its_test_alone_and_costs_follow(opened, weighed):
    usual = costs(weighed())
    rows = chosen(opened(), "value", "5.00", LEAN)
    for output, value in zip(rows.outputs, ("3.45", "0.80", "0.93", "0.68", "0.22"), strict=False):
        rows = take_weight(rows.test.pk, capture(output, value, portions="8"), None)
    finish(rows.test.pk, str(rows.revision))
    now = costs(load(rows.test.pk))
    assert now != usual
    assert opened().outputs[LEAN].credit != D("5.00")


def test_fat_and_percent_off_are_recorded_in_the_document_and_on_the_sheet(client, shop):
    plan = Piece.objects.get(key="beef-tenderloin").plans.first()
    data = {
        "key": uuid.uuid4(),
        "plan": plan.pk,
        "weight": "6.17",
        "unit": "lb",
        "price": "7.49",
        "percent_off": "5",
        "fat_level": "1/8 in",
    }
    url = reverse("bench:open", args=["beef-tenderloin"])
    both = client.post(url, data | {"discount": "1.00"})
    assert both.status_code == 422
    assert "one of the two is right" in words_of(both)
    client.post(url, data)
    test = CuttingTest.objects.get()
    assert (test.discount, test.percent_off, test.fat_level) == (D("2.31"), 5, "1/8 in")
    sheet = words_of(client.get(reverse("bench:sheet", args=[test.pk])))
    assert "1/8 in of fat left on, 5 % off the list price" in sheet
    record = client.get(reverse("bench:document", args=[test.pk])).json()["record"]
    assert (record["percent_off"], record["fat_level"]) == ("5", "1/8 in")


def test_a_value_is_corrected_and_the_sheet_before_stays(client, weighed, shop):
    rows = weighed()
    lean = rows.outputs[LEAN]
    before = costs(rows)
    wanted = Correcting(str(uuid.uuid4()), "trim was 80/20", {}, {}, {}, None, {lean.pk: "2.75"})
    after = correct(rows.test.pk, wanted, shop["bram"].pk)
    assert after.outputs[LEAN].credit == D("2.75")
    corrections = corrections_of(after.test)
    old = costs(as_it_was(after, corrections, 0))
    assert old == before
    assert costs(after) != before
    page = words_of(client.get(address("sheet", rows)))
    assert "Value of Lean trim a lb" in page
    with pytest.raises(BadInput, match="Value of Lean trim"):
        correct(
            rows.test.pk,
            Correcting(str(uuid.uuid4()), "again", {}, {}, {}, None, {lean.pk: "x"}),
            None,
        )


def test_what_was_chosen_comes_back_from_a_file_and_serves_as_last_time(client, weighed, shop):
    rows = weighed()
    CuttingTest.objects.filter(pk=rows.test.pk).update(
        was_frozen=True,
        fat_level="none",
        percent_off=D(5),
        too_young=["a: 1 day"],
        young_reason="w",
    )
    raw = client.get(address("document", rows)).content
    text = (
        raw.decode()
        .replace(str(rows.test.pk), str(uuid.uuid4()))
        .replace(f'"number": {rows.test.number}', '"number": 900')
    )
    for weighing in rows.weighings:
        text = text.replace(str(weighing.key), str(uuid.uuid4()))
    bring_in(json.loads(text), None)
    there = CuttingTest.objects.get(number=900)
    assert (there.was_frozen, there.fat_level, there.percent_off) == (True, "none", D(5))
    assert (there.too_young, there.young_reason) == (["a: 1 day"], "w")
    again = start_test(
        Opening(
            key=uuid.uuid4(),
            plan=None,
            piece=there.piece,
            start_from=LAST,
            weight=Weight.of("6.00", "lb"),
            price=UnitPrice.of("7.49", "lb"),
        ),
        None,
    )
    assert load(again.pk).outputs[0].target_value == 7


def test_what_is_chosen_at_opening_is_kept_as_one_made_at_the_block(client, shop):
    plan = Piece.objects.get(key="beef-tenderloin").plans.first()
    filet = plan.outputs.get(name="Center filet")
    data = {
        "key": uuid.uuid4(),
        "plan": plan.pk,
        "weight": "6.17",
        "unit": "lb",
        "price": "7.49",
        f"target-{filet.pk}": "8 oz",
        f"thickness-{filet.pk}": "wide",
    }
    url = reverse("bench:open", args=["beef-tenderloin"])
    page = words_of(client.get(url))
    assert f'name="target-{filet.pk}" value="7 oz"' in page
    refused = client.post(url, data)
    assert refused.status_code == 422
    assert "inches such as" in words_of(refused)
    assert 'value="8 oz"' in words_of(refused)  # what was typed stays
    assert not CuttingTest.objects.exists()
    for _ in range(2):
        client.post(url, data | {f"thickness-{filet.pk}": "1 1/2 in", "fat_level": "none"})
    rows = load(CuttingTest.objects.get().pk)
    assert (rows.outputs[0].target_value, rows.outputs[0].thickness) == (8, "1 1/2 in")
    assert [str(one) for one in rows.test.choices.all()] == [
        "fat: none instead of nothing",
        "Center filet, target: 8 oz instead of 7 oz",
        "Center filet, thickness: 1 1/2 in instead of 1.75 in",
    ]


# --- damage and quality ---


def test_damage_and_marbling_seen_at_opening_stand_on_bag_test_and_supplier(client, fill):
    bag = fill(("beef-knuckle", 20, "10.00"), claims="grass fed", damage=("gouged",))[0]
    url = f"{reverse('bench:open', args=['beef-knuckle'])}?bag={bag.pk}"
    plan = Piece.objects.get(key="beef-knuckle").plans.first()
    data = {"key": uuid.uuid4(), "plan": plan.pk, "damage": ["gouged", "taken"], "marbling": "4"}
    assert "gouged by the packer" in words_of(client.get(url))
    assert client.post(url, data | {"marbling": "12"}).status_code == 422
    client.post(url, data | {"claims": "grass fed"})
    bag.refresh_from_db()
    assert (bag.damage, bag.marbling, bag.claims) == (["gouged", "taken"], 4, "grass fed")
    test = CuttingTest.objects.get()
    said = "parts already taken, marbling 4 of 9 by eye, grass fed"
    assert said in words_of(client.get(reverse("bench:sheet", args=[test.pk])))
    assert said in words_of(client.get(reverse("cooler:bag", args=[bag.pk])))
    for name in ("delivery", "claim"):
        page = words_of(client.get(reverse(f"cooler:{name}", args=[bag.delivery_id])))
        assert "1 of 1 bags damaged" in page
    claim = words_of(client.get(reverse("cooler:claim", args=[bag.delivery_id])))
    assert "Damage seen" in claim
    record = client.get(reverse("bench:document", args=[test.pk])).json()["record"]
    assert record["damage"] == ["gouged", "taken"]


def test_what_is_seen_on_one_bag_is_kept_once_with_who_and_when(client, fill):
    bag = fill(("beef-knuckle", 20, "10.00"))[0]
    url = reverse("cooler:quality", args=[bag.pk])
    for _ in range(2):
        client.post(url, {"damage": ["slaughter"], "marbling": "", "claims": ""})
    assert [event.kind for event in bag.events.all()].count("quality") == 1
    refused = client.post(url, {"damage": ["slaughter"], "marbling": "99", "claims": "x"})
    assert refused.status_code == 422
    assert 'value="99"' in words_of(refused)
    assert client.post(url, {"damage": ["burnt"]}).status_code == 422
    bag.refresh_from_db()
    assert (bag.damage, bag.marbling) == (["slaughter"], None)


# --- two plans in one piece ---

PAIRS = [
    ("beef-knuckle", "basic", "seamed-steaks"),
    ("beef-top-sirloin", "full-cut", "portioned"),
    ("beef-short-loin", "sawn", "boned"),
    ("pork-side", "usual-2-3", "long-shoulder"),
]


def of_two(piece, first, rest, split="0.5", **more):
    plans = Piece.objects.get(key=piece).plans
    opening = opening_of(piece, first, 40, young_reason="known", **more)
    return replace(opening, rest_by=plans.get(key=rest), split=D(split))


@pytest.mark.parametrize(("piece", "first", "rest"), PAIRS)
def test_two_plans_share_one_piece_and_the_split_moves_what_is_expected(
    client, shop, piece, first, rest
):
    test = start_test(of_two(piece, first, rest), None)
    rows = load(test.pk)
    assert len({output.name for output in rows.outputs}) == len(rows.outputs)
    assert D("0.97") <= sum(output.share for output in rows.outputs) <= 1
    assert rows.outputs[-1].pile in ("purge", "discard")
    assert test.is_sawn is any(plan.is_sawn for plan in test.plans)
    titles = {
        step.title for plan in test.plans for step in test.piece.steps.all() if step.is_in(plan)
    }
    page = words_of(client.get(reverse("bench:test", args=[test.pk])))
    assert f"Step 1 of {len(titles)}" in page
    only_first = next(o for o in rows.outputs if o.share_rest == 0)
    rows = choose(test.pk, Chosen(str(uuid.uuid4()), "split", "", "75 %"), None)
    now = next(o for o in rows.outputs if o.pk == only_first.pk)
    assert now.share == D("0.75") * only_first.share_one
    assert D("0.97") <= sum(output.share for output in rows.outputs) <= 1
    assert "instead of 50.0 %" in str(test.choices.get())


def test_a_knuckle_by_two_plans_is_weighed_out_and_stays_out_of_each_plans_pool(client, shop):
    test = start_test(of_two("beef-knuckle", "basic", "seamed-steaks"), None)
    rows = load(test.pk)
    for output in rows.outputs[:4]:
        rows = take_weight(test.pk, capture(output, "4.40", portions="4"), None)
    finish(test.pk, str(rows.revision))
    approve(test.pk, "a trial of two plans", shop["bram"].pk)
    assert pools([test.plan_id, test.second_plan_id]) == {}
    record = client.get(reverse("bench:document", args=[test.pk])).json()["record"]
    assert (record["split"], "; the rest: " in record["plan"]) == ("0.5", True)


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"split": "0"}, "less than 100 %"),
        ({"split": "1"}, "less than 100 %"),
        ({"rest": "basic"}, "another plan of the same piece"),
        ({"start_from": LAST}, "the piles come from no plan"),
    ],
)
def test_two_plans_that_cannot_be_are_refused(shop, more, says):
    rest = more.pop("rest", "seamed-steaks")
    with pytest.raises(BadInput, match=says):
        start_test(of_two("beef-knuckle", "basic", rest, **more), None)
    assert not CuttingTest.objects.exists()


def test_two_plans_are_typed_at_opening_and_a_wrong_split_keeps_what_was_typed(client, shop):
    piece = Piece.objects.get(key="beef-knuckle")
    first, rest = piece.plans.get(key="basic"), piece.plans.get(key="mixed")
    data = {
        "key": uuid.uuid4(),
        "plan": first.pk,
        "rest_by": rest.pk,
        "split": "140",
        "weight": "10.20",
        "unit": "lb",
        "price": "4.60",
        "supplier": "Skerry Point Packing",
    }
    url = reverse("bench:open", args=["beef-knuckle"])
    refused = client.post(url, data)
    assert refused.status_code == 422
    assert 'value="Skerry Point Packing"' in words_of(refused)
    assert client.post(url, data | {"split": "40"}).status_code == 302
    assert CuttingTest.objects.get().split == D("0.4")
    wrong = client.post(
        reverse("bench:choose", args=[CuttingTest.objects.get().pk]),
        {"key": uuid.uuid4(), "name": "split", "other": "120"},
    )
    assert wrong.status_code == 422
    assert "less than 100 %" in words_of(wrong)


def test_a_split_that_moves_after_a_merge_and_before_it_is_undone_keeps_every_share(shop):
    test = start_test(of_two("beef-knuckle", "basic", "seamed-steaks"), None)
    rows = load(test.pk)
    whole = sum(output.share for output in rows.outputs)
    gone, into = rows.outputs[0], rows.outputs[1]
    merge_piles(test.pk, str(gone.pk), str(into.pk), sum_of(rows, gone), None)
    rows = choose(test.pk, Chosen(str(uuid.uuid4()), "split", "", "75"), None)
    moved = next(o for o in rows.outputs if o.pk == into.pk)
    quarter = D("0.25")
    both = gone.share_one + into.share_one, gone.share_rest + into.share_rest
    assert moved.share == D("0.75") * both[0] + quarter * both[1]
    shown = sum(output.share for output in rows.piles)
    assert abs(shown - whole) < D("0.02")  # the two plans sum to nearly the same
    rows = unmerge(test.pk, str(gone.pk), None)
    for before in (gone, into):
        now = next(o for o in rows.outputs if o.pk == before.pk)
        assert now.share == D("0.75") * before.share_one + quarter * before.share_rest


def test_one_plan_has_nothing_to_split(opened):
    with pytest.raises(BadInput, match="one plan"):
        choose(opened().test.pk, Chosen(str(uuid.uuid4()), "split", "", "50"), None)


def test_an_apprentice_values_no_by_product(opened, as_role):
    """Every cost of the test follows from it."""
    rows = opened()
    sent = {"name": "value", "pile": str(rows.outputs[LEAN].pk), "now": "5.00"}
    for who, status in (("tove", 403), ("ines", 302)):
        page = as_role(who)
        shown = words_of(page.get(address("test", rows)))
        assert ('data-choice="value"' in shown) is (status == 302)
        answer = page.post(address("choose", rows), sent | {"key": str(uuid.uuid4())})
        assert answer.status_code == status
        assert Choice.objects.exists() is (status == 302)


def test_a_pile_that_no_plan_expects_takes_over_what_another_was_expected_to_give(opened):
    rows = opened()
    rows = add_pile(rows.test.pk, "Odd", "portions")
    odd, gone = rows.outputs[-1], rows.piles[0]
    expected = gone.share
    merge_piles(rows.test.pk, str(gone.pk), str(odd.pk), sum_of(rows, gone), None)
    assert {one.pk: one.share for one in load(rows.test.pk).piles}[odd.pk] == expected
    unmerge(rows.test.pk, str(gone.pk), None)
    after = {one.pk: one.share for one in load(rows.test.pk).piles}
    assert (after[odd.pk], after[gone.pk]) == (0, expected)
