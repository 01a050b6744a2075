"""When the invoice moves: new costs, one list, accept all, some or none; a thousand products."""

import copy
import uuid
from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from rooms.catalog.models import Cut, Piece
from rooms.common.errors import BadInput, Refused
from rooms.cooler.queries.deliveries import delivery_prices
from rooms.pricebook.actions.prices import NewPrice, Origin, set_prices
from rooms.pricebook.actions.undo import undo
from rooms.pricebook.models import Basis, Price, Product, Version
from rooms.pricing.actions.review import (
    Accepting,
    Moving,
    accept,
    choose_method,
    start_review,
    tick_all,
)
from rooms.pricing.actions.save import Saving, save_prices
from rooms.pricing.models import Review, ReviewLine
from rooms.pricing.queries.building import price_view
from rooms.pricing.queries.reviewing import lines_of
from rooms.pricing.queries.wishes import Wish
from tests.cases import some_often
from tests.conftest import words_of
from tests.cutting.build import price

pytestmark = pytest.mark.django_db
D = Decimal


@pytest.fixture
def priced(weighed):
    """A tenderloin's prices by the credit school, so that credits stay when the invoice moves."""
    rows = weighed()
    view = price_view(rows, Wish("credit"))
    save_prices(rows, Wish("credit", shown=view.shown), Saving(None))
    return rows


def tenderloin():
    return Piece.objects.get(key="beef-tenderloin")


def review(amount="8.24", key=None):
    moving = Moving(str(key or uuid.uuid4()), "entered", {tenderloin().pk: price(amount)})
    return start_review(moving, None)


def test_every_product_of_the_piece_is_proposed_anew_and_nothing_changes(priced):
    count = Price.objects.count()
    found = review()
    lines = {line.product.cut.key: line for line in found.lines.all()}
    assert set(lines) == {"beef-centre-filet", "beef-filet-tips", "beef-ground"}
    filet = lines["beef-centre-filet"]
    assert filet.by_factor == round(filet.price.cost * D("8.24") / D("7.49"), 4)
    assert filet.in_full > filet.by_factor  # credits pay back no more than before
    full = (D("6.17") * D("8.24") - (D("46.2133") - filet.price.cost * D("3.45"))) / D("3.45")
    assert abs(filet.in_full - full) < D("0.001")
    assert filet.proposed >= filet.price.amount
    assert (Price.objects.count(), found.lines.filter(is_ticked=True).count()) == (count, 0)


def test_a_price_that_falls_on_a_dearer_invoice_says_what_it_was_priced_at(client, priced):
    """Priced when the piece cost 7.49; then once more, of one product, at 9.00. The invoice says 8.24."""
    filet = Product.objects.get(cut__key="beef-centre-filet")
    found = review("9.00")
    line = found.lines.get(product=filet)
    accept_lines = {"do": "accept", "key": uuid.uuid4(), "shown": [line.pk], "tick": [line.pk]}
    assert client.post(reverse("pricing:decide", args=[found.pk]), accept_lines).status_code == 302
    words = " ".join(words_of(client.get(reverse("pricing:invoices"))).split())
    assert "7.49 to 9.00 a lb" in words
    later = review("8.24", key=uuid.uuid4())
    _, rows = lines_of(later, None)
    by_cut = {row.line.product.cut.key: row for row in rows}
    falls = by_cut["beef-centre-filet"]
    assert falls.line.paid_then == D("9")
    assert "cost 9.00 when this was priced; it is 8.24 now" in falls.why_down
    assert by_cut["beef-filet-tips"].why_down == ""
    assert by_cut["beef-filet-tips"].line.paid_then == D("7.49")


def test_the_other_method_proposes_anew_and_ticks_stay(priced):
    found = review("9.99")
    tick_all(found.pk, on=True)
    before = {line.product.cut.key: line.proposed for line in found.lines.all()}
    choose_method(found.pk, "factor")
    after = {x.product.cut.key: x.proposed for x in found.lines.filter(is_ticked=True)}
    assert set(after) == set(before)
    assert after["beef-centre-filet"] < before["beef-centre-filet"]
    assert after["beef-ground"] > before["beef-ground"]  # in full its credit value stays
    with pytest.raises(BadInput, match="full or factor"):
        choose_method(found.pk, "guess")


def test_accepting_some_makes_one_version_with_new_costs_and_can_be_undone(client, priced):
    found = review("9.99")
    filet = found.lines.get(product__cut__key="beef-centre-filet")
    others = set(found.lines.exclude(pk=filet.pk).values_list("pk", flat=True))
    data = {"do": "accept", "key": uuid.uuid4(), "shown": [filet.pk, *others], "tick": [filet.pk]}
    answer = client.post(reverse("pricing:decide", args=[found.pk]), data)
    version = Version.objects.latest("number")
    assert answer.url == reverse("pricebook:version", args=[version.number])
    assert "Tenderloin" in version.why
    made = version.prices.get()
    assert (made.amount, made.cost, made.paid, made.school) == (
        filet.proposed,
        filet.in_full,
        price("9.99"),
        "credit",
    )
    assert made.basis == filet.price.basis
    again = client.post(reverse("pricing:decide", args=[found.pk]), data)  # sent twice
    assert again.url == answer.url
    assert Version.objects.latest("number") == version
    undo(version, None)
    back = Price.objects.current().get(product=filet.product)
    assert (back.amount, back.cost, back.paid) == (
        filet.price.amount,
        filet.price.cost,
        price("7.49"),
    )


def test_what_is_not_ticked_stays_open_until_the_review_is_closed(client, priced):
    found, count = review("9.99"), Price.objects.count()
    url = reverse("pricing:decide", args=[found.pk])
    none = client.post(url, {"do": "accept", "key": uuid.uuid4()})
    assert none.status_code == 422
    assert "none is ticked" in words_of(none)
    first, *others = found.lines.all()
    shown = [first.pk, *(line.pk for line in others)]
    client.post(url, {"do": "accept", "key": uuid.uuid4(), "shown": shown, "tick": [first.pk]})
    assert Price.objects.count() == count + 1
    page = words_of(client.get(reverse("pricing:review", args=[found.pk])))
    assert "0 ticked so far, 1 in the book" in page
    client.post(url, {"do": "all"})
    client.post(url, {"do": "accept", "key": uuid.uuid4()})
    assert Price.objects.count() == count + 1 + len(others)  # the first one is not put in again
    assert not Review.objects.get(pk=found.pk).is_open


def test_a_review_is_closed_with_nothing_accepted(client, priced):
    found, count = review(), Price.objects.count()
    url = reverse("pricing:decide", args=[found.pk])
    for _ in range(2):
        assert client.post(url, {"do": "close"}).url == reverse("pricing:invoices")
    assert Price.objects.count() == count
    page = client.get(reverse("pricing:review", args=[found.pk])).content.decode()
    assert "Closed; nothing was accepted" in page
    assert client.post(url, {"do": "all"}).status_code == 409


def test_a_price_that_changed_meanwhile_stops_the_whole(priced):
    found = review("9.99")
    tick_all(found.pk, on=True)
    line = found.lines.first()
    set_prices([NewPrice(line.product, D("5.49"))], Origin(None))
    with pytest.raises(Refused, match=f"{line.product} changed since"):
        accept(found.pk, None, Accepting(uuid.uuid4()))
    assert Review.objects.get(pk=found.pk).is_open


def test_the_next_review_starts_from_the_accepted_cost(priced):
    found = review("9.99")
    tick_all(found.pk, on=True)
    accept(found.pk, None, Accepting(uuid.uuid4()))
    same = review("9.99")
    for line in same.lines.all():
        assert line.by_factor == line.price.cost
        assert line.price.paid == price("9.99")


def test_a_target_that_is_none_keeps_the_margin_it_was_made_with(priced):
    Product.objects.update(target_margin=None)
    line = lines_of(review("7.49"), None)[1][0]
    assert line.line.margin_now == line.line.margin_before
    assert abs(line.line.proposed - line.line.price.amount) <= D("0.50")


def test_a_price_to_come_is_told_on_the_review_and_in_the_list(client, priced):
    filet = Product.objects.get(cut__key="beef-centre-filet")
    day = timezone.localdate() + timedelta(days=3)
    for amount in ("32.99", "33.99"):  # the later entry of one day is the one that will hold
        set_prices([NewPrice(filet, D(amount))], Origin(None, effective_on=day))
    found = review()
    page = words_of(client.get(reverse("pricing:review", args=[found.pk])))
    assert f"33.99 is set already from {day:%-d %b}" in page
    listed = words_of(client.get(reverse("pricing:prices")))
    assert f"33.99 from {day:%-d %b}" in listed
    assert "32.99" not in listed
    assert "single test" in listed


def test_the_morning_page_leads_to_the_review(client, priced, fill):
    fill(("beef-tenderloin", 10, "6"), price="11.90")
    page = client.get("/").content.decode()
    assert "Prices that no longer hold" in page
    assert reverse("pricing:invoices") in page


# --- costs in --------------------------------------------------------------------------------


def test_costs_are_typed_and_a_wrong_one_keeps_the_others(client, priced):
    pk, key = tenderloin().pk, str(uuid.uuid4())
    address = reverse("pricing:invoices")
    for wrong, says in (("x", "plain decimal"), ("0", "more than 0"), ("1001", "at most 1000")):
        answer = client.post(address, {"key": key, f"cost-{pk}": wrong})
        assert answer.status_code == 422
        assert says in words_of(answer)
        assert f'value="{wrong}"' in words_of(answer)
    assert "there is none" in words_of(client.post(address, {"key": key}))
    for _ in range(2):  # sent twice: one review
        answer = client.post(address, {"key": key, f"cost-{pk}": "8.24"})
        assert answer.url == reverse("pricing:review", args=[key])
    assert Review.objects.count() == 1
    page = words_of(client.get(answer.url))
    assert "now 8.24 a lb" in page


def test_costs_come_from_a_delivery_by_weight(client, priced, fill):
    bags = fill(("beef-tenderloin", 10, "6"), ("beef-tenderloin", 10, "2"), price="8.00")
    bags[1].price_amount = D("12.00")
    bags[1].save()
    delivery = bags[0].delivery
    assert delivery_prices(delivery.pk) == {tenderloin().pk: price("9.0000")}
    page = client.get(reverse("pricing:invoices"), {"delivery": delivery.pk}).content.decode()
    assert 'value="9.0000"' in page
    assert client.get(reverse("pricing:invoices"), {"delivery": "x"}).status_code == 404


@pytest.mark.parametrize(
    ("text", "says"),
    some_often(
        [
            (b"piece,price\n189A,8.24\n", ""),
            (b"item number;cost;per\n189A;18.17;kg\n", ""),
            (b"a,b\n", "a column piece and a column price"),
            (b"piece,price\nMoon,8\n", "“Moon”"),
            (b"piece,price\n189A,x\n", "row 2, price"),
            (b"piece,price,per\n189A,8,ton\n", "per: “ton”"),
            (b"piece,price\n189A,8\n189A,9\n", "there twice"),
            (b"piece,price\n", "no row below"),
            (b"\xff\xfe", "not UTF-8"),
        ]
    ),
)
def test_costs_come_from_a_file_whole_or_not(client, priced, text, says):
    import io

    file = io.BytesIO(text)
    file.name = "costs.csv"
    answer = client.post(reverse("pricing:invoices"), {"key": uuid.uuid4(), "file": file})
    if says:
        assert answer.status_code == 422
        assert says in answer.content.decode()
    else:
        assert answer.status_code == 302
        assert Review.objects.get().source == "from costs.csv"


def test_a_line_that_is_none_is_refused(client, priced):
    found = review()
    answer = client.post(reverse("pricing:decide", args=[found.pk]), {"shown": ["x"], "do": "keep"})
    assert answer.status_code == 422


# --- a thousand ------------------------------------------------------------------------------


def a_thousand(rows, count=1000):
    """So many products on the bases of ten pieces, each with a price from a credit costing."""
    now, like = timezone.now(), Basis.objects.get()
    pieces = list(Piece.objects.all()[:10])
    cuts = Cut.objects.bulk_create(
        Cut(key=f"cut-{i}", species="beef", name=f"Cut {i}") for i in range(count)
    )
    products = Product.objects.bulk_create(Product(cut=cut, name=cut.name) for cut in cuts)
    bases = []
    for at, piece in enumerate(pieces):
        document = copy.deepcopy(like.document)
        document["outputs"] += [
            document["outputs"][0] | {"name": f"Pile {i}", "cut": f"cut-{i}"}
            for i in range(at, count, len(pieces))
        ]
        bases.append(Basis(piece=piece, document=document, tests=like.tests, made_at=now))
    bases = Basis.objects.bulk_create(bases)
    version = Version.objects.latest("number")
    Price.objects.bulk_create(
        Price(
            product=product,
            version=version,
            amount=D("12.99"),
            effective_on=timezone.localdate(now),
            made_at=now,
            cost=D("7.10"),
            school="flat",
            paid_amount=D("7.49"),
            paid_per="lb",
            basis=bases[i % len(bases)],
        )
        for i, product in enumerate(products)
    )
    return pieces


@pytest.mark.long
def test_a_thousand_products_are_repriced_and_shown_in_twenty_queries(
    client, priced, django_assert_max_num_queries
):
    pieces = a_thousand(priced)
    key = str(uuid.uuid4())
    costs = {piece.pk: price("8.99") for piece in pieces}
    with django_assert_max_num_queries(20):
        found = start_review(Moving(key, "entered", costs), None)
    assert found.lines.count() >= 1000
    with django_assert_max_num_queries(20):
        page = client.get(reverse("pricing:review", args=[key]))
    assert "1 to 50 of 10" in page.content.decode()
    assert ReviewLine.objects.filter(in_full=None).count() == 0
    client.post(reverse("pricing:decide", args=[key]), {"do": "all"})
    with django_assert_max_num_queries(20):
        version = accept(found.pk, None, Accepting(uuid.uuid4()))
    assert version.prices.count() >= 1000


def decide(client, found, do="accept", **more):
    lines = list(found.lines.values_list("pk", flat=True))
    sent = {"do": do, "key": uuid.uuid4(), "shown": lines, "tick": lines, **more}
    return client.post(reverse("pricing:decide", args=[found.pk]), sent)


def seen(found):
    return Review.objects.get(pk=found.pk).revision


@pytest.mark.parametrize("other", ["method-factor", "all"])
def test_what_is_accepted_is_what_the_page_showed(client, as_role, priced, other):
    """Another manager chooses the other method, or ticks all, between the page and the press."""
    found, count = review("9.99"), Price.objects.count()
    shown = seen(found)
    filet = found.lines.get(product__cut__key="beef-centre-filet")
    assert decide(as_role(), found, other, tick=[]).status_code == 302
    answer = decide(client, found, tick=[filet.pk], seen=shown)
    assert answer.status_code == 409
    words = words_of(answer)
    assert "Somebody changed this review since the page was shown" in words
    rows = {row.line.pk: row.line.is_ticked for row in answer.context["lines"]}
    assert [pk for pk, on in rows.items() if on] == [filet.pk]  # as it was ticked, to look at
    assert Price.objects.count() == count
    assert decide(client, found, tick=[filet.pk], seen=seen(found)).status_code == 302
    assert Price.objects.count() == count + 1


def test_prices_that_are_set_for_days_to_come_are_told_and_asked_about(client, priced):
    """Accepted for next week; then another invoice, accepted for today, and one for next week too."""
    week = timezone.localdate() + timedelta(days=7)
    first = review("19.99")
    assert decide(client, first, seen=seen(first), **{"from": week.isoformat()}).status_code == 302
    later = Price.objects.latest("pk")
    filet = Product.objects.get(cut__key="beef-centre-filet")
    for day, says in ((None, "takes over again on"), (week, "is replaced; it was to hold from")):
        found = review("9.99", key=uuid.uuid4())
        more = {"from": day.isoformat()} if day else {}
        count = Price.objects.count()
        answer = decide(client, found, seen=seen(found), **more)
        assert answer.status_code == 409
        assert says in words_of(answer)
        assert Price.objects.count() == count
        if day is None:
            continue
        agreed = answer.context["agreed"]
        assert str(later.pk) in agreed
        done = decide(client, found, seen=seen(found), agreed=agreed, **more)
        assert done.status_code == 302
        assert Price.objects.current(week, products=[filet.pk]).get().amount < 40


def test_a_product_that_was_taken_off_sale_gets_no_new_price(client, priced):
    found = review("9.99")
    tips = Product.objects.get(cut__key="beef-filet-tips")
    Product.objects.filter(pk=tips.pk).update(is_sold=False)
    count = Price.objects.filter(product=tips).count()
    assert decide(client, found, seen=seen(found)).status_code == 302
    assert Price.objects.filter(product=tips).count() == count
    assert Review.objects.get(
        pk=found.pk
    ).is_open  # its line waits until somebody closes the review
