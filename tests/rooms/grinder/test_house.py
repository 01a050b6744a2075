"""House rules, sausage, tubs used up, names, the tester, what trim is worth, what other rooms see."""

import json
import urllib.error
from datetime import timedelta
from decimal import Decimal
from io import BytesIO

import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.grinding.judging import How
from cutting.grinding.nutrition import NUTRIENTS
from cutting.quantities import Unit, Weight
from rooms.bench.models import CuttingTest, Output
from rooms.bench.queries.cut_today import piles_free
from rooms.bench.queries.rows import load
from rooms.bench.queries.sheet import sheet_view
from rooms.common.db.seen import last_change, state_of
from rooms.grinder.actions.batch import CameOut, carry_over, finish_batch
from rooms.grinder.actions.house import save_seasoning
from rooms.grinder.actions.tubs import (
    NewTub,
    hand_over,
    judge,
    left_of,
    pour_bag,
    put_in,
    start_tub,
)
from rooms.grinder.models import (
    Batch,
    BlendPlan,
    CleanDown,
    GrinderRules,
    NutritionFacts,
    Seasoning,
    TubIn,
)
from rooms.grinder.queries.house import house_rules
from rooms.grinder.queries.log import batch_view, found
from rooms.grinder.queries.sources import origin_of_tray
from rooms.grinder.queries.tubs import tubs_now, waiting, what_tests_say
from rooms.grinder.queries.worth import trim_worth
from rooms.planner.queries.asking import asking
from rooms.planner.queries.at_hand import pounds_at_hand
from rooms.planner.queries.crew import DayAsked
from rooms.pricebook.models import Product
from rooms.shop.queries.current import house
from tests.cases import some_often
from tests.conftest import decide, person, words_of
from tests.rooms.grinder.helpers import KEY, blend, grind, to_batch, tub

pytestmark = pytest.mark.django_db
D = Decimal


def told(answer):
    """What a page refuses, for a failing test to say."""
    return answer.context["refused"] if answer.context and "refused" in answer.context else answer


def rules_sent(**more):
    now = house_rules()
    return {
        "what": "rules",
        "seen": state_of(now),
        "keeps_days": "2",
        "warmest": "4.4",
        "allowance": "2",
        "near": "1",
        "from_case": "asked",
        "nutrition": "exempt",
        "patties": "4, 6, 8",
        "in_box": "24",
        "cleaning": "\n".join(now.cleaning),
        "setting_up": "\n".join(now.setting_up),
        **more,
    }


def to_rules(client, **more):
    return client.post(reverse("grinder:rules"), rules_sent(**more))


def test_house_rules_are_kept_with_who_and_only_made_tighter(client, as_role, shop):
    key = next(name for name in rules_fields(client) if name.startswith("fat_"))
    assert to_rules(client, keeps_days="1", **{key: "25"}).status_code == 302
    now = house_rules()
    assert (now.keeps_days, now.most_fat) == (1, {"ground beef": "0.25"})
    assert now.history.first().history_user == person("bram")
    for wrong, says in (
        ({key: "35"}, "at most 30.00"),
        ({"warmest": "6"}, "at most 4.4"),
        ({"near": "0"}, "more than 0"),
        ({"cleaning": ""}, "required"),
        ({"patties": "4, x"}, "plain number"),
        ({"keeps_days": "0"}, "greater than"),
    ):
        answer = to_rules(client, **wrong)
        assert answer.status_code == 422, wrong
        assert says in words_of(answer), (says, wrong)
    assert house_rules().most_fat == {"ground beef": "0.25"}
    assert as_role("ines").post(reverse("grinder:rules"), rules_sent()).status_code == 403
    assert "25.0 %" not in words_of(as_role("ines").get(reverse("grinder:log")))


def rules_fields(client):
    form = client.get(reverse("grinder:rules")).context["rules"]
    return list(form.fields)


def test_two_managers_at_the_rules_and_the_second_is_told(client, shop):
    stale = rules_sent(keeps_days="3")
    assert to_rules(client, keeps_days="1").status_code == 302
    late = client.post(reverse("grinder:rules"), stale)
    assert late.status_code == 409
    assert "Changed by somebody else since" in words_of(late)
    assert 'name="keeps_days" value="3"' in late.content.decode()
    assert house_rules().keeps_days == 1


def test_a_tightened_limit_refuses_a_blend_and_a_name(client, two, ready, solving):
    GrinderRules.objects.create(most_fat={"ground beef": "0.12"})
    answer = blend(client, lean="85")
    assert answer.status_code == 422
    assert "at least 88.0 % for ground beef is right" in words_of(answer)
    assert blend(client, lean="89").status_code == 302


def test_trim_keeps_as_long_as_the_house_says(client, shop):
    made = start_tub(NewTub(KEY(), "T", "beef", "lean"), None)
    day = timezone.localdate() - timedelta(days=1)
    put_in(KEY(), made.pk, Weight(D(4), Unit.LB), [], day, None)
    assert not tubs_now(timezone.localdate())[0].is_due
    GrinderRules.objects.create(keeps_days=1)
    assert tubs_now(timezone.localdate())[0].is_due


@pytest.mark.parametrize(
    ("rule", "sent", "status", "says"),
    [
        ("never", {"lot": "L1"}, 409, "nothing of the case"),
        ("known", {"lot": ""}, 422, "what stands on the tray"),
        ("known", {"lot": "L1"}, 302, ""),
        ("asked", {"lot": ""}, 302, ""),
        ("asked", {"lot": "L1", "is_sent_back": "on"}, 409, "sent back"),
    ],
)
def test_pieces_of_the_case_by_house_rule(client, two, rule, sent, status, says):
    GrinderRules.objects.create(from_case=rule)
    at = reverse("grinder:tub", args=[two[0].pk])
    body = {"what": "case", "key": KEY(), "weight": "2", "unit": "lb", "day": "2026-11-26"}
    answer = client.post(at, body | sent)
    assert answer.status_code == status
    if says:
        assert says in words_of(answer)


def test_what_was_sent_back_goes_in_with_the_lots_of_its_batch(client, two, ready, solving):
    GrinderRules.objects.create(from_case="known", takes_sent_back=True)
    blend(client)
    grind(client, None)
    rest = tub("Rest")
    at = reverse("grinder:tub", args=[rest.pk])
    sent = {"what": "case", "key": KEY(), "weight": "2", "unit": "lb", "day": "2026-11-26"}
    assert client.post(at, sent | {"lot": "g-1", "is_sent_back": "on"}).status_code == 302
    entry = rest.ins.get()
    assert entry.source == TubIn.Source.BACK
    assert {lot["lot"] for lot in entry.lots} == {"L1", "L2"}
    assert {lot["tray"] for lot in entry.lots} == {"g-1"}


def test_the_lots_of_a_test_or_a_bag_are_known_by_what_stands_on_a_tray(client, weighed, fill):
    test = weighed().test
    CuttingTest.objects.filter(pk=test.pk).update(lot="L77")
    (row,) = origin_of_tray(f"test {test.number}").lots
    assert (row["lot"], row["piece"]) == ("L77", test.piece_name)
    (bag,) = fill(("beef-shoulder-clod", 3, "20.00"))
    bag.lot, bag.grade = "B9", "USDA Choice"
    bag.save()
    (row,) = origin_of_tray("b-9").lots
    assert (row["grade"], row["establishment"]) == ("USDA Choice", bag.delivery.establishment)
    assert origin_of_tray("ж-9").lots == [{"lot": "ж-9", "piece": "from the case", "tray": "ж-9"}]
    assert origin_of_tray("G-999999999").lots[0]["lot"] == "G-999999999"


def test_a_question_is_answered_and_the_lot_is_found_by_it(client, two, ready, solving):
    day = timezone.localdate()
    lots = [{"lot": "", "piece": "from the case"}]
    entry = put_in(KEY(), two[0].pk, Weight(D(2), Unit.LB), lots, day, None)
    judge(two[0].pk, How.TESTER, D("0.80"), None)
    blend(client)
    grind(client, None)
    batch = Batch.objects.get()
    assert [one.pk for one in batch_view(batch).unknown] == [entry.pk]
    at = reverse("grinder:tub", args=[two[0].pk])
    sent = {"what": "lot", "key": KEY(), "row": entry.pk, "lot": "  L 7  "}
    for _ in range(2):
        assert client.post(at, sent).status_code == 302
    assert batch_view(batch).unknown == []
    assert found("L 7", None) == [batch]
    again = client.post(at, sent | {"key": KEY(), "lot": "L8"})
    assert "known by now" in words_of(again)


def test_the_points_of_a_clean_down_are_confirmed_one_by_one(client, shop):
    rules, at = house_rules(), reverse("grinder:clean")
    sent = {"key": KEY(), "what": "cleaned", "points": rules.cleaning[1:]}
    answer = client.post(at, sent)
    assert answer.status_code == 422
    assert f"Not confirmed: {rules.cleaning[0]}" in words_of(answer)
    assert not CleanDown.objects.exists()
    assert client.post(at, sent | {"points": rules.cleaning}).status_code == 302
    assert CleanDown.objects.get().points == rules.cleaning


def test_meat_that_was_measured_warm_is_not_ground_until_it_is_cold(client, two, ready, solving):
    at = reverse("grinder:tub", args=[two[0].pk])
    assert client.post(at, {"what": "warm", "celsius": "7.2"}).status_code == 302
    assert "too warm" in words_of(client.get(reverse("grinder:front")))
    blend(client)
    answer = grind(client, None)
    assert "7.2 °C when it was measured last" in words_of(answer)
    assert left_of(two[0]) == 14
    client.post(at, {"what": "warm", "celsius": "3.1"})
    assert grind(client, None).status_code == 302


def test_tubs_are_used_up_without_a_weight_or_a_lean(client, two, ready, solving):
    answer = blend(client, weight="", lean="", used_up=[str(one.pk) for one in two])
    assert answer.status_code == 302, told(answer)
    plan = BlendPlan.objects.get()
    assert plan.document["batches"][0]["weight"]["value"] == "24.000000000"
    assert plan.document["batches"][0]["stated"] == "0.15"  # 14.6 % and no less is said
    assert plan.answer["left"] == []
    words = words_of(client.get(answer["Location"]))
    assert "24.00 lb of ground beef, 85 % lean, 15 % fat" in words
    assert "must go: all 14.0 lb in" in words
    assert grind(client, None).status_code == 302
    assert [left_of(one) for one in two] == [0, 0]


def test_a_tub_is_used_up_with_as_little_else_as_reaches_the_lean(client, two, ready, solving):
    answer = blend(client, weight="", lean="85", used_up=[str(two[0].pk)])
    assert answer.status_code == 302, told(answer)
    made = BlendPlan.objects.get().document["batches"][0]
    # by hand: 14 lb at 20 % to 15.05 % with 7 %: 14 × 4.95 / 8.05 more
    assert abs(D(made["weight"]["value"]) - (14 + D("69.30") / D("8.05"))) < D("0.000001")
    assert made["fat"] == {"least": "0.14", "most": "0.1505"}


@pytest.mark.parametrize(
    ("sent", "says"),
    [
        ({"weight": "", "lean": ""}, "a tub with something in it is right"),
        ({"weight": "12", "lean": ""}, "how lean it is wanted is right"),
        ({"weight": "", "lean": "99", "used_up": True}, "together they have"),
    ],
)
def test_what_cannot_be_used_up_says_why(client, two, ready, solving, sent, says):
    if sent.get("used_up"):
        sent = sent | {"used_up": [str(two[0].pk)]}
    answer = blend(client, **sent)
    assert answer.status_code == 422
    assert says in words_of(answer)


def test_a_name_of_another_animal_or_that_it_may_not_have_is_refused(client, two, ready, solving):
    answer = blend(client, **{"b0-rule": "fresh pork sausage"})
    assert answer.status_code == 422
    assert "fresh pork sausage is pork" in words_of(answer)
    fat = tub("Fat", kind="hard_fat", pounds="2", lean="0.15")
    Product.objects.filter(cut__key="beef-ground").update(name="Ground beef 75/25")
    answer = blend(client, lean="75", **{"b0-rule": "none"}, used_up=[str(fat.pk)])
    assert answer.status_code == 302, told(answer)
    words = words_of(client.get(answer["Location"]))
    assert "It may not be called that" in words
    assert "It may be called hamburger" in words
    assert "Grind this" not in words
    late = grind(client, None)
    assert late.status_code == 409
    assert "added fat" in words_of(late)
    assert not Batch.objects.exists()


@pytest.fixture
def sausage(client, ready, solving):
    """20 lb of fresh pork sausage with a seasoning that holds wheat, in the grinder."""
    values = {
        "name": "House",
        "share": D("0.02"),
        "ingredients": "crumbs (wheat), salt",
        "allergens": ["wheat"],
        "cost": D(10),
        "per": "lb",
    }
    own = save_seasoning(values, None)
    tub("Pork", species="pork", pounds="30", lean="0.72")
    product = Product.objects.get(cut__species="pork", cut__is_ground=True)
    sent = {"b0-product": product.pk, "b0-rule": "fresh pork sausage", "b0-seasoning": own.pk}
    answer = blend(client, weight="20", lean="72", **sent)
    assert answer.status_code == 302, told(answer)
    return answer


def test_sausage_is_seasoned_by_percent_with_its_allergens(client, sausage):
    assert "House: 0.400 lb (2.0 %), contains wheat" in words_of(client.get(sausage["Location"]))
    assert grind(client, None).status_code == 302
    batch = Batch.objects.get()
    assert (batch.seasoned_with, batch.went_in) == (D("0.400"), D("20.400"))
    assert batch.cost == D(batch.answer["cost"]) + 4
    view = batch_view(batch)
    assert view.ingredients == "pork, crumbs (wheat), salt. Contains wheat."
    assert to_batch(
        client, batch, "finish", got="20.2", machine="0.1", celsius="4"
    ).status_code == (302)
    assert batch_view(Batch.objects.get()).loss.startswith("0.10 lb")
    links = {"trays": "10", "weight": "20", "shape": "links", "pieces": "100"}
    assert to_batch(client, batch, "pack", **links).status_code == 302
    assert batch_view(batch).pieces == ["100 links, 3.20 oz each"]
    again = to_batch(client, batch, "pack", trays="1", weight="0.1", shape="patties", pieces="40")
    assert "weigh 1 g each" in words_of(again)


def test_a_seasoning_that_changed_since_it_was_blended_is_blended_again(client, sausage):
    Seasoning.objects.update(share=D("0.03"))
    answer = grind(client, None)
    assert answer.status_code == 409
    assert "the house list was changed since" in words_of(answer)
    assert not Batch.objects.exists()


def test_seasonings_are_entered_changed_and_taken_off_the_list(client, shop):
    at = reverse("grinder:rules")
    sent = {"what": "seasoning", "key": KEY(), "name": "House", "share": "2", "per": "lb"}
    sent |= {"ingredients": "salt", "allergens": ["wheat", "milk"], "cost": ""}
    assert client.post(at, sent).status_code == 302
    assert client.post(at, sent).status_code == 302  # the same again changes nothing
    older = client.post(at, sent | {"name": " house ", "share": "2.5"})
    assert older.status_code == 409
    assert "Name empty → House; Share empty → 0.02" in words_of(older)
    sent["seen"] = last_change(Seasoning)
    assert client.post(at, sent | {"name": " house ", "share": "2.5"}).status_code == 302
    row = Seasoning.objects.get()
    assert (row.share, row.allergens) == (D("0.025"), ["wheat", "milk"])
    wrong = client.post(at, sent | {"share": "40"})
    assert wrong.status_code == 422
    assert "at most 15.00" in words_of(wrong)
    assert client.post(at, {"what": "drop", "row": row.pk}).status_code == 302
    assert "None yet" in words_of(client.get(at))
    assert client.post(at, {"what": "x"}).status_code == 422


def test_nutrition_is_exempt_or_has_its_facts(client, two, ready, solving):
    blend(client)
    grind(client, None)
    batch = Batch.objects.get()
    assert "No facts needed: 12 lb of ground beef" in batch_view(batch).nutrition
    GrinderRules.objects.create(nutrition="facts")
    assert "are missing" in batch_view(batch).nutrition
    sent = dict.fromkeys(NUTRIENTS, "0") | {
        "calories": "240",
        "total_fat": "17",
        "saturated_fat": "7",
        "protein": "21",
    }
    sent |= {"what": "facts", "key": KEY(), "product": batch.product_id, "fat": "15"}
    sent |= {"serving": "112", "source": "the shop's laboratory"}
    wrong = client.post(reverse("grinder:rules"), sent | {"total_fat": "30"})
    assert wrong.status_code == 422
    assert "about 17 g of 112 g" in words_of(wrong)
    for _ in range(2):
        assert client.post(reverse("grinder:rules"), sent).status_code == 302
    assert NutritionFacts.objects.count() == 1
    assert "calories 240 kcal" in batch_view(batch).nutrition


def test_a_batch_costs_what_its_tubs_cost_by_the_chosen_school(client, weighed):
    rows = weighed()
    decide(school="sales_value")
    one = next(w for w in waiting() if w.output.pile == "lean")
    Output.objects.filter(pk=one.output.pk).update(in_case=True, retail=D("7.99"))
    made = start_tub(NewTub(KEY(), "A", "beef", "lean"), None)
    entry = hand_over(KEY(), made.pk, one.output.pk, None)
    view = sheet_view(load(rows.test.pk), house().school)
    row = next(line for line in view.table if line.name == one.output.name)
    assert entry.school == "sales_value"
    assert abs(entry.cost - row.cost_per_unit) < D("0.0001")


def test_trim_that_no_school_costs_is_costed_as_it_is_valued(client, weighed):
    weighed()
    one = next(w for w in waiting() if w.output.pile == "lean")
    Output.objects.filter(pk=one.output.pk).update(in_case=False)
    made = start_tub(NewTub(KEY(), "A", "beef", "lean"), None)
    entry = hand_over(KEY(), made.pk, one.output.pk, None)
    assert (entry.cost, entry.school) == (one.output.credit, "")


def test_a_poured_bag_counts_with_its_own_lean_until_the_tub_is_judged_again(client, two, fill):
    chuck = two[0]
    (bag,) = fill(("beef-shoulder-clod", 3, "14.00"), price="3.10")
    pour_bag(KEY(), chuck.pk, bag.pk, D("0.90"), None)
    view = next(one for one in tubs_now(timezone.localdate()) if one.tub == chuck)
    assert abs(view.lean.share - D("0.85")) < D("0.0001")
    judge(chuck.pk, How.TESTER, D("0.84"), None)
    view = next(one for one in tubs_now(timezone.localdate()) if one.tub == chuck)
    assert view.lean.share == D("0.84")


def test_what_trim_usually_is_is_learned_from_tubs_that_were_tested(client, shop):
    for lean in ("0.78", "0.80", "0.82", "0.80"):
        tub("Chuck", pounds="5", lean=lean, primal="chuck")
    known = what_tests_say()
    assert known.usual["beef", "lean", "chuck"].share == D("0.80")
    new = tub("New", pounds="5", primal="chuck")
    judge(new.pk, How.EYE, D("0.90"), person("ines").pk)
    view = next(one for one in tubs_now(timezone.localdate()) if one.tub == new)
    assert D("0.79") < view.lean.share < D("0.83")


def test_a_grade_on_the_label_only_where_every_lot_has_it(client, shop, ready, solving):
    made = start_tub(NewTub(KEY(), "A", "beef", "lean"), None)
    day = timezone.localdate()
    lots = [{"lot": "L1", "grade": "USDA Choice"}]
    put_in(KEY(), made.pk, Weight(D(9), Unit.LB), lots, day, None)
    judge(made.pk, How.TESTER, D("0.85"), None)
    answer = blend(client, weight="5")
    assert "Its label may say USDA Choice" in words_of(client.get(answer["Location"]))
    put_in(KEY(), made.pk, Weight(D(9), Unit.LB), [{"lot": "L2", "grade": ""}], day, None)
    judge(made.pk, How.TESTER, D("0.85"), None)
    answer = blend(client, weight="5")
    assert "the grade of a lot is not known" in words_of(client.get(answer["Location"]))


class Answer(BytesIO):
    def __enter__(self):
        return self


@pytest.fixture
def tester(monkeypatch, settings):
    """`tester({"reading": "a-1", "fat": "15.4"})`: what the fat tester says; an error is raised."""
    settings.TESTER_URL = "http://127.0.0.1:1"

    def says(what):
        def opened(url, timeout):
            if isinstance(what, Exception):
                raise what
            return Answer(what if isinstance(what, bytes) else json.dumps(what).encode())

        monkeypatch.setattr("rooms.common.clients.processes.urllib.request.urlopen", opened)

    return says


def test_the_tester_is_read_once_a_sample(client, two, ready, solving, tester):
    tester({"reading": "a-1", "fat": "18.0"})
    at = reverse("grinder:tub", args=[two[0].pk])
    for _ in range(2):
        assert client.post(at, {"what": "tester"}).status_code == 302
    assert two[0].judged.filter(how="tester", reading="a-1").count() == 1
    assert two[0].judged.last().lean == D("0.82")
    other = client.post(reverse("grinder:tub", args=[two[1].pk]), {"what": "tester"})
    assert "sample of Chuck" in words_of(other)
    blend(client)
    grind(client, None)
    batch = Batch.objects.get()
    tester({"reading": "a-2", "fat": "15.6"})
    for _ in range(2):
        assert to_batch(client, batch, "tester").status_code == 302
    assert [one.fat for one in batch.tested.all()] == [D("0.156")]


@pytest.mark.parametrize(
    ("what", "says"),
    some_often(
        [
            (urllib.error.URLError("away"), "does not answer"),
            (
                urllib.error.HTTPError("", 409, "", {}, BytesIO(b"the lid is open; shut it")),
                "the lid is open",
            ),
            (b"<html>", "not understood"),
            ({"fat": "15"}, "not understood"),
            ({"reading": "a", "fat": "150"}, "0 to 100"),
            ({"reading": "a", "fat": "NaN"}, "not understood"),
            ([], "not understood"),
        ]
    ),
)
def test_a_tester_that_says_nothing_useful_is_told_and_nothing_is_kept(
    client, two, tester, what, says
):
    tester(what)
    before = two[0].judged.count()
    answer = client.post(reverse("grinder:tub", args=[two[0].pk]), {"what": "tester"})
    assert answer.status_code == 409
    assert says in words_of(answer)
    assert two[0].judged.count() == before


def test_without_a_tester_the_page_asks_to_type(client, two):
    at = reverse("grinder:tub", args=[two[0].pk])
    assert "Read the tester" not in words_of(client.get(at))
    assert "none is connected" in words_of(client.post(at, {"what": "tester"}))


def test_what_the_last_batches_made_of_trim_is_offered_and_not_used(
    client, weighed, ready, solving
):
    rows = weighed()
    one = next(w for w in waiting() if w.output.pile == "lean")
    made = start_tub(NewTub(KEY(), "A", "beef", "lean"), None)
    hand_over(KEY(), made.pk, one.output.pk, None)
    judge(made.pk, How.TESTER, D("0.85"), None)
    assert trim_worth("beef") is None
    pounds = left_of(made)
    assert blend(client, weight=f"{pounds:f}").status_code == 302
    grind(client, None)
    batch = Batch.objects.get()
    finish_batch(batch.pk, CameOut(pounds, D(0), 3000), None)
    worth = trim_worth("beef")
    price = Product.objects.get(cut__key="beef-ground").prices.first()
    assert worth.value == (price.amount * (1 - D("0.42"))).quantize(D("0.0001"))
    words = words_of(client.get(reverse("grinder:trim_value"), {"species": "beef"}))
    assert "In the last batch a lb of lean brought" in words
    assert words_of(client.get(reverse("grinder:trim_value"), {"species": "x"})) == ""
    before = one.output.credit
    one.output.refresh_from_db()
    assert one.output.credit == before
    assert rows.test.pk


def test_the_sheet_hands_its_trim_over_by_one_touch(client, weighed):
    test = weighed().test
    at = reverse("grinder:trim_of", args=[test.pk])
    assert "Start a tub" in words_of(client.get(at))
    made = start_tub(NewTub(KEY(), "A", "beef", "lean"), None)
    assert "into A" in words_of(client.get(at))
    one = next(w for w in waiting() if w.output.pile == "lean")
    sent = {"key": KEY(), "output": one.output.pk, "tub": made.pk, "test": test.pk}
    answer = client.post(reverse("grinder:take_trim"), sent)
    assert answer.status_code == 200
    assert f"{one.output.name}: " in words_of(answer)
    again = client.post(reverse("grinder:take_trim"), sent | {"key": KEY()})
    assert again.status_code == 409
    assert "in a tub already" in words_of(again)
    damaged = client.post(reverse("grinder:take_trim"), sent | {"test": "x"})
    assert damaged.status_code == 422


def test_the_planner_knows_what_lies_in_the_tubs_and_counts_no_trim_twice(
    client, weighed, two, ready, solving, fill
):
    today = timezone.localdate()
    products = list(Product.objects.filter(cut__key="beef-ground").select_related("cut"))
    ground = products[0].cut_id
    weighed()
    cut = sum((pile.pounds for pile in piles_free(today).values() if pile.cut == ground), D(0))
    start = pounds_at_hand(today, products)[ground]
    assert start == cut + 24
    one = next(w for w in waiting() if w.output.pile == "lean")
    hand_over(KEY(), two[0].pk, one.output.pk, None)
    assert pounds_at_hand(today, products)[ground] == start
    judge(two[0].pk, How.TESTER, D("0.80"), None)
    blend(client)
    grind(client, None)
    batch = Batch.objects.get()
    assert pounds_at_hand(today, products)[ground] == start
    finish_batch(batch.pk, CameOut(D("11.5"), D("0.4"), 3000), None)
    carry_over(KEY(), batch.pk, two[1].pk, None)
    assert pounds_at_hand(today, products)[ground] == start
    to_batch(client, batch, "undo")
    fill(("beef-shoulder-clod", 3, "20.00"))
    document = asking(today, DayAsked({person("ines").pk: D(60)})).document
    rows = {row["shown"]: row for row in document["products"] if "have" in row}
    if "Ground beef" in rows:
        assert D(rows["Ground beef"]["have"]["value"]) == round(start, 3)


def test_few_queries_on_every_page_of_the_grinder(
    client, two, ready, solving, django_assert_max_num_queries
):
    blend(client)
    grind(client, None)
    batch = Batch.objects.get()
    answer = blend(client, weight="5")
    for address, most in (
        (answer["Location"], 26),
        (reverse("grinder:front"), 20),
        (reverse("grinder:batch", args=[batch.pk]), 22),
        (reverse("grinder:tub", args=[two[0].pk]), 20),
        (reverse("grinder:records"), 12),
        (reverse("grinder:rules"), 10),
        (reverse("grinder:due"), 12),
    ):
        client.get(address)
        with django_assert_max_num_queries(most):
            assert client.get(address).status_code == 200
