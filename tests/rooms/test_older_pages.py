"""Two people with one page: whoever saves second is told, and one more press keeps what both changed."""

from html.parser import HTMLParser

import pytest
from django.urls import reverse

from rooms.bench.models import Tare
from rooms.catalog.models import Cut, Piece, Plan, PlanOutput, Step
from rooms.cooler.models import AgeWindow
from rooms.demand.models import StandingOrder, Wanted
from rooms.grinder.models import NutritionFacts, Seasoning
from rooms.planner.models import BuyingTerms
from rooms.pricebook.models import Adder, Ending, Family, Product, TraySize
from rooms.shop.models import Shop
from rooms.staff.models import Person
from rooms.trays.models import LabelRules, ProductLabel
from tests.conftest import words_of

pytestmark = pytest.mark.django_db


@pytest.fixture
def flat_iron(shop):
    return Product.objects.get(cut__key="beef-flat-iron")


class Forms(HTMLParser):
    """The forms of a page, each as a browser would send it."""

    def __init__(self):
        super().__init__()
        self.forms, self.select, self.text = [], "", ""

    def handle_starttag(self, tag, attrs):
        own = dict(attrs)
        name = own.get("name") or ""
        if tag == "form":
            self.forms.append({})
        if not self.forms:
            return
        now = self.forms[-1]
        if tag == "input" and name:
            is_tick = own.get("type") in ("checkbox", "radio")
            if not is_tick or "checked" in own:
                now.setdefault(name, []).append(own.get("value", "on" if is_tick else ""))
        elif tag == "select":
            self.select, self.is_multiple = name, "multiple" in own
        elif tag == "option" and self.select and self.is_multiple:
            if "selected" in own:
                now.setdefault(self.select, []).append(own.get("value", ""))
        elif tag == "option" and self.select and ("selected" in own or self.select not in now):
            now[self.select] = [own.get("value", "")]
        elif tag == "textarea":
            self.text = name
            now.setdefault(name, [""])

    def handle_endtag(self, tag):
        if tag == "select":
            self.select = ""
        if tag == "textarea":
            self.text = ""

    def handle_data(self, data):
        if self.text:
            self.forms[-1][self.text] = [self.forms[-1][self.text][0] + data.lstrip("\n")]


def form_of(answer, field):
    """The form that has a field, as a browser would send it."""
    reader = Forms()
    reader.feed(answer.content.decode())
    return next(form for form in reader.forms if field in form)


def at_product(flat_iron):
    return reverse("pricebook:product", args=[flat_iron.pk])


def shared(kind, row):
    return reverse("pricebook:shared_row", args=[kind, row.pk])


def step_of(piece):
    return Step.objects.filter(piece__key=piece).order_by("position").first().key


def plan_of(piece):
    return Plan.objects.filter(piece__key=piece).first().key


ROWS = {
    "a product": (
        at_product,
        Product,
        {"story": "Hot pan."},
        {"shrink": "2"},
    ),
    "a family": (
        lambda _: shared("families", Family.objects.create(name="Steaks")),
        Family,
        {"comfort": "30"},
        {"name": "Quick steaks"},
    ),
    "an ending rule": (
        lambda _: shared(
            "endings", Ending.objects.create(name="Nines", bands=[{"endings": ["0.99"]}])
        ),
        Ending,
        {"bands": "0.49"},
        {"name": "Halves"},
    ),
    "a tray": (
        lambda _: shared("trays", TraySize.objects.create(code="4", fits=4)),
        TraySize,
        {"fits": "3"},
        {"inside": "8 in"},
    ),
    "a step": (
        lambda _: shared("adders", Adder.objects.create(name="Tie")),
        Adder,
        {"price": "0.20"},
        {"minutes": "2"},
    ),
    "a person": (
        lambda _: reverse("staff:person", args=[Person.objects.get(username="tove").pk]),
        Person,
        {"first_name": "Tove B."},
        {"is_under_18": "on"},
    ),
    "the money of the shop": (
        lambda _: reverse("shop:section", args=["money"]),
        Shop,
        {"labour_rate": "30"},
        {"target_margin": "44"},
    ),
    "the scales of the shop": (
        lambda _: reverse("shop:section", args=["scales"]),
        Shop,
        {"capacity-0": "60"},
        {"label-1": "Trim scale", "capacity-1": "15", "division-1": "0.02", "unit-1": "lb"},
    ),
    "a piece": (
        lambda _: reverse("catalog:edit", args=["beef-flank"]),
        Piece,
        {"looks": "Even and thick."},
        {"cautions": "Thin at the end.\nTears along the grain."},
    ),
    "a step of a guide": (
        lambda _: reverse("catalog:edit_step", args=["beef-flank", step_of("beef-flank")]),
        Step,
        {"caution": "The knife goes away from the hand."},
        {"check": "Film off"},
    ),
    "a plan": (
        lambda _: reverse("catalog:edit_plan", args=["beef-flank", plan_of("beef-flank")]),
        Plan,
        {"note": "Whole, for the grill."},
        {"out-0-thickness": "1 in"},
    ),
    "a plan's outputs": (
        lambda _: reverse("catalog:edit_plan", args=["beef-flank", plan_of("beef-flank")]),
        PlanOutput,
        {"out-0-thickness": "1 in"},
        {"note": "Whole, for the grill."},
    ),
    "a cut": (
        lambda _: reverse("catalog:edit_cut", args=["beef-flank-steak"]),
        Cut,
        {"story": "Our own words."},
        {"serves": "3"},
    ),
    "label rules": (
        lambda _: reverse("trays:rules"),
        LabelRules,
        {"what": "rules", "place": "Gull Quay"},
        {"what": "rules", "markdown_days": "2"},
    ),
}
FIELD = {"label rules": "markdown_days"}
SLOW = ("a piece", "a step of a guide", "a plan's outputs", "a cut")
"""Forms of the catalog; the plan stands for them in make test."""
OFTEN_AND_LONG = [
    pytest.param(name, marks=pytest.mark.long) if name in SLOW else name for name in ROWS
]


@pytest.mark.parametrize("what", OFTEN_AND_LONG)
def test_who_saves_second_sees_what_differs_and_one_press_keeps_both(client, flat_iron, shop, what):
    find, model, theirs, own = ROWS[what]
    at, field = find(flat_iron), FIELD.get(what, next(iter(ROWS[what][2])))
    first = form_of(client.get(at), field)
    press = {name: value for name, value in own.items() if name == "what"}
    assert client.post(at, first | press).status_code == 302  # the first save of a shop without any
    page = form_of(client.get(at), field)
    assert client.post(at, page | theirs).status_code == 302
    assert client.post(at, page | theirs).status_code == 302  # the same press again
    late = client.post(at, page | own)
    assert late.status_code == 409
    assert "since this page was shown" in words_of(late)
    again = form_of(late, field)
    both = {name: value for name, value in {**theirs, **own}.items() if name != "what"}
    assert {name: again[name][0] for name in both} == both
    assert client.post(at, again | press).status_code == 302
    stands = form_of(client.get(at), field)
    assert {name: stands[name][0] for name in both} == both
    changes = model.history.count()
    assert client.post(at, stands | press).status_code == 302
    assert model.history.count() == changes  # nothing changed, nothing written


def facts(**more):
    amounts = {
        "calories": "240",
        "total_fat": "17",
        "saturated_fat": "6",
        "trans_fat": "1",
        "cholesterol": "75",
        "sodium": "75",
        "carbohydrate": "0",
        "fiber": "0",
        "sugars": "0",
        "added_sugars": "0",
        "protein": "21",
        "vitamin_d": "0",
        "calcium": "20",
        "iron": "2",
        "potassium": "300",
    }
    return {
        "what": "facts",
        "fat": "15",
        "serving": "112",
        "source": "USDA table",
        **amounts,
        **more,
    }


LISTS = {
    "a seasoning": (
        lambda _: (reverse("grinder:rules"),) * 2,
        Seasoning,
        "ingredients",
        lambda _: {
            "what": "seasoning",
            "name": "House",
            "share": "2",
            "ingredients": "salt",
            "per": "lb",
        },
        {"share": "2.5"},
    ),
    "nutrition facts": (
        lambda _: (reverse("grinder:rules"),) * 2,
        NutritionFacts,
        "serving",
        lambda flat_iron: facts(product=str(flat_iron.pk)),
        {"source": "our laboratory"},
    ),
    "numbers of a product": (
        lambda _: (reverse("trays:rules"),) * 2,
        ProductLabel,
        "item",
        lambda flat_iron: {"what": "product", "product": str(flat_iron.pk), "item": "00017"},
        {"item": "00018"},
    ),
    "a tub's weight": (
        lambda _: (reverse("bench:scale"), reverse("bench:tare")),
        Tare,
        "value",
        lambda _: {"name": "Blue", "value": "1.12", "unit": "lb"},
        {"value": "1.14"},
    ),
    "what the case wants": (
        lambda _: (reverse("demand:wanted"),) * 2,
        Wanted,
        "least",
        lambda flat_iron: {
            "product": str(flat_iron.pk),
            "weekdays": ["1", "4"],
            "least": "6",
            "most": "12",
        },
        {"most": "14"},
    ),
    "a standing order": (
        lambda _: (reverse("demand:demand"),) * 2,
        StandingOrder,
        "customer",
        lambda flat_iron: {
            "form": "standing",
            "customer": "The Ferry",
            "product": str(flat_iron.pk),
            "count": "12",
            "portion": "8",
            "portion_unit": "oz",
            "weekday": "1",
        },
        {"count": "20"},
    ),
    "how a piece is bought": (
        lambda _: (reverse("planner:order"), reverse("planner:terms")),
        BuyingTerms,
        "in_case",
        lambda _: {"piece": "beef-tenderloin", "in_case": "6"},
        {"in_case": "8"},
    ),
    "an ageing window": (
        lambda _: (reverse("cooler:window", args=["beef-tenderloin"]),) * 2,
        AgeWindow,
        "best_from",
        lambda _: {"least": "10", "best_from": "15", "best_to": "25", "end": "40"},
        {"end": "42"},
    ),
}


def count_of(model):
    return (model.history if hasattr(model, "history") else model.objects).count()


@pytest.mark.parametrize("what", LISTS)
def test_who_enters_what_another_has_just_entered_is_told_and_one_press_replaces_it(
    client, flat_iron, shop, what
):
    find, model, field, sent, own = LISTS[what]
    page_at, at = find(flat_iron)
    page = form_of(client.get(page_at), field)
    theirs = page | sent(flat_iron)
    assert client.post(at, theirs).status_code == 302
    kept = count_of(model)
    assert client.post(at, theirs).status_code == 302  # the same press again
    assert count_of(model) == kept
    late = client.post(at, theirs | own)
    assert late.status_code == 409, words_of(late)
    assert count_of(model) == kept
    again = form_of(late, field)
    ((name, value),) = own.items()
    assert again[name] == [value]
    assert client.post(at, {**theirs, **again}).status_code == 302
    assert count_of(model) > kept


def test_a_row_that_is_older_than_its_history_is_changed_and_then_has_one(client, shop):
    """As a shop of before has them: windows, families and the wanted list had no history."""
    piece = Piece.objects.get(key="beef-tenderloin")
    AgeWindow.objects.bulk_create(
        [AgeWindow(piece=piece, least=10, best_from=15, best_to=25, end=40)]
    )
    Family.objects.bulk_create([Family(name="Steaks")])
    for at, field, change in (
        (reverse("cooler:window", args=[piece.key]), "end", {"end": "38"}),
        (shared("families", Family.objects.get(name="Steaks")), "comfort", {"comfort": "30"}),
    ):
        page = form_of(client.get(at), field)
        assert client.post(at, page | change).status_code == 302
    assert AgeWindow.history.get().end == 38
    assert Family.history.get().history_user == shop["bram"]
