"""The day's plan: what is asked, what is kept, pins, what is refused, the solver away."""

import uuid
from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from rooms.catalog.models import Plan, PlanOutput
from rooms.cooler.models import Bag
from rooms.planner.models import DayPlan
from rooms.planner.queries.asking import asking, sold_as
from rooms.planner.queries.crew import DayAsked
from rooms.planner.queries.day import newest
from rooms.pricebook.models import Product
from tests.cases import some_often
from tests.conftest import person, words_of

pytestmark = pytest.mark.django_db
D = Decimal


@pytest.fixture
def stocked(fill, shop):
    """Two clods and two tenderloins that are old enough, and a clod that is not."""
    bags = fill(
        ("beef-shoulder-clod", 20, "19.00"),
        ("beef-shoulder-clod", 21, "18.40"),
        ("beef-tenderloin", 20, "6.17"),
        ("beef-tenderloin", 22, "6.40"),
        price="4.10",
    )
    return bags


def plan_it(client, hours="3", who=("bram", "ines"), **more):
    """The day planned for these, each with so many hours."""
    sent = {
        "key": str(uuid.uuid4()),
        "begins": "06:00",
        "steps": "1",
        "wash": "6",
        "saw": "8",
        "wait": "40",
        **{hours_of(one): hours for one in who},
        **more,
    }
    return client.post(reverse("planner:day"), sent)


def hours_of(name):
    return f"hours_{person(name).pk}"


def asked(**more):
    """Bram and Ines for three hours each."""
    some = {person(name).pk: D(180) for name in ("bram", "ines")}
    return DayAsked(**{"minutes": some, **more})


def test_a_day_is_planned_and_shown_with_its_profit_and_kept_once(client, stocked, solving):
    key = str(uuid.uuid4())
    for _ in range(2):
        assert plan_it(client, key=key).status_code == 302
    plan = DayPlan.objects.get()
    words = words_of(client.get(reverse("planner:day")))
    assert f"{len(plan.answer['cut'])} of {len(plan.document['bags'])} bags" in words
    assert "Gross profit" in words
    assert "Give to the block" in " ".join(words.split())
    assert plan.made_by.username == "bram"
    assert D(plan.answer["minutes"]) <= 360


def test_the_document_knows_ages_prices_and_what_is_cut_already(stocked, shop):
    found = asking(timezone.localdate(), asked())
    ids = {row["id"] for row in found.document["bags"]}
    assert ids == {str(bag.pk) for bag in stocked}
    for way in found.document["ways"]:
        assert sum(D(one["share"]) for one in way["outputs"]) <= 1
    Bag.objects.filter(pk=stocked[0].pk).update(
        old_enough_on=timezone.localdate() + timedelta(days=3)
    )
    Bag.objects.filter(pk=stocked[1].pk).update(ends_on=timezone.localdate() - timedelta(days=1))
    Bag.objects.filter(pk=stocked[2].pk).update(ends_on=timezone.localdate())
    again = asking(timezone.localdate(), asked())
    left = {row["id"]: row for row in again.document["bags"]}
    assert set(left) == {str(stocked[2].pk), str(stocked[3].pk)}
    assert left[str(stocked[2].pk)]["must"]
    assert any("old enough on" in words for words in again.left_out)
    assert any("past its end" in words for words in again.left_out)


def test_a_bag_is_pinned_to_a_way_or_left_and_what_that_costs_is_told(client, stocked, solving):
    plan_it(client)
    clod, other = stocked[0], stocked[1]
    basic = Plan.objects.get(piece__key="beef-shoulder-clod", key="basic")
    pins = {f"pin-{clod.pk}": str(basic.pk), f"pin-{other.pk}": "no"}
    assert plan_it(client, **pins).status_code == 302
    plan = newest(timezone.localdate())
    cut = {row["bag"]: row["way"] for row in plan.answer["cut"]}
    assert cut[str(clod.pk)] == str(basic.pk)
    assert str(other.pk) not in cut
    words = words_of(client.get(reverse("planner:day")))
    assert "than the plan before" in words
    free = DayPlan.objects.last()
    assert D(plan.answer["gross_profit"]) <= D(free.answer["gross_profit"])


def test_values_come_one_after_the_other_and_are_kept(client, stocked, solving, monkeypatch):
    plan_it(client, hours="0.5", who=("bram",))
    plan = DayPlan.objects.get()
    for kind in ("hour", "sure", "next", "products", "musts"):
        address = reverse("planner:worth", args=[plan.pk, kind])
        assert client.post(address).status_code == 200
    plan.refresh_from_db()
    assert set(plan.worth) == {"hour", "sure", "next", "products", "musts"}
    assert D(plan.worth["sure"]["low"]) < D(plan.worth["sure"]["high"])
    assert D(plan.worth["hour"]["Bram"]["profit"]) > 0
    monkeypatch.setattr("rooms.common.clients.solver.ask", None)  # it is not asked again
    words = words_of(client.post(reverse("planner:worth", args=[plan.pk, "hour"])))
    assert "One more hour of Bram brings" in words
    assert "9 times in 10 between" in words
    assert "Being worked out" not in words
    assert client.post(reverse("planner:worth", args=[plan.pk, "else"])).status_code == 404


def test_by_the_hour_less_is_cut_for_more_a_minute(client, stocked, solving):
    plan_it(client)
    plan_it(client, aim="hour")
    hour, profit = DayPlan.objects.all()
    assert hour.document["aim"] == "hour"
    a, b = (D(p.answer["gross_profit"]) / D(p.answer["minutes"]) for p in (hour, profit))
    assert a >= b
    assert client.post(reverse("planner:worth", args=[hour.pk, "hour"])).status_code == 200
    hour.refresh_from_db()
    assert hour.worth == {}
    assert "An hour of hands" in words_of(client.get(reverse("planner:day")))


def test_a_job_leads_to_the_block_with_its_bag_and_way(client, stocked, solving):
    plan_it(client)
    page = client.get(reverse("planner:day"))
    job = next(iter(page.context["view"].jobs.values()))
    opening = client.get(job.address)
    assert opening.status_code == 200
    assert "1 bag of the cooler" in words_of(opening)


def test_a_plan_that_goes_on_is_planned_to_the_case_and_opened_as_itself(client, fill, shop):
    (bag,) = fill(("beef-short-loin", 20, "24.00"), price="6.10")
    plan = Plan.objects.get(piece=bag.piece, key="boned")
    document = asking(timezone.localdate(), asked()).document
    ways = {row["id"]: row for row in document["ways"]}
    ends, on = ways[str(plan.pk)], ways[f"{plan.pk}c"]
    assert on["name"] == f"{ends['name']}; carried on"
    assert {str(plan.pk), f"{plan.pk}c"} <= set(document["bags"][0]["ways"])
    steak = PlanOutput.objects.get(
        plan__piece__key="beef-strip-loin", plan__key="steaks", role="main"
    )
    product = Product.objects.get(cut=steak.cut)
    shares = {row["product"]: D(row["share"]) for row in on["outputs"]}
    whole = PlanOutput.objects.get(plan=plan, cut__key="beef-strip-whole")
    assert shares[sold_as(product)] == round(whole.share * steak.share, 4)
    assert D(on["minutes_per_lb"]) > D(ends["minutes_per_lb"])
    for cutter in document["block"]["cutters"]:
        assert (ends["id"] in cutter["ways"]) == (on["id"] in cutter["ways"])


def test_a_job_of_a_plan_carried_on_leads_to_the_block_by_its_first_plan(
    client, fill, shop, solving
):
    (bag,) = fill(("beef-short-loin", 20, "24.00"), price="6.10")
    plan = Plan.objects.get(piece=bag.piece, key="boned")
    plan_it(client, **{f"pin-{bag.pk}": f"{plan.pk}c"})
    job = client.get(reverse("planner:day")).context["view"].jobs[f"{plan.pk}c"]
    assert job.way == f"{plan.name}; carried on"
    assert "plan=boned" in job.address
    assert client.get(job.address).status_code == 200


def test_a_way_that_comes_back_to_itself_is_left_out_of_the_day(client, fill, shop):
    fill(("beef-short-loin", 20, "24.00"), price="6.10")
    back = PlanOutput.objects.filter(plan__piece__key="beef-strip-loin", plan__key="steaks")
    back.filter(role="main").update(goes_on="beef-short-loin/boned")
    found = asking(timezone.localdate(), asked())
    assert any("comes back to itself" in one for one in found.left_out)
    assert found.document["bags"]


def test_given_to_the_block_it_stands_until_a_newer_one(client, stocked, solving):
    plan_it(client)
    first = DayPlan.objects.get()
    give = reverse("planner:give", args=[first.pk])
    for _ in range(2):
        assert client.post(give).status_code == 302
    first.refresh_from_db()
    assert first.given_at is not None
    plan_it(client)
    late = client.post(give)
    assert late.status_code == 422
    assert "a newer one of this day was made since" in words_of(late)


@pytest.mark.parametrize(
    ("sent", "says"),
    some_often(
        [
            ({"ines": "0"}, "more than 0 is right"),
            ({"ines": "x"}, "not a plain number"),
            ({"ines": "15"}, "at most 14 is right"),
            ({"least_products": "60"}, "or fewer is right"),
            ({"wash": "99"}, "at most 60 is right"),
            ({"begins": "25:00"}, "valid time"),
        ]
    ),
)
def test_what_cannot_be_planned_says_why_and_keeps_what_was_typed(
    client, stocked, solving, sent, says
):
    sent = {hours_of(name) if name == "ines" else name: value for name, value in sent.items()}
    answer = plan_it(client, **sent)
    assert answer.status_code == 422
    assert says in words_of(answer)
    assert not DayPlan.objects.exists()
    name, value = next(iter(sent.items()))
    assert f'value="{value}"' in answer.content.decode()
    assert f'name="{name}"' in answer.content.decode()


def test_musts_that_do_not_fit_are_told_with_their_minutes(client, stocked, solving):
    Bag.objects.filter(pk=stocked[0].pk).update(ends_on=timezone.localdate())
    answer = plan_it(client, hours="0.1", who=("bram",))
    assert answer.status_code == 422
    words = words_of(answer)
    assert "minutes by its fastest way" in words
    assert "Shoulder clod, 19.00 lb" in words
    assert str(stocked[0].pk) not in answer.context["refused"].message


def test_an_empty_cooler_and_no_prices_say_so(client, shop, fill, solving):
    assert "none can be cut today" in words_of(plan_it(client))
    fill(("beef-shoulder-clod", 20, "19.00"))
    Product.objects.all().update(transfer=None)
    from rooms.pricebook.models import Price

    Price.objects.all().update(effective_on=timezone.localdate() + timedelta(days=9))
    answer = plan_it(client)
    assert answer.status_code == 422
    assert "none can be cut today" in words_of(answer)


def test_a_solver_that_is_away_says_so_and_the_last_plan_stands(client, stocked, solving, settings):
    plan_it(client)
    from rooms.common.clients import solver

    settings.SOLVER_URL = "http://127.0.0.1:9"
    import importlib

    importlib.reload(solver)
    answer = plan_it(client)
    assert answer.status_code in (409, 422, 503)
    words = words_of(answer)
    assert "The solver does not answer; the last plan stands" in words
    assert "Gross profit" in words


def test_a_cutter_looks_and_does_not_plan(as_role, stocked, solving):
    cutter = as_role("odile")
    assert cutter.get(reverse("planner:day")).status_code == 200
    assert plan_it(cutter).status_code == 403
    assert not DayPlan.objects.exists()


def test_a_bag_that_was_opened_since_is_refused_in_words_and_left_out_of_the_next_plan(
    client, stocked, solving
):
    plan_it(client)
    view = client.get(reverse("planner:day")).context["view"]
    job = next(iter(view.jobs.values()))
    gone = job.address.split("bag=")[1].split("&")[0]
    Bag.objects.filter(pk=gone).update(state=Bag.State.OPENED, left_at=timezone.now())
    assert client.get(reverse("planner:day")).status_code == 200
    late = client.get(job.address)
    assert late.status_code == 409
    assert "is opened already" in words_of(late)
    plan_it(client)
    assert gone not in {row["id"] for row in newest(timezone.localdate()).document["bags"]}


def test_what_is_short_says_why(client, stocked, solving):
    from rooms.demand.actions.want import want

    today = timezone.localdate()
    flat = Product.objects.get(cut__key="beef-flat-iron")
    want(flat, today.weekday(), D(90), D(99))
    later = today + timedelta(days=2)

    def why():
        view = client.get(reverse("planner:day")).context["view"]
        return next(line.why for line in view.case if line.short)

    plan_it(client, hours="0.4", who=("ines",))
    assert "no hands are left for it" in why()
    basic = Plan.objects.get(piece__key="beef-shoulder-clod", key="basic")
    if not basic.outputs.filter(cut__key="beef-flat-iron").exists():
        plan_it(client, hours="9", **{f"pin-{bag.pk}": f"{basic.pk}" for bag in stocked[:2]})
        assert "no bag gives it" in why()  # pinned, no way of it gives any
    Bag.objects.filter(pk=stocked[1].pk).update(old_enough_on=later)
    plan_it(client, hours="9")
    assert f"no other bag is old enough until {later:%A}" in why()
    Bag.objects.filter(pk=stocked[1].pk).update(state=Bag.State.OUT, left_at=timezone.now())
    plan_it(client, hours="9")
    assert "no other bag gives it" in why()
