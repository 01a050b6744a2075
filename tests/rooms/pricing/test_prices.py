"""From cost to price: proposals, locks, faults, saving, and what a save does not do."""

from decimal import Decimal

import pytest
from django.urls import reverse

from cutting.costing.schools import CostingSchool
from rooms.bench.actions.piles import add_pile
from rooms.bench.actions.weighings import take_weight
from rooms.bench.models import Output
from rooms.bench.queries.own_prices import with_own_prices
from rooms.bench.queries.rows import load
from rooms.common.errors import BadInput, Refused
from rooms.pricebook.models import Price, Product
from rooms.pricing.actions.save import Saving, save_prices
from rooms.pricing.queries.building import price_view
from rooms.pricing.queries.listing import current_prices
from rooms.pricing.queries.wishes import Wish
from tests.conftest import address, capture, finish, words_of

pytestmark = pytest.mark.django_db
D = Decimal


def test_each_school_gives_costs_and_the_target_gives_prices(weighed):
    rows = weighed()
    for school in CostingSchool:
        view = price_view(rows, Wish(school=school.value, target="40"))
        assert view.school is school
        assert [row.name for row in view.table] == ["Center filet", "Tips", "Lean trim"]
        for row in view.table:
            assert row.cost is not None
            assert row.proposal.margin >= D("0.25")  # the floor of the demo shop
    flat = price_view(rows, Wish(school="flat")).table
    assert {row.cost for row in flat} == {flat[0].cost}


def test_a_products_own_target_comes_before_the_pages_and_a_rows_before_both(weighed):
    rows = weighed()
    first = price_view(rows, Wish(school="flat", target="30", way="each")).table
    assert round(first[0].cost / first[0].proposal.exact, 10) == D("0.6")  # filet: 40 %
    assert round(first[1].cost / first[1].proposal.exact, 10) == D("0.7")  # tips: the page's 30 %
    typed = {first[0].id: "50 %"}
    own = price_view(rows, Wish("flat", "30", typed, way="each")).table
    assert round(own[0].cost / own[0].proposal.exact, 10) == D("0.5")


def test_a_locked_price_stays_and_the_whole_piece_follows(weighed):
    rows = weighed()
    view = price_view(rows, Wish(target="40", way="each"))
    filet = view.table[0]
    wish = Wish(target="40", way="each", locked=frozenset({filet.id}), prices={filet.id: "35.00"})
    locked = price_view(rows, wish)
    assert locked.table[0].price == D("35.00")
    assert locked.table[1].price == view.table[1].price
    weight = locked.table[0].weight
    assert locked.whole.retail - view.whole.retail == (D("35.00") - filet.price) * weight
    assert (
        "is under the floor"
        in price_view(rows, Wish(locked=frozenset({filet.id}), prices={filet.id: "5.00"}))
        .table[0]
        .proposal.why
    )


def test_a_price_typed_over_the_shown_one_locks_itself(weighed):
    rows = weighed()
    filet = price_view(rows, Wish()).table[0]
    typed = Wish(prices={filet.id: "31.49"}, shown={filet.id: f"{filet.price:f}"})
    assert price_view(rows, typed).table[0].is_locked
    same = Wish(prices={filet.id: f"{filet.price:f}"}, shown={filet.id: f"{filet.price:f}"})
    assert not price_view(rows, same).table[0].is_locked


def test_the_sticker_is_of_a_typical_tray(weighed):
    row = price_view(weighed(), Wish()).table[0]
    assert row.tray == D("0.90")
    assert row.sticker == round(row.price * D("0.90"), 2)


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("0", "Price: 0 is not a price; more than 0"),
        ("-1", "more than 0"),
        ("abc", "plain decimal"),
        ("99999", "at most 10000"),
        ("7.499", "parts of a cent"),
    ],
)
def test_a_wrong_price_is_told_at_its_row_and_nothing_is_saved(weighed, client, typed, says):
    rows = weighed()
    filet = price_view(rows, Wish()).table[0]
    data = {f"lock-{filet.id}": "on", f"price-{filet.id}": typed}
    before = Price.objects.count()
    fragment = client.get(address("proposal", rows, "pricing"), data)
    page = client.post(address("set_from_test", rows, "pricing"), data)
    assert fragment.status_code == page.status_code == 422
    for answer in (fragment, page):
        text = answer.content.decode()
        assert says in text
        assert f'value="{typed}"' in text
    assert Price.objects.count() == before


@pytest.mark.parametrize("target", ["100", "-5", "lots", "96"])
def test_a_target_that_cannot_be_is_told(weighed, client, target):
    rows = weighed()
    answer = client.get(address("proposal", rows, "pricing"), {"target": target})
    assert answer.status_code == 422
    assert "Target: " in answer.content.decode()


def test_saving_makes_dated_prices_with_their_test_and_the_sheet_shows_them(weighed, client, shop):
    rows = weighed()
    view = price_view(rows, Wish(target="45"))
    data = {"target": "45"} | {f"shown-{pk}": price for pk, price in view.shown.items()}
    client.post("/who/", {"person": shop["bram"].pk})
    before = Price.objects.count()
    answer = client.post(address("set_from_test", rows, "pricing"), data)
    assert answer.url.startswith(address("sheet", rows))
    made = Price.objects.filter(from_test=rows.test.pk)
    assert Price.objects.count() == before + 3
    assert {p.amount for p in made} == {row.price for row in view.table}
    assert all(
        (p.made_by, p.school, p.from_test_number) == (shop["bram"], "sales_value", 1) for p in made
    )
    listed = words_of(client.get(reverse("pricing:prices")))
    assert "test 1" in listed
    client.post(address("set_from_test", rows, "pricing"), data)
    assert Price.objects.count() == before + 3  # a repeat changes nothing


def test_setting_prices_does_not_feed_back_into_the_tests_own_costs(weighed):
    """Sales-value shares come from the last prices and are never iterated."""
    rows = weighed()
    filet = price_view(rows, Wish()).table[0]
    wish = Wish(locked=frozenset({filet.id}), prices={filet.id: "49.99"})
    first = price_view(rows, wish)
    save_prices(rows, Wish(locked=wish.locked, prices=wish.prices, shown=first.shown), Saving(None))
    again = price_view(rows, Wish())
    assert [row.cost for row in again.table] == [row.cost for row in first.table]


def test_saving_what_was_not_shown_is_refused(weighed):
    rows = weighed()
    view = price_view(rows, Wish())
    stale = {**view.shown, view.table[1].id: "1.00"}
    with pytest.raises(Refused, match="Tips changed since this page was shown"):
        save_prices(rows, Wish(shown=stale), Saving(None))
    with pytest.raises(BadInput, match="correct the values"):
        save_prices(rows, Wish(target="x", shown=view.shown), Saving(None))


def test_a_pile_that_is_no_product_keeps_its_price_on_the_sheet(opened, shop):
    rows = add_pile(opened().test.pk, "Ends", "secondary")
    for output, value in ((rows.outputs[0], "5.00"), (rows.outputs[-1], "1.10")):
        rows = take_weight(rows.test.pk, capture(output, value), None)
    finish(rows.test.pk, str(rows.revision))
    rows = load(rows.test.pk)
    assert "Ends" in price_view(rows, Wish(school="sales_value")).missing
    view = price_view(rows, Wish(school="flat"))
    before = Price.objects.count()
    save_prices(rows, Wish(school="flat", shown=view.shown), Saving(None))
    assert Price.objects.count() == before + 1
    assert load(rows.test.pk).outputs[-1].retail == view.table[-1].price


def test_even_a_price_nobody_set_before_never_feeds_back(opened, shop):
    """No last price anywhere: the first price this test set stays what the shares rest on."""
    rows = add_pile(opened().test.pk, "Ends", "secondary")
    Price.objects.all().delete()
    Output.objects.update(retail=None)
    for output, value in ((rows.outputs[0], "5.00"), (rows.outputs[-1], "1.10")):
        rows = take_weight(rows.test.pk, capture(output, value), None)
    finish(rows.test.pk, str(rows.revision))
    rows = load(rows.test.pk)
    save_prices(rows, Wish("flat", shown=price_view(rows, Wish("flat")).shown), Saving(None))
    first = price_view(load(rows.test.pk), Wish("sales_value"))
    ends = first.table[-1].id
    wish = Wish("sales_value", locked=frozenset({ends}), prices={ends: "1.99"})
    rows = load(rows.test.pk)
    shown = price_view(rows, wish).shown
    save_prices(rows, Wish(wish.school, "", {}, wish.locked, wish.prices, shown), Saving(None))
    again = price_view(load(rows.test.pk), Wish("sales_value"))
    assert [row.cost for row in again.table] == [row.cost for row in first.table]


def test_a_product_that_changed_its_unit_keeps_the_sheets_unit(weighed):
    rows = weighed()
    Product.objects.filter(cut=rows.outputs[0].cut).update(per="kg")
    view = price_view(rows, Wish(school="flat"))
    save_prices(rows, Wish(school="flat", shown=view.shown), Saving(None))
    (shown,) = with_own_prices([load(rows.test.pk)])
    kept = shown.outputs[0]
    assert (kept.price_per, kept.credit) == ("lb", D("19.00"))
    assert kept.retail == round(view.table[0].price * D("0.45359237"), 4)


def test_an_open_test_has_no_prices_yet(opened, client):
    rows = opened()
    assert client.get(address("set_from_test", rows, "pricing")).url == address("test", rows)
    with pytest.raises(Refused, match="still open"):
        save_prices(rows, Wish(), Saving(None))


def test_a_test_that_sells_nothing_says_so(weighed, client):
    rows = weighed(piles=("0", "0", "0", "0", "6.10"))
    page = client.get(address("set_from_test", rows, "pricing")).content.decode()
    assert "Nothing of this test goes to the case" in page
    with pytest.raises(BadInput, match="no price to save"):
        save_prices(rows, Wish(), Saving(None))


def test_a_school_without_its_inputs_names_them(weighed):
    rows = weighed()
    Price.objects.all().delete()
    for output in rows.outputs:
        output.retail = None
    view = price_view(rows, Wish(school="sales_value"))
    assert "it needs a last price for every cut" in view.missing
    assert not view.can_be_saved


def test_the_list_shows_the_current_price_and_the_one_before(weighed):
    rows = weighed()
    filet = price_view(rows, Wish()).table[0]
    wish = Wish(locked=frozenset({filet.id}), prices={filet.id: "33.99"})
    save_prices(
        rows,
        Wish(locked=wish.locked, prices=wish.prices, shown=price_view(rows, wish).shown),
        Saving(None),
    )
    line = next(c for c in current_prices() if c.product == filet.product)
    assert (line.now.amount, line.before.amount) == (D("33.99"), D("29.99"))
    assert line.now.cost == round(filet.cost, 4)
    assert abs(line.margin - (1 - line.now.cost / D("33.99"))) < D("1e-20")
