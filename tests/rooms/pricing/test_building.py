"""The price builder on the page: pooled yields, solving and holding, value added, dragging."""

from datetime import timedelta
from decimal import Decimal
from uuid import uuid4

import pytest
from django.urls import reverse
from django.utils import timezone

from formats.reading import read_document
from rooms.bench.actions.correct import Correcting, correct
from rooms.bench.actions.finishing import approve
from rooms.bench.models import CuttingTest
from rooms.bench.queries.rows import load
from rooms.common.errors import Refused
from rooms.pricebook.actions.prices import Origin, carried, newest_price, set_prices
from rooms.pricebook.models import Adder, Basis, Family, NeighbourPrice, Price, Product, Version
from rooms.pricing.actions.save import Saving, save_prices
from rooms.pricing.queries.building import price_view
from rooms.pricing.queries.grounds import shaken, with_grounds
from rooms.pricing.queries.wishes import Wish, wish_from
from rooms.shop.queries.current import house
from tests.conftest import address, words_of
from wording.pencil import percent

pytestmark = pytest.mark.django_db
D = Decimal


@pytest.fixture
def three(weighed, shop):
    """Three tests of one plan: two approved, the last as it was finished; one out of balance."""
    piles = (
        ("3.45", "0.80", "0.93", "0.68", "0.22", "0.06"),
        ("3.10", "0.95", "1.10", "0.70", "0.25"),
        ("9.00",),
        ("3.30", "0.90", "1.00", "0.70", "0.20"),
    )
    found = [weighed(piles=each) for each in piles]
    for rows in found[:3]:
        approve(rows.test.pk, "looked at", shop["bram"].pk)
    return found[-1]


def form_of(view, **more):
    """What the page sends back."""
    data = {"stepped": "1", "asked": view.wish.signature, "held": "1" if view.wish.holds else ""}
    for row in view.table:
        data |= {f"shown-{row.id}": f"{row.price:f}", f"price-{row.id}": f"{row.price:f}"}
    return data | more


def test_prices_rest_on_all_balanced_tests_of_the_plan_and_say_so(three):
    view = price_view(three, Wish())
    assert [number for _, number in view.resting.tests] == [4, 2, 1]  # 3 does not balance
    assert "rest on 3 tests" in view.resting.words
    assert "95 % of the mean" in view.resting.words
    by_hand = (D("3.45") + D("3.10") + D("3.30")) / (D("6.17") * 3)
    assert abs(view.basis.outputs[0].weighings[0].weight.value / D("6.17") - by_hand) < D("1e-20")
    assert view.table[0].share.count("%") == 3
    alone = price_view(three, Wish(basis="alone"))
    assert alone.resting.words.startswith("These prices rest on a single test")
    assert "2 more could be pooled" in alone.resting.words or "3 more" in alone.resting.words


def test_a_lone_test_says_that_it_is_one(weighed, client):
    rows = weighed()
    page = client.get(address("set_from_test", rows, "pricing")).content.decode()
    assert "rest on a single test: its yields may be chance" in page


def test_one_target_for_the_piece_is_met_before_the_endings(three):
    view = price_view(three, Wish(target="45"))
    assert abs(view.built.before_endings.margin - D("0.45")) < D("1e-20")
    of_cost = price_view(three, Wish(target="100", by="markup"))
    assert abs(of_cost.built.before_endings.margin - D("0.5")) < D("1e-20")
    by_cost = price_view(three, Wish(ladder="cost", school="flat"))
    assert len({row.priced.exact for row in by_cost.table}) == 1


def test_a_moved_price_holds_the_others_until_asked_to_solve(three):
    view = price_view(three, Wish())
    filet, tips, _ = view.table
    moved = form_of(view, **{f"price-{filet.id}": "34.99"})
    held = price_view(three, wish_from(moved))
    assert (held.table[0].price, held.table[0].is_locked) == (D("34.99"), True)
    assert held.table[1].price == tips.price
    assert held.wish.holds
    again = form_of(held, **{f"lock-{filet.id}": "on"})
    assert price_view(three, wish_from(again)).table[1].price == tips.price
    solved = price_view(three, wish_from(again | {"solve": "1"}))
    assert solved.table[0].price == D("34.99")
    assert solved.table[1].price < tips.price
    other_target = price_view(three, wish_from(again | {"target": "30"}))
    assert other_target.table[1].price < tips.price  # a new target solves anew


def test_value_added_changes_price_margin_and_labour(three):
    tips = Product.objects.get(cut__key="beef-filet-tips")
    cube = Adder.objects.create(name="Cube", price=D("0.25"), minutes=D("2"), caution="Guard on.")
    tips.adders.add(cube)
    view = price_view(three, Wish(way="each", target="40"))
    row = next(row for row in view.table if row.product == tips)
    assert (row.priced.line.adder, row.priced.line.added) == (D("0.25"), D("0.8"))
    assert view.plain.gp != view.whole.gp
    off = price_view(three, wish_from(form_of(view, way="each", target="40")))
    assert off.table[1].priced.line.adder == 0
    assert off.plain is None
    assert price_view(three, Wish(adders={row.id: frozenset({cube.pk})})).table[1].adders


def test_a_target_for_the_piece_leaves_the_other_prices_when_a_step_is_added(three, client):
    """0.25 a lb less half a minute at the shop's wage: told for the cut and for the piece."""
    before = price_view(three, Wish(target="40"))
    filet, tips, _ = before.table
    tender = Adder.objects.create(
        name="Tenderize", price=D("0.25"), minutes=D("0.5"), makes="tenderized"
    )
    chosen = {row.id: frozenset() for row in before.table} | {tips.id: frozenset({tender.pk})}
    after = price_view(three, Wish(target="40", adders=chosen))
    assert after.table[0].price == filet.price
    assert after.built.factor == before.built.factor
    (gain,) = after.gains
    wage = three.test.labour_rate or house().labour_rate
    pounds = after.table[1].weight
    by_hand = (after.table[1].price - (after.table[1].price - D("0.25"))) * pounds
    assert (gain.name, gain.steps) == ("Tips", "tenderize")
    assert abs(gain.gain - (by_hand - pounds * D("0.5") * wage / 60)) < D("1e-9")
    page = client.get(address("set_from_test", three, "pricing"), form_of(before, stepped="1"))
    assert page.status_code == 200


def test_a_price_saved_with_a_step_makes_the_step_the_products_own(three, shop):
    tips = Product.objects.get(cut__key="beef-filet-tips")
    tender = Adder.objects.create(name="Tenderize", price=D("0.25"), makes="tenderized")
    view = price_view(three, Wish())
    row = next(row for row in view.table if row.product == tips)
    chosen = {one.id: frozenset() for one in view.table} | {row.id: frozenset({tender.pk})}
    with_it = price_view(three, Wish(adders=chosen))
    wish = wish_from(form_of(with_it, **{f"adder-{row.id}-{tender.pk}": "on"}))
    for _ in range(2):
        save_prices(three, wish, Saving(shop["bram"].pk))
    assert list(tips.adders.all()) == [tender]
    assert Product.objects.get(pk=tips.pk).is_tenderized
    without = price_view(three, Wish(adders=dict.fromkeys(chosen, frozenset())))
    save_prices(three, wish_from(form_of(without)), Saving(shop["bram"].pk))
    assert list(tips.adders.all()) == [tender]  # a price takes no statement of safety away


def test_a_sticker_past_the_familys_comfort_and_a_neighbour_are_shown(three, client):
    filet = Product.objects.get(cut__key="beef-centre-filet")
    filet.family, filet.portions = Family.objects.create(name="Steaks", comfort=D("10")), 3
    filet.save()
    NeighbourPrice.objects.create(
        product=filet, place="North end", amount=D("28.99"), seen_on=timezone.localdate()
    )
    page = words_of(client.get(address("set_from_test", three, "pricing")))
    assert "a shopper is at ease with" in page
    assert "North end asks 28.99 a lb" in page


def test_a_drag_looks_up_what_the_server_would_say(three, client):
    """One source of truth: every stop is what the page shows when that price is typed."""
    Product.objects.filter(cut__key="beef-centre-filet").update(shows_both=True)
    view = price_view(three, Wish())
    filet = view.table[0]
    data = form_of(view)
    answer = client.get(address("drag", three, "pricing"), data | {"row": filet.id}).json()
    stops = answer["stops"]
    assert stops[answer["at"]]["price"] == f"{filet.price:f}"
    assert len(stops) == 61
    for stop in stops[::12]:
        typed = wish_from(data | {f"price-{filet.id}": stop["price"]})
        page = client.get(
            address("proposal", three, "pricing"), data | {f"price-{filet.id}": stop["price"]}
        ).content.decode()
        told = price_view(three, typed)
        assert stop["whole"] == percent(told.whole.margin)
        for figure in (stop["gp"], stop["sales"], stop["sticker"], stop["margin"], stop["other"]):
            assert figure in page
    assert client.get(address("drag", three, "pricing"), {"row": "0"}).status_code == 404
    assert client.get(address("drag", three, "pricing"), {"row": "x"}).status_code == 404


def test_few_queries_to_build_and_to_drag(three, client, django_assert_max_num_queries):
    url = address("set_from_test", three, "pricing")
    with django_assert_max_num_queries(15):
        client.get(url)
    row = price_view(three, Wish()).table[0].id
    with django_assert_max_num_queries(15):
        client.get(address("drag", three, "pricing"), {"row": row})


@pytest.mark.parametrize(
    ("field", "value", "says"),
    [
        ("target", "x", "plain decimal"),
        ("rung", "0", "Rung: 0 is not a price"),
        ("price", "7.999", "parts of a cent"),
    ],
)
def test_a_wrong_wish_is_told_at_its_row(three, client, field, value, says):
    pk = price_view(three, Wish()).table[0].id
    answer = client.get(
        address("proposal", three, "pricing"), {f"{field}-{pk}": value, f"lock-{pk}": "on"}
    )
    assert answer.status_code == 422
    assert says in answer.content.decode()


def test_saving_keeps_basis_day_why_and_makes_one_version(three, client, shop):
    day = timezone.localdate() + timedelta(days=4)
    view = price_view(three, Wish())
    data = form_of(view, **{"from": day, "why": "new plan"})
    assert client.post(address("set_from_test", three, "pricing"), data).status_code == 302
    version = Version.objects.latest("number")
    assert (version.kind, version.why, version.effective_on, version.made_by) == (
        "test",
        "new plan",
        day,
        shop["bram"],
    )
    price = version.prices.first()
    assert [number for _, number in price.basis.tests] == [4, 2, 1]
    kept = read_document(price.basis.document).test
    assert [o.name for o in kept.outputs] == [o.name for o in view.basis.outputs]
    assert price.paid.amount == D("7.49")
    page = words_of(client.get(reverse("pricebook:version", args=[version.number])))
    assert "Rests on 3 tests" in page
    count = Basis.objects.count()
    client.post(address("set_from_test", three, "pricing"), data)  # sent twice
    assert (Version.objects.latest("number"), Basis.objects.count()) == (version, count)


@pytest.mark.parametrize(("day", "says"), [("soon", "is no day"), ("2001-01-01", "today or a day")])
def test_a_day_that_cannot_be_saves_nothing_and_keeps_what_was_typed(three, client, day, says):
    count = Price.objects.count()
    data = form_of(price_view(three, Wish()), **{"from": day, "why": "keep me"})
    answer = client.post(address("set_from_test", three, "pricing"), data)
    assert answer.status_code == 422
    assert says in answer.content.decode()
    assert 'value="keep me"' in answer.content.decode()
    assert Price.objects.count() == count


def test_the_sheet_gets_the_prices_of_its_own_piles_only(three):
    other = three.test
    view = price_view(three, Wish())
    save_prices(three, Wish(shown=view.shown), Saving(None))
    assert Price.objects.filter(from_test=other.pk).count() == len(view.table)


def test_a_test_that_does_not_balance_is_left_out_of_its_own_prices(three, weighed, shop):
    off = weighed(piles=("9.00",))
    view = price_view(off, Wish())
    assert view.resting.words.startswith("This test does not come back to its weight: left out.")
    assert [number for _, number in view.resting.tests] == [2, 1]
    assert view.table[0].weight < D("4")


def test_a_price_under_its_floor_is_raised_and_a_locked_one_is_told(three):
    Product.objects.filter(cut__key="beef-filet-tips").update(floor_margin=D("0.60"))
    view = price_view(three, Wish("flat", target="20"))
    tips = view.table[1]
    assert tips.priced.margin >= D("0.60")
    assert "under the floor of 60.0 %" in tips.priced.why
    low = Wish("flat", locked=frozenset({tips.id}), prices={tips.id: "9.99"})
    assert "is under the floor" in price_view(three, low).table[1].priced.why


def test_a_price_decided_by_hand_is_the_last_price_even_when_it_rests_on_this_test(three):
    """Only what was built from the test itself is left out, so that nothing feeds back."""
    view = price_view(three, Wish())
    save_prices(three, Wish(shown=view.shown), Saving(None))
    filet = view.table[0]
    assert price_view(three, Wish()).table[0].last == filet.last
    old = Price.objects.current().get(product=filet.product)
    set_prices([carried(old, filet.product, D("33.49"))], Origin(None))
    assert price_view(three, Wish()).table[0].last == D("33.49")


def test_what_is_no_choice_falls_back_to_the_shops(three):
    view = price_view(
        three,
        wish_from(
            {"school": "x", "way": "x", "by": "x", "ladder": "x", "adder-1-x": "on", "price-x": "3"}
        ),
    )
    assert (view.school.value, view.wish.chosen_way) == ("sales_value", "piece")
    assert view.whole is not None


def test_prices_saved_from_an_older_page_do_not_replace_a_colleagues(three):
    older = price_view(three, Wish())
    knew = newest_price()
    row = next(one for one in older.table if one.product)
    save_prices(three, Wish(prices={row.id: "30.99"}, shown=older.shown), Saving(None, seen=knew))
    with pytest.raises(Refused, match=r"30\.99 from"):
        save_prices(three, Wish(shown=older.shown), Saving(None, seen=knew))
    assert Price.objects.current(products=[row.product.pk]).get().amount == D("30.99")
    save_prices(three, Wish(shown=older.shown), Saving(None, seen=newest_price()))
    assert Price.objects.current(products=[row.product.pk]).get().amount == row.price


def test_a_price_to_come_that_rests_on_a_corrected_test_is_renewed_for_its_day(three):
    day = timezone.localdate() + timedelta(days=7)
    view = price_view(three, Wish())
    save_prices(three, Wish(shown=view.shown), Saving(None, day))
    one = {three.standing[-1].pk: "0.19"}
    correct(
        three.test.pk,
        Correcting(str(uuid4()), "a slip of the hand", one, {}, {}, seen=str(three.revision)),
        None,
    )
    coming = list(with_grounds(Price.objects.current(day).exclude(basis=None)))
    assert shaken(coming)
    rows = load(three.test.pk)
    view = price_view(rows, Wish())
    save_prices(rows, Wish(shown=view.shown), Saving(None, day))
    assert not shaken(list(with_grounds(Price.objects.current(day).exclude(basis=None))))


def test_the_prices_of_a_piece_cut_by_two_plans_of_long_names_are_saved(weighed):
    rows = weighed()
    name = f"{'Center filets of 7 oz, tips' * 4}; the rest: {'side muscle to grind' * 5}"[:220]
    CuttingTest.objects.filter(pk=rows.test.pk).update(plan_name=name)
    rows = load(rows.test.pk)
    view = price_view(rows, Wish("flat"))
    save_prices(rows, Wish("flat", shown=view.shown), Saving(None))
    assert Basis.objects.get().plan_name == name


def test_what_is_copied_into_a_basis_fits_it():
    field = CuttingTest._meta.get_field("plan_name")
    assert Basis._meta.get_field("plan_name").max_length >= field.max_length


def test_new_proposals_do_not_make_the_page_know_what_a_colleague_saved(three, client):
    """What the page knew stands outside the part that comes anew while somebody types."""
    seen = 'name="seen"'
    assert seen in words_of(client.get(address("set_from_test", three, "pricing")))
    assert seen not in words_of(client.get(address("proposal", three, "pricing")))
