"""Who is there: rights, machines, what was cut before; how the day goes on; a bag cut by two ways."""

import uuid
from datetime import datetime, time, timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.quantities import Unit, Weight
from rooms.bench.models import CuttingTest, Output, TestBag
from rooms.catalog.models import Piece, Plan
from rooms.demand.actions.standing_orders import Standing, set_standing
from rooms.demand.actions.want import want
from rooms.planner.models import DayPlan
from rooms.planner.queries.asking import asking
from rooms.planner.queries.crew import DayAsked, names
from rooms.planner.queries.day import newest
from rooms.pricebook.models import Product
from rooms.shop.models import Shop
from rooms.staff.models import Person
from tests.conftest import person, words_of
from tests.rooms.planner.test_day import plan_it

pytestmark = pytest.mark.django_db
D = Decimal


@pytest.fixture
def bags(fill, shop):
    return fill(
        ("beef-shoulder-clod", 20, "19.00"),
        ("beef-tenderloin", 20, "6.17"),
        ("lamb-leg", 9, "8.20"),
        price="4.10",
    )


def block_of(*who, **more):
    minutes = {person(name).pk: D(180) for name in who}
    return asking(timezone.localdate(), DayAsked(minutes, **more))


def cut_before(name, piece, shop_test):
    shop_test.cutter, shop_test.piece = person(name), Piece.objects.get(key=piece)
    shop_test.save()


def test_who_is_under_18_has_no_machine_and_an_apprentice_cuts_what_was_cut_before(bags, opened):
    cut_before("tove", "beef-tenderloin", opened("beef-tenderloin", "6.00").test)
    found = block_of("ines", "tove").document
    ines, tove = found["block"]["cutters"]
    assert tove["machines"] == []
    assert "saw" in ines["machines"]
    species = {row["id"]: row["name"] for row in found["ways"]}
    assert {species[way].split(":")[0] for way in tove["ways"]} == {
        "Tenderloin, side muscle on, defatted"
    }
    assert not any(species[way].startswith("Tenderloin") for way in ines["ways"])
    free = block_of("ines", "tove", is_anyone=True).document["block"]["cutters"]
    assert not any("ways" in row for row in free)


def test_where_nobody_may_run_the_grinder_it_stands_still_and_that_is_said(bags):
    alone = block_of("tove", is_anyone=True)
    assert "grind" not in alone.document["block"]
    assert any("nobody there may run it" in words for words in alone.left_out)
    with_ines = block_of("ines", "tove")
    assert with_ines.document["block"]["grind"]["products"]


def test_of_two_with_one_name_the_log_in_stands_beside_it(shop):
    twin = Person(username="ines2", first_name=person("ines").first_name, pk=999)
    assert names([person("ines"), twin])[999].endswith("(ines2)")


def test_a_cutter_without_hours_is_not_there_and_nobody_at_all_is_refused(client, bags, solving):
    assert plan_it(client, who=()).status_code == 422
    assert "0 have some; 1 to 4 cutters are right" in words_of(plan_it(client, who=()))
    assert plan_it(client, who=("ines",)).status_code == 302
    plan = newest(timezone.localdate())
    assert [row["name"] for row in plan.document["block"]["cutters"]] == ["Ines"]
    assert plan.hands == 1
    page = client.get(reverse("planner:day"))
    assert page.context["form"].initial[f"hours_{person('ines').pk}"] == "3"
    assert not page.context["form"].initial.get(f"hours_{person('bram').pk}")


def test_solved_again_at_ten_the_hours_that_are_left_stand_there(client, bags, solving):
    plan_it(client, who=("ines",), hours="4.5")
    plan = newest(timezone.localdate())
    plan.document["begins"] = 0
    plan.made_at -= timedelta(hours=1, minutes=32)
    plan.save()
    hours = f"hours_{person('ines').pk}"
    left = client.get(reverse("planner:day")).context["form"].initial[hours]
    gone = timezone.now() - max(
        plan.made_at, timezone.make_aware(datetime.combine(plan.day, time()))
    )
    assert D(left) == D("4.5") - D(round(gone.total_seconds() / 900)) / 4
    plan.made_at -= timedelta(hours=9)
    plan.document["asked"][hours] = "0.25"
    plan.save()
    left = client.get(reverse("planner:day")).context["form"].initial[hours]
    assert left == ("" if gone > timedelta(minutes=8) else "0.25")


def test_what_really_happened_moves_the_rest_and_the_morning_shows_what_is_left(
    client, bags, solving, opened
):
    plan_it(client, who=("ines",))
    plan = newest(timezone.localdate())
    client.post(reverse("planner:give", args=[plan.pk]))
    jobs = client.get(reverse("planner:jobs"))
    many = words_of(jobs).count(":")
    before = client.get(reverse("planner:day")).context["view"]
    bag = plan.answer["cut"][0]["bag"]
    test = opened("beef-shoulder-clod", "19.00").test
    TestBag.objects.create(test=test, bag_id=bag)
    during = client.get(reverse("planner:day"))
    assert "0 of" in during.context["view"].went
    assert "1 on the block" in during.context["view"].went
    CuttingTest.objects.filter(pk=test.pk).update(finished_at=timezone.now())
    Output.objects.filter(pk=test.outputs.first().pk).update(minutes=D(95))
    after = client.get(reverse("planner:day")).context["view"]
    assert "1 of" in after.went
    assert "later than planned" in after.went
    assert after.done > before.done
    assert words_of(client.get(reverse("planner:jobs"))).count(":") < many


def test_a_bag_cut_by_two_ways_opens_the_block_with_both_and_its_split(client, bags, solving):
    plan_it(client, who=("ines",), steps="2")
    plan = DayPlan.objects.get()
    clod = Piece.objects.get(key="beef-shoulder-clod")
    one, other = Plan.in_house_order(clod.plans.all())[:2]
    rows = {row["id"]: row for row in plan.document["ways"]}
    assert plan.document["block"]["steps"] == 2
    made = {
        "id": f"{one.pk}@1/2+{other.pk}@1/2",
        "name": "1/2 roasts and 1/2 steaks",
        "parts": [{"way": str(one.pk), "part": "0.5"}, {"way": str(other.pk), "part": "0.5"}],
        "minutes": "0",
        "minutes_per_lb": rows[str(one.pk)]["minutes_per_lb"],
    }
    plan.answer |= {
        "cut": [{"bag": str(bags[0].pk), "way": made["id"]}],
        "made_of": [made],
        "hands": [{"cutter": "Ines", "way": made["id"], "minutes": "30"}],
        "ground": "0",
        "not_cut": [],
    }
    plan.save()
    (job,) = client.get(reverse("planner:day")).context["view"].jobs.values()
    assert job.way == "1/2 roasts, 1/2 steaks"
    form = client.get(job.address).context["form"]
    assert (form.initial["plan"], form.initial["rest_by"]) == (one, other)
    assert form.initial["split"] == "50"
    del made["parts"][1]
    made["back"] = "0.5"
    plan.save()
    (job,) = client.get(reverse("planner:day")).context["view"].jobs.values()
    assert "the rest goes back" in job.way


def test_a_plan_of_the_state_before_is_still_shown(client, bags, solving):
    """Without hands by name, their losses, and when it begins."""
    plan_it(client)
    plan = DayPlan.objects.get()
    for name in ("block", "begins", "asked"):
        del plan.document[name]
    for name in ("hands", "lost", "ground", "made_of"):
        plan.answer.pop(name, None)
    plan.worth = {"hour": "12.50"}
    plan.save()
    words = words_of(client.get(reverse("planner:day")))
    assert "Cutter 1" in words
    assert "One more hour of hands brings 12.50" in words


def test_a_plan_that_is_not_proven_says_so_and_can_be_looked_at_longer(client, bags, solving):
    plan_it(client)
    plan = DayPlan.objects.get()
    plan.answer["open"] = {"gap": "1.38", "short_gap": "0"}
    plan.save()
    words = words_of(client.get(reverse("planner:day")))
    assert "The best so far: at most 1.38 more can be had." in words
    assert "Look longer" in words
    for kind in ("hour", "products", "musts"):  # its gap would be told as worth
        client.post(reverse("planner:worth", args=[plan.pk, kind]))
        plan.refresh_from_db()
        assert kind not in plan.worth
    assert plan_it(client, longer="1", key=str(uuid.uuid4())).status_code == 302
    assert "Look longer" not in words_of(client.get(reverse("planner:day")))


def test_a_kilo_shop_with_names_in_another_script_plans_orders_and_looks_ahead(
    client, bags, solving
):
    Shop.objects.update(unit="kg")
    Person.objects.filter(username="ines").update(first_name="Инес")
    flat = Product.objects.get(cut__key="beef-flat-iron")
    today = timezone.localdate()
    want(flat, today.weekday(), D(1), D(4))
    kilos = Standing("Причал", flat, "", 6, Weight(D(200), Unit.G), today.weekday())
    set_standing(kilos, None)
    answer = plan_it(client, who=("ines",), freezer="5")
    assert answer.status_code == 302, answer.context["refused"].message
    plan = newest(today)
    assert plan.document["block"]["freezer"] == {"value": "5", "unit": "kg"}
    words = words_of(client.get(reverse("planner:day")))
    assert "Инес" in words
    sent = {"key": str(uuid.uuid4())}
    assert client.post(reverse("planner:order"), sent).status_code == 302
    for name in ("planner:order", "planner:week", "demand:demand"):
        assert client.get(reverse(name)).status_code == 200
    assert "Причал" in words_of(client.get(reverse("demand:demand")))
