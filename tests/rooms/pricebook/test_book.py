"""The price book: versions, days to come, taking back, comparing, the shelf, files."""

import csv
import io
from datetime import timedelta
from decimal import Decimal

import openpyxl
import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.errors import BadValue
from rooms.common.errors import BadInput, Refused
from rooms.common.tables.files import csv_text
from rooms.pricebook.actions.prices import NewPrice, Origin, newest_price, set_prices
from rooms.pricebook.actions.undo import undo
from rooms.pricebook.models import Price, Product, Version
from rooms.pricebook.queries.book import compare, prices_on, reprint, shelf_list
from rooms.pricebook.queries.own_list import price_pattern
from rooms.shop.queries.money import bare_amount
from tests.conftest import words_of
from tests.cutting.build import price

pytestmark = pytest.mark.django_db
D = Decimal


@pytest.fixture
def flat_iron(shop):
    return Product.objects.get(cut__key="beef-flat-iron")


@pytest.fixture
def stew(shop):
    return Product.objects.get(cut__key="beef-stew")


def today():
    return timezone.localdate()


def put(product, amount, days=0, **more):
    origin = Origin(None, effective_on=today() + timedelta(days=days), **more)
    return set_prices([NewPrice(product, D(amount))], origin)


def holds(product, days=0):
    return prices_on(today() + timedelta(days=days))[product.pk].amount


def test_a_price_for_a_day_to_come_holds_from_that_day(flat_iron):
    put(flat_iron, "12.99", 5, why="grilling season")
    assert (holds(flat_iron), holds(flat_iron, 4), holds(flat_iron, 5)) == (
        D("11.99"),
        D("11.99"),
        D("12.99"),
    )
    put(flat_iron, "11.49")  # a price of today does not push out the one to come
    assert (holds(flat_iron), holds(flat_iron, 5)) == (D("11.49"), D("12.99"))


def test_nothing_new_makes_no_version(flat_iron):
    before = Version.objects.count()
    assert put(flat_iron, "11.99") is None
    assert Version.objects.count() == before


@pytest.mark.parametrize(
    ("amount", "days", "says"),
    [
        ("0", 0, "0 is not a price"),
        ("10001", 0, "at most 10000"),
        ("5", -1, "today or a day"),
        ("5", 400, "within a year"),
    ],
)
def test_what_cannot_be_a_price_is_refused(flat_iron, amount, days, says):
    with pytest.raises(BadInput, match=says):
        put(flat_iron, amount, days)


def test_a_version_taken_back_is_a_new_version_and_both_stay(client, flat_iron, stew, shop):
    origin = Origin(shop["bram"].pk, why="too low", school="flat")
    new = [NewPrice(flat_iron, D("13.99")), NewPrice(stew, D("8.49"), D("4.20"))]
    version = set_prices(new, origin)
    page = client.post(reverse("pricebook:undo", args=[version.number]))
    back = Version.objects.latest("number")
    assert page.url == reverse("pricebook:version", args=[back.number])
    assert (back.kind, back.undoes) == ("undo", version)
    assert (holds(flat_iron), holds(stew)) == (D("11.99"), D("7.99"))
    text = client.get(reverse("pricebook:version", args=[version.number])).content.decode()
    assert f"Taken back by <a" in text  # noqa: F541
    assert "13.99" in text
    count = Price.objects.count()
    client.post(reverse("pricebook:undo", args=[version.number]))  # once more: no change
    assert Price.objects.count() == count


def test_what_changed_since_is_left_alone_and_named(client, flat_iron, stew):
    version = set_prices([NewPrice(flat_iron, D("13.99")), NewPrice(stew, D("8.49"))], Origin(None))
    put(flat_iron, "12.49")
    page = client.post(reverse("pricebook:undo", args=[version.number])).content.decode()
    assert "Flat iron steak: changed since by version" in page
    assert (holds(flat_iron), holds(stew)) == (D("12.49"), D("7.99"))
    only = put(flat_iron, "12.99")
    put(flat_iron, "13.49")
    with pytest.raises(Refused, match="nothing can be taken back"):
        undo(only, None)
    refused = client.post(reverse("pricebook:undo", args=[only.number]))
    assert refused.status_code == 409


def test_a_price_to_come_is_taken_back_for_its_own_day(flat_iron):
    version = put(flat_iron, "14.99", 7)
    done = undo(version, None)
    assert done.version.effective_on == version.effective_on
    assert (holds(flat_iron), holds(flat_iron, 7)) == (D("11.99"), D("11.99"))


def test_a_product_without_a_price_before_keeps_the_one_it_got(shop):
    fat = Product.objects.get(cut__key="beef-hard-fat")
    version = put(fat, "0.49")
    with pytest.raises(Refused, match="it had no price before"):
        undo(version, None)


def test_two_days_beside_each_other_are_the_tags_to_print_again(client, flat_iron, stew):
    put(flat_iron, "12.99", 3)
    put(stew, "8.49", 9)
    tags = compare(today(), today() + timedelta(days=5))
    assert [(t.product, t.before.amount, t.amount, t.change) for t in tags] == [
        (flat_iron, D("11.99"), D("12.99"), D("1.00"))
    ]
    address = reverse("pricebook:compare")
    page = client.get(address, {"first": today(), "second": today() + timedelta(days=9)})
    assert "2 tags changed" in page.content.decode()
    turned = {"first": "2026-02-02", "second": "2026-02-01"}
    for wrong, says in (({"first": "soon"}, "“soon” is no day"), (turned, "before the first")):
        answer = client.get(address, wrong)
        assert answer.status_code == 422
        assert says in answer.content.decode()


def test_a_versions_tags_leave_out_what_did_not_change(flat_iron, stew):
    version = set_prices(
        [NewPrice(flat_iron, D("12.99")), NewPrice(stew, D("7.99"), school="flat", test=None)],
        Origin(None),
    )
    assert [tag.product for tag in reprint(version)] == [flat_iron]


def test_the_shelf_list_shows_both_units_where_the_tag_does(client, flat_iron):
    Product.objects.filter(pk=flat_iron.pk).update(shows_both=True)
    tag = next(tag for tag in shelf_list(today()) if tag.product == flat_iron)
    assert tag.other == (D("26.43"), "kg")  # 11.99 / 0.45359237
    page = words_of(client.get(reverse("pricebook:shelf")))
    assert "26.43 kg" in page
    assert client.get(reverse("pricebook:shelf"), {"on": "x"}).status_code == 422


def test_few_queries_for_every_page_of_the_book(client, shop, django_assert_max_num_queries):
    put(Product.objects.first(), "9.49")
    for name, args in (
        ("versions", []),
        ("version", [2]),
        ("compare", []),
        ("shelf", []),
        ("products", []),
        ("shared", []),
        ("product", [1]),
    ):
        with django_assert_max_num_queries(15):
            assert client.get(reverse(f"pricebook:{name}", args=args)).status_code == 200


# --- files -----------------------------------------------------------------------------------


def bring(client, text, **more):
    return client.post(reverse("pricebook:import"), {"text": text, **more})


def test_the_book_goes_out_changes_and_comes_back_as_it_was(client, flat_iron, stew):
    put(flat_iron, "12.49", why="one, two")
    out = client.get(reverse("pricebook:export", args=["csv"])).content.decode()
    before = {pk: price.amount for pk, price in prices_on(today()).items()}
    put(flat_iron, "99.99")
    put(stew, "1.49")
    rows = list(csv.DictReader(io.StringIO(out)))
    out = csv_text(("cut", "price"), [(row["cut"], row["price"]) for row in rows])
    answer = bring(client, out)  # without its versions it says what is to hold, whatever came since
    version = Version.objects.latest("number")
    assert answer.url == reverse("pricebook:version", args=[version.number])
    assert (version.kind, version.prices.count()) == ("file", 2)
    assert {pk: price.amount for pk, price in prices_on(today()).items()} == before
    count = Version.objects.count()
    assert "Nothing changes" in bring(client, out).content.decode()
    assert Version.objects.count() == count


def test_the_spreadsheet_has_history_and_comes_back_too(client, flat_iron):
    put(flat_iron, "12.49", why="=HYPERLINK()")
    raw = client.get(reverse("pricebook:export", args=["xlsx"])).getvalue()
    book = openpyxl.load_workbook(io.BytesIO(raw))
    assert book.sheetnames == ["prices", "history of a year"]
    newest = next(book["history of a year"].iter_rows(min_row=2, values_only=True))
    assert newest[1:4] == ("Flat iron steak", 12.49, "lb")
    assert newest[7] == "'=HYPERLINK()"
    lines = client.get(reverse("pricebook:export", args=["history"])).getvalue().decode()
    assert lines.splitlines()[1].startswith("beef-flat-iron,Flat iron steak,12.49,lb,")
    assert lines.count("\n") == Price.objects.count() + 1
    file = io.BytesIO(raw)
    file.name = "book.xlsx"
    assert "Nothing changes" in words_of(client.post(reverse("pricebook:import"), {"file": file}))


def test_this_mornings_file_does_not_set_back_a_price_of_noon(client, flat_iron, stew):
    """One row was edited in it; the row that was changed since is listed, the rest waits for one press."""
    put(flat_iron, "20.00")
    put(stew, "6.00")
    out = client.get(reverse("pricebook:export", args=["csv"])).content.decode()
    put(flat_iron, "23.00", why="noon")
    count = Version.objects.count()
    answer = bring(client, out.replace(",6.00,", ",6.50,"))
    assert answer.status_code == 409
    words = words_of(answer)
    assert "1 price was changed since this file was written" in words
    assert "Flat iron steak: 20.00 in the file, 23.00 by" in words
    assert Version.objects.count() == count
    assert answer.context["text"] == out.replace(",6.00,", ",6.50,")  # what was pasted stays
    assert bring(client, answer.context["older"].rest).status_code == 302
    assert (holds(flat_iron), holds(stew)) == (D("23.00"), D("6.50"))
    assert bring(client, "cut,price,version\nbeef-flat-iron,9.99,x\n").status_code == 422


@pytest.mark.parametrize(
    ("currency", "typed", "amount"),
    [
        ("CHF", "CHF 9.99", "9.99"),
        ("CHF", "9.99 Fr.", "9.99"),
        ("SEK", "kr 129.00", "129.00"),
        ("SEK", "129.00 kr", "129.00"),
        ("USD", "$9.99", "9.99"),
        ("USD", "US$ 9.99", "9.99"),
        ("EUR", "9.99 €", "9.99"),
        ("THB", "THB 9.99", "9.99"),
        ("THB", "9.99", "9.99"),
        ("USD", "abc", "abc"),
        ("CHF", "€ 9.99", None),
        ("USD", "9.99 GBP", None),
    ],
)
def test_an_amount_is_read_in_the_shops_currency_however_it_is_written(currency, typed, amount):
    if amount is None:
        with pytest.raises(BadValue, match=f"no amount in {currency}"):
            bare_amount(typed, "price", currency)
    else:
        assert bare_amount(typed, "price", currency) == amount
    said = price_pattern(currency).match(f"Flat iron {typed}/kg")
    if amount not in (None, "abc"):
        assert (said["name"], said["price"], said["per"]) == ("Flat iron", amount, "kg")


def test_a_price_of_the_other_unit_is_turned_into_the_products_own(client, flat_iron):
    bring(client, "name;price;per\nFlat iron steak;26.43;kg\n")
    assert holds(flat_iron) == D("11.99")
    bring(client, "name,price,per\nFlat iron steak,30,kg\n", **{"from": str(today())})
    assert holds(flat_iron) == D("13.61")


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "File: there is none"),
        ("a,b\n1,2\n", "a column cut or name"),
        ("cut,price\nmoon,3\n", "row 2, cut</b>: “moon” is no product"),
        ("name,price\nMoon,3\n", "row 2, name</b>: “Moon” is no product"),
        ("name,price\nRanch steak,3\n", "“Ranch steak” names several"),
        ("name,price\nStewing beef,x\n", "row 2, price</b>"),
        ("name,price\nStewing beef,0\n", "more than 0, at most"),
        ("name,price\nStewing beef,7.999\n", "parts of a cent"),
        ("name,price,per\nStewing beef,7.99,stone\n", "row 2, per</b>: “stone”"),
        ("name,price\nStewing beef,8\nStewing beef,9\n", "stands in row 2 already"),
        ("name,price\nStewing beef,\n", "no row has a price"),
        ('name,price\n"Stew,8\n', "it is no table"),
    ],
)
def test_one_fault_takes_no_price_in_and_is_told_by_row_and_column(client, stew, text, says):
    count = Price.objects.count()
    answer = bring(client, text)
    assert answer.status_code == 422
    assert says in answer.content.decode(), answer.content.decode()
    assert Price.objects.count() == count


def test_a_file_for_a_day_that_is_none_is_refused(client, stew):
    answer = bring(client, "name,price\nStewing beef,8\n", **{"from": "soon"})
    assert "“soon” is no day" in answer.content.decode()
    assert "name,price" in answer.content.decode()  # what was pasted is still there


def test_a_version_that_moved_only_the_invoice_is_taken_back_with_what_it_rested_on(
    client, flat_iron
):
    put(flat_iron, "9.99")
    moved = set_prices([NewPrice(flat_iron, D("9.99"), D("5.00"), price("7.49"))], Origin(None))
    answer = client.post(reverse("pricebook:undo", args=[moved.number]))
    assert answer.status_code == 302
    now = prices_on(today())[flat_iron.pk]
    assert (now.amount, now.cost, now.paid) == (D("9.99"), None, None)
    again = client.post(reverse("pricebook:undo", args=[moved.number]))
    assert again.status_code == 302
    assert Version.objects.filter(undoes=moved).count() == 1


@pytest.mark.parametrize("amount", ["9.999", "0", "10000.01"])
def test_every_way_into_the_book_refuses_what_no_tag_can_show(client, flat_iron, amount):
    before = Price.objects.count()
    by_hand = client.post(
        reverse("pricebook:price_by_hand", args=[flat_iron.pk]), {"amount": amount, "why": "x"}
    )
    by_file = client.post(
        reverse("pricebook:import"), {"text": f"cut,price\n{flat_iron.cut.key},{amount}"}
    )
    assert (by_hand.status_code, by_file.status_code) == (422, 422)
    with pytest.raises(BadInput):
        put(flat_iron, amount)
    assert Price.objects.count() == before


# --- what somebody else decided meanwhile ---


def test_a_price_to_come_that_is_taken_back_leaves_what_was_decided_since(flat_iron):
    later = put(flat_iron, "14.99", 30)
    put(flat_iron, "12.49")
    undo(later, None)
    assert (holds(flat_iron), holds(flat_iron, 30)) == (D("12.49"), D("12.49"))


def test_taking_back_twice_brings_it_again(flat_iron):
    put(flat_iron, "12.49")
    changed = put(flat_iron, "14.99")
    back = undo(changed, None).version
    assert holds(flat_iron) == D("12.49")
    undo(back, None)
    assert holds(flat_iron) == D("14.99")


def test_a_price_by_hand_from_an_older_page_is_told_and_one_more_press_sets_it(client, flat_iron):
    at = reverse("pricebook:price_by_hand", args=[flat_iron.pk])
    seen = newest_price()
    assert client.post(at, {"amount": "13.00", "seen": seen}).status_code == 302
    assert client.post(at, {"amount": "13.00", "seen": seen}).status_code == 302  # the same press
    late = client.post(at, {"amount": "10.50", "seen": seen})
    assert late.status_code == 409
    assert "13.00 from" in words_of(late)
    assert holds(flat_iron) == D("13.00")
    again = late.context["price_form"]["seen"].value()
    assert client.post(at, {"amount": "10.50", "seen": again}).status_code == 302
    assert holds(flat_iron) == D("10.50")


def test_a_first_price_is_taken_back_before_its_day_and_not_while_it_is_sold(shop):
    """A slip on a new product does not go onto the shelf; what is sold at its price keeps it."""
    fresh = Product.objects.filter(prices=None).first()
    day = today() + timedelta(days=7)
    slip = set_prices([NewPrice(fresh, D("1.99"))], Origin(None, effective_on=day))
    assert prices_on(day)[fresh.pk].amount == D("1.99")
    undone = undo(slip, None).version
    assert fresh.pk not in prices_on(day)
    assert not Price.objects.coming().filter(product=fresh).exists()
    assert undo(slip, None).version == undone
    right = set_prices([NewPrice(fresh, D("19.99"))], Origin(None, effective_on=day))
    assert prices_on(day)[fresh.pk].amount == D("19.99")
    undo(right, None)
    sold = set_prices([NewPrice(fresh, D("18.99"))], Origin(None))
    with pytest.raises(Refused, match="had no price before"):
        undo(sold, None)
    assert prices_on(today())[fresh.pk].amount == D("18.99")
