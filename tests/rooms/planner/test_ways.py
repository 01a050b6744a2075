"""Ways of one piece side by side: by tests or assumed, words first, what is refused."""

from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone
from scipy import stats

from cutting.ways.weighing_up import welch
from rooms.bench.models import CuttingTest, Output
from rooms.catalog.models import Piece, Plan, PlanOutput
from rooms.demand.actions.want import want
from rooms.pricebook.models import Product
from tests.conftest import words_of

pytestmark = pytest.mark.django_db
D = Decimal


def page(client, key="beef-knuckle", **asked):
    return client.get(reverse("planner:ways", args=[key]), asked)


def test_ways_of_a_piece_never_tested_are_compared_and_marked_as_assumed(client, shop):
    assert "Knuckle" in words_of(client.get(reverse("planner:ways_front")))
    answer = page(client, weight="10.20", unit="lb", price="4.35", plans=["basic", "seamed-steaks"])
    words = words_of(answer)
    assert answer.status_code == 200
    assert "never tested here: usual shares, an assumption" in words
    assert "a labour hour" in words
    assert "is better by" in words or "No way has all its prices" in words


def test_a_tested_way_names_its_tests(client, weighed):
    for _ in range(2):
        weighed()
    CuttingTest.objects.update(approved_at="2026-01-01T00:00Z")
    answer = page(client, "beef-tenderloin")
    assert "tests 2, 1" in words_of(answer)


def test_where_little_of_a_product_sells_the_piece_is_best_cut_two_ways(client, shop):
    answer = page(client, weight="60", unit="lb", price="3.35", plans=["basic", "seamed-steaks"])
    assert answer.context["view"].split is None
    best = next(way for way in answer.context["view"].ways if way.is_best)
    output = max((one for one in best.outputs if one.role == "main"), key=lambda one: one.share)
    product = Product.objects.get(cut=output.cut)
    product.transfer = D("0.50")
    product.save()
    want(product, timezone.localdate().weekday(), D(1), D(3))
    answer = page(client, weight="60", unit="lb", price="3.35", plans=["basic", "seamed-steaks"])
    words = words_of(answer)
    assert "Mixed is better by" in words
    assert f"no more of {output.name}" in words


def test_a_pile_is_set_against_grind_by_the_clock_and_the_sticker_is_told(client, weighed):
    for _ in range(2):
        weighed()
    CuttingTest.objects.update(approved_at="2026-01-01T00:00Z")
    Output.objects.filter(role="main").update(minutes=D(12))
    ways = page(client, "beef-tenderloin").context["view"].ways
    tested = next(way for way in ways if way.tests)
    assert len(tested.tests) == 2
    assert tested.piles
    words = words_of(page(client, "beef-tenderloin"))
    assert "grind is better under" in words
    assert "largest sticker" in words


def test_what_the_best_brings_when_one_thing_moves_is_worked_out_when_asked(client, shop):
    asked = {"weight": "10.20", "unit": "lb", "price": "4.35", "plans": ["basic", "seamed-steaks"]}
    address = reverse("planner:moved", args=["beef-knuckle"])
    words = words_of(client.get(address, asked))
    assert "invoice" in words
    assert "yield of" in words
    assert reverse("planner:moved", args=["beef-knuckle"]) in page(client, **asked).content.decode()
    wrong = client.get(address, asked | {"price": "0"})
    assert wrong.status_code == 422
    assert "more than 0" in words_of(wrong)


@pytest.mark.parametrize(
    ("asked", "says"),
    [
        ({"weight": "x"}, "not a plain number"),
        ({"price": "0"}, "more than 0"),
        ({"plans": ["basic"]}, "1 are ticked; two to four are right"),
        ({"plans": []}, "required"),
    ],
)
def test_what_cannot_be_compared_says_why(client, shop, asked, says):
    plain = {"weight": "10.20", "unit": "lb", "price": "4.35", "plans": ["basic", "mixed"]}
    answer = page(client, **{**plain, **asked})
    assert answer.status_code == 422
    assert says in words_of(answer)


QUARTER = {"weight": "160", "unit": "lb", "price": "3.10", "plans": ["by-seams"]}


def carried(answer):
    """The shares of a plan carried on, by the output's name."""
    ends, on = answer.context["view"].ways
    assert on.name == f"{ends.name}; carried on"
    return {one.name: one.share for one in on.figures.way.outputs}


def test_a_plan_that_goes_on_stands_beside_itself_worked_to_the_case(
    client, shop, django_assert_max_num_queries
):
    page(client, "beef-hindquarter", **QUARTER)
    with django_assert_max_num_queries(25):
        answer = page(client, "beef-hindquarter", **QUARTER)
    assert answer.status_code == 200
    shares = carried(answer)
    assert shares["Short loin: Porterhouse"] == D("0.0525")  # 15 % x 35 %
    assert (
        shares["Tri-tip: Tri-tip roast"]
        == D("0.02")
        * PlanOutput.objects.get(
            plan__piece__key="beef-tri-tip", plan__key="roast", role="main"
        ).share
    )
    assert "Short loin" not in shares
    beside = PlanOutput.objects.filter(plan__piece__key="beef-hindquarter", name="Lean trim").get()
    assert shares["Lean trim"] > beside.share  # of all pieces together: one cut is one product
    assert sum(name.endswith("Lean trim") for name in shares) == 1
    ends, on = answer.context["view"].ways
    assert on.figures.way.minutes > ends.figures.way.minutes
    assert "Hindquarter" in words_of(client.get(reverse("planner:ways_front")))


def test_a_chain_rests_on_the_shops_tests_of_the_pieces_inside(client, weighed):
    for _ in range(2):
        weighed()
    CuttingTest.objects.update(approved_at="2026-01-01T00:00Z")
    asked = {"weight": "16", "unit": "lb", "price": "6.10", "plans": ["boned"]}
    answer = page(client, "beef-short-loin", **asked)
    measured = page(client, "beef-tenderloin").context["view"].ways[0]
    for one in (each for each in measured.figures.way.outputs if each.role == "main"):
        share = carried(answer)[f"Tenderloin: {one.name}"]
        assert abs(share - D("0.13") * one.share) < D("1e-20")
    assert answer.context["view"].ways[1].tests == [2, 1]
    CuttingTest.objects.update(approved_at=None)  # taken back: it counts no longer
    assert page(client, "beef-short-loin", **asked).context["view"].ways[1].tests == []


def test_a_plan_inside_that_is_gone_ends_the_way_at_the_whole_piece(client, shop):
    Plan.objects.filter(piece__key="beef-tri-tip", key="roast").update(is_dropped=True)
    Piece.objects.filter(key="beef-flap").update(is_dropped=True)
    shares = carried(page(client, "beef-hindquarter", **QUARTER))
    assert shares["Tri-tip"] == D("0.02")
    assert shares["Flap"] == D("0.02")


def test_a_way_that_comes_back_to_itself_is_told(client, shop):
    PlanOutput.objects.filter(plan__piece__key="beef-tri-tip", role="main").update(
        goes_on="beef-hindquarter/by-seams"
    )
    answer = page(client, "beef-hindquarter", **QUARTER)
    assert answer.status_code == 422
    assert "comes back to itself" in words_of(answer)


def test_a_piece_with_one_way_has_no_page(client, shop):
    assert page(client, "beef-flank").status_code == 404


@pytest.mark.parametrize(
    ("one", "other"),
    [
        (["10.1", "11.2", "9.8", "10.4"], ["12.9", "12.1", "13.4"]),
        (["1", "2"], ["1.5", "1.6", "9"]),
    ],
)
def test_welchs_t_is_scipys(one, other):
    """Reference library: scipy.stats.ttest_ind with unequal variances."""
    t, degrees = welch([D(v) for v in one], [D(v) for v in other])
    found = stats.ttest_ind([float(v) for v in one], [float(v) for v in other], equal_var=False)
    assert float(t) == pytest.approx(abs(found.statistic), rel=1e-9)
    assert degrees == max(int(found.df), 1)


# --- against boxes ---


BOXED = QUARTER | {"boxes": "1"}


def boxed(answer):
    (found,) = answer.context["boxes"]
    return found


PRICES = {
    "box-beef-short-loin": "6.10",
    "box-beef-top-sirloin": "5.40",
    "box-beef-tri-tip": "5.20",
    "box-beef-flap": "6.80",
    "box-beef-flank": "6.50",
    "box-beef-knuckle": "3.90",
    "box-beef-top-round": "3.60",
    "box-beef-bottom-round": "3.50",
    "box-beef-eye-round": "3.80",
}


def test_a_quarter_is_set_against_boxes_as_worked_by_hand(
    client, shop, django_assert_max_num_queries
):
    """160 lb at 3.10 with 16.00 of freight; boxes at the prices above with 0.12 of freight a pound; what else it
    gives at today's prices."""
    plain = page(client, "beef-hindquarter", **QUARTER)
    assert plain.context["boxes"] == []
    assert "boxes=1#boxes" in plain.content.decode()
    asked = BOXED | PRICES | {"freight": "16", "box_freight": "0.12"}
    page(client, "beef-hindquarter", **asked)
    with django_assert_max_num_queries(45):
        answer = page(client, "beef-hindquarter", **asked)
    rows = {words: [D(one.replace(",", "")) for one in both] for words, *both in boxed(answer).rows}
    shares = {
        f"box-{row.goes_on.partition('/')[0]}": row.share
        for row in PlanOutput.objects.filter(plan__piece__key="beef-hindquarter").exclude(
            goes_on=""
        )
    }
    assert set(shares) == set(PRICES)
    meat = sum(160 * share * D(PRICES[key]) for key, share in shares.items())
    pounds = sum(160 * share for share in shares.values())
    assert rows["meat"] == [D("496.00"), round(meat, 2)]
    assert rows["freight"] == [D(16), round(pounds * D("0.12"), 2)]
    loin = next(one for one in boxed(answer).lines if one.name == "Short loin")
    assert (loin.weight, loin.price, loin.costs) == ("24.00 lb", "6.10", "146.40")
    own, boxes = rows["the same pieces cost"]
    parts = [rows[words] for words in ("meat", "freight", "labor to break it")]
    assert own == sum(one for one, _ in parts) - rows["less what else it gives"][0]
    assert boxes == sum(other for _, other in parts)
    less = "less" if own < boxes else "more"
    assert f"costs {abs(own - boxes)} {less} than boxes" in boxed(answer).words


def test_a_box_without_a_price_is_asked_for_and_one_that_came_has_its_invoice(client, fill):
    fill(("beef-knuckle", 3, "10.00"), price="4.15")
    answer = page(client, "beef-hindquarter", **BOXED)
    assert "Knuckle" not in boxed(answer).missing
    assert "Short loin" in boxed(answer).missing
    words = words_of(answer)
    assert "Type what they cost below" in words
    line = next(one for one in boxed(answer).lines if one.key == "beef-knuckle")
    assert line.price == "4.15"
    assert 'placeholder="4.15, invoice"' in answer.content.decode()


def test_a_wrong_box_price_is_told_by_its_field_and_kept(client, shop):
    answer = page(client, "beef-hindquarter", **BOXED, **{"box-beef-flap": "-6.80"})
    assert answer.status_code == 422
    assert "more than 0" in words_of(answer)
    assert 'value="-6.80"' in answer.content.decode()


def test_a_piece_that_was_never_bought_begins_with_an_empty_price(client, shop):
    answer = client.get(reverse("planner:ways", args=["beef-hindquarter"]))
    assert answer.status_code == 200
    assert answer.context["view"] is None
    assert "this field is required" not in words_of(answer).lower()
