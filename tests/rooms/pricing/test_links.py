"""Give and take at today's prices, and one sales name on two muscles."""

import re
from decimal import Decimal

import pytest
from django.urls import reverse

from rooms.bench.models import CuttingTest
from rooms.catalog.models import Cut, Plan, PlanOutput
from rooms.pricebook.models import Price, Product
from rooms.pricebook.queries.names import same_names
from rooms.pricing.queries.bringing import brings
from rooms.pricing.queries.giving import giving, links, links_of

pytestmark = pytest.mark.django_db


@pytest.mark.parametrize("key", links())
def test_every_link_has_a_sum_at_todays_prices_that_foots(
    client, shop, key, django_assert_max_num_queries
):
    with django_assert_max_num_queries(8):
        page = client.get(reverse("pricing:giving", args=[key]))
    assert page.status_code == 200
    view = giving(key, {})
    assert view.moved is not None, [view.fault, view.givers, view.takers]
    given = sum(side.value for side in view.givers)
    taken = sum(side.value for side in view.takers)
    assert abs(given - round(view.moved.given, 2)) <= Decimal("0.01")
    assert abs(taken - round(view.moved.taken, 2)) <= Decimal("0.01")
    for piece in view.link["pieces"]:
        assert key in dict(links_of(piece))


def test_typed_values_come_before_the_usual_ones_and_nothing_is_saved(client, shop):
    address = reverse("pricing:giving_sum", args=["spare-ribs-belly"])
    answer = client.get(address, {"amount": "0.5", "give-0": "4", "take-0": "6"}).content.decode()
    assert "2.07 lb" in answer
    assert "4.14" in answer
    assert "Won" in answer


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ({"amount": "x"}, "“x” is not a plain number"),
        ({"amount": "9"}, "at most 4 is right"),
        ({"length": "0"}, "length"),
        ({"give-0": "-1"}, "Price of"),
        ({"take-0": ""}, "A price is"),
    ],
)
def test_a_wrong_value_is_named_with_what_is_right(client, shop, typed, says):
    answer = client.get(reverse("pricing:giving_sum", args=["spare-ribs-belly"]), typed)
    assert answer.status_code == (200 if typed.get("take-0") == "" else 422)
    assert says in answer.content.decode()


@pytest.mark.parametrize("key", links())
def test_each_stop_of_the_seam_says_what_typing_its_amount_says(shop, key):
    for stop in giving(key, {}).stops:
        assert giving(key, {"amount": stop.amount}).says == stop.says


def test_without_a_price_the_seam_still_moves_and_more_than_it_shows_is_told(client, shop):
    view = giving("cap-roast", {"give-0": ""})
    assert view.moved is None
    assert [stop.says for stop in view.stops][:2] == ["0 lb", "0.1 lb"]
    address = reverse("pricing:giving_sum", args=["cap-roast"])
    assert "5 is more than the picture" in client.get(address, {"amount": "5"}).content.decode()
    assert giving("cap-roast", {"amount": "x"}).picture is None


@pytest.mark.parametrize(
    ("broken", "ribs", "warns"),
    [("0", "4", ""), ("0", "5", "keeps 7"), ("1", "2", ""), ("1", "4", "keeps 6"), ("", "4", "")],
)
def test_a_rack_that_gets_too_short_for_its_item_is_told_from_the_break(shop, broken, ribs, warns):
    """USDA IMPS 422 asks for at least eight ribs; value from memory. About 12 ribs where the
    shoulder left between 2nd and 3rd, 10 after the 4th: common practice, no published source."""
    view = giving("country-style", {"amount": ribs, "broken": broken})
    assert bool(view.warning) is bool(warns)
    assert warns in view.warning
    assert bool(view.form.errors) is (broken == "")


def test_a_link_that_is_not_there_is_not_found(client, shop):
    for name in ("giving", "giving_sum"):
        assert client.get(reverse(f"pricing:{name}", args=["moon"])).status_code == 404


def test_a_plan_brings_its_shares_at_todays_prices(client, shop, django_assert_max_num_queries):
    plan = Plan.objects.get(piece__key="beef-tenderloin", key="centre-filets-7oz")
    with django_assert_max_num_queries(4):
        found = brings("beef-tenderloin", plan.key)
    by_hand = Decimal(0)
    for output in plan.outputs.exclude(cut=None):
        product = output.cut.product
        price = Price.objects.filter(product=product).current().first()
        by_hand += output.share * 100 * (price.amount if product.is_sold else product.transfer)
    assert found.total == by_hand
    assert found.unpriced == []
    assert (
        "What 100 lb of it bring"
        in client.get(
            reverse("pricing:brings", args=["beef-tenderloin"]), {"plan": plan.key}
        ).content.decode()
    )
    Price.objects.all().delete()
    without = brings("beef-tenderloin", plan.key)
    assert without.unpriced == ["Center filet", "Tips", "Lean trim"]
    assert brings("no-such", "plan").rail == []


def test_one_name_on_two_muscles_is_flagged_with_both(client, shop, django_assert_num_queries):
    with django_assert_num_queries(2):
        found = same_names()
    by_name = {same.name: same.products for same in found}
    assert set(by_name) == {"Ranch steak", "sierra", "wing rib"}
    muscles = {product.cut.muscle.latin for product in by_name["Ranch steak"]}
    assert len(muscles) == 2
    for page in ("pricing:prices", "pricing:same_names"):
        answer = client.get(reverse(page)).content.decode()
        assert all(muscle in answer for muscle in muscles), page
    guide = client.get(reverse("pricing:links", args=["beef-rib"])).content.decode()
    assert "Cap sold alone" in guide


def test_one_synonym_on_two_muscles_is_flagged_like_a_sales_name(shop):
    cut = Cut.objects.get(key="beef-flap")
    cut.synonyms = [*cut.synonyms, "Denver"]  # which the under-blade steak is called too
    cut.save()
    flagged = {same.name.lower(): same.products for same in same_names()}
    assert {product.cut.key for product in flagged["denver"]} == {
        "beef-flap",
        "beef-under-blade-steak",
    }


def test_a_renamed_or_withdrawn_product_is_no_longer_flagged(shop):
    product = Product.objects.filter(name="Ranch steak").first()
    Product.objects.filter(pk=product.pk).update(is_sold=False)
    assert "Ranch steak" not in {same.name for same in same_names()}
    Product.objects.filter(pk=product.pk).update(is_sold=True, name="ranch  STEAK")
    assert len(same_names()) == 3


def carried_on_brings(plan="boned"):
    words = brings("beef-short-loin", plan).carried_on
    return words, Decimal(re.search(r"bring ([0-9,]+\.[0-9]{2})", words)[1].replace(",", ""))


def test_a_plan_that_goes_on_brings_what_its_pieces_bring(client, shop):
    words, all_of_it = carried_on_brings()
    assert words.endswith("by usual shares")
    steaks = PlanOutput.objects.filter(plan__piece__key="beef-strip-loin", plan__key="steaks")
    steak = steaks.select_related("cut").get(role="main")
    price = Price.objects.current().get(product__cut=steak.cut)
    own = 100 * Decimal("0.46") * steak.share * price.amount  # 46 % of a short loin is its strip
    Price.objects.filter(product=price.product).delete()
    words, without = carried_on_brings()
    assert words.endswith(f"no price yet: Strip loin: {steak.name}")
    assert abs(all_of_it - without - own) < Decimal("0.02")
    steaks.update(goes_on="beef-short-loin/boned")  # a way that comes back to itself
    assert brings("beef-short-loin", "boned").carried_on == ""
    assert brings("beef-tenderloin", "basic").carried_on == ""


def test_what_pieces_cut_on_bring_rests_on_the_shops_tests(weighed):
    _, usual = carried_on_brings()
    for _ in range(2):
        weighed()
    CuttingTest.objects.update(approved_at="2026-01-01T00:00Z")
    words, tested = carried_on_brings()
    assert words.endswith("by the shop’s tests where there are any")
    assert tested != usual
