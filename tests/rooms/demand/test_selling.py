"""Sales of the till: taken whole or not at all, proposals for the list, what is refused."""

from datetime import timedelta
from decimal import Decimal
from pathlib import Path

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone

from rooms.common.tables.files import rows_of
from rooms.demand.models import Sold, Wanted
from rooms.demand.queries.selling import by_folded_name, selling
from rooms.demand.queries.till import read_till
from rooms.pricebook.models import Product
from tests.conftest import words_of

pytestmark = pytest.mark.django_db
D = Decimal
EXAMPLE = Path(__file__).parents[3] / "docs/formats/examples/sales.csv"


def send(client, text, **more):
    file = SimpleUploadedFile("till.csv", text.encode())
    return client.post(reverse("demand:sales"), {"take": "1", "file": file, **more})


def steak():
    return Product.objects.get(cut__key="beef-flat-iron")


def day(back):
    return (timezone.localdate() - timedelta(days=back)).isoformat()


def test_a_file_is_taken_once_and_again_it_changes_nothing(client, shop):
    text = f"Product;Day;Weight;Unit;Money\n{steak().name};{day(1)};2.5;kg;71.40\n"
    for many in ("1", "0"):
        answer = send(client, text)
        assert answer["Location"].endswith(f"taken={many}")
    sold = Sold.objects.get()
    assert sold.weight == D("5.51156")
    assert sold.money == D("71.40")
    assert sold.taken_by.username == "bram"


def test_the_example_of_the_format_is_read(shop):
    found = read_till(
        rows_of(EXAMPLE.read_bytes()), by_folded_name(), timezone.localdate().replace(year=2027)
    )
    assert len(found.rows) + len(found.unknown) >= 3


@pytest.mark.parametrize(
    ("rows", "says"),
    [
        ("", "no column product"),
        ("product,day\nx,y\n", "no column weight"),
        ("product,day,weight\nBrisket of a whale,{one},3\n", "no product of the shop"),
        ("product,day,weight\n{steak},yesterday,3\n", "a day like 2026-11-20"),
        ("product,day,weight\n{steak},2999-01-01,3\n", "today or before"),
        ("product,day,weight\n{steak},{one},-3\n", "0 or more is right"),
        ("product,day,weight\n{steak},{one},much\n", "plain decimal"),
        ("product,day,hour,weight\n{steak},{one},25,3\n", "0 to 23"),
        ("product,day,weight,unit\n{steak},{one},3,stone\n", "lb or kg"),
        ("product,day,weight\n{steak},{one},3\n{steak},{one},4\n", "it stands in row 2 already"),
    ],
)
def test_a_file_that_cannot_be_says_where_and_takes_nothing(client, shop, rows, says):
    answer = send(client, rows.format(steak=steak().name, one=day(1)) or "a,b\n")
    assert answer.status_code == 422
    assert says in words_of(answer)
    assert not Sold.objects.exists()


def test_other_products_are_left_out_when_that_is_said_and_other_figures_are_refused(client, shop):
    text = f"product,day,weight\nWhale,{day(2)},3\n{steak().name},{day(2)},4\n"
    assert send(client, text, leave_out="on").status_code == 302
    again = send(client, f"product,day,weight\n{steak().name},{day(2)},5\n")
    assert again.status_code == 409
    assert "is there already with 4, the file says 5" in words_of(again)
    assert (
        send(client, "product,day,weight\nWhale,2026-01-01,1\n", leave_out="on").status_code == 422
    )
    assert client.post(reverse("demand:sales"), {"take": "1"}).status_code == 422


def test_weeks_of_sales_propose_the_list_and_put_it_there(client, shop):
    product, today = steak(), timezone.localdate()
    now = timezone.now()
    for week in range(1, 9):
        for number in range(7):
            Sold.objects.create(
                product=product,
                day=today - timedelta(days=7 * week - number),
                weight=D(4 + week % 3),
                taken_at=now,
            )
    found = selling(today.weekday(), today, D(1))
    (line,) = found.lines
    assert line.proposal.weeks == 8
    assert 3 <= line.proposal.least <= line.proposal.most <= 8
    double = selling(today.weekday(), today, D(2)).lines[0].proposal
    assert double.most >= 2 * line.proposal.most - D("0.5")
    page = client.get(reverse("demand:sales"), {"weekday": today.weekday()})
    assert f"{line.proposal.least.normalize():f} to" in words_of(page)
    accept = {"accept": "1", "weekday": today.weekday(), "factor": "100"}
    assert client.post(reverse("demand:sales"), accept).status_code == 302
    row = Wanted.objects.get(product=product, weekday=today.weekday())
    assert (row.least, row.most) == (line.proposal.least, line.proposal.most)
    wrong = client.post(reverse("demand:sales"), accept | {"factor": "0"})
    assert wrong.status_code == 422
    empty = client.post(
        reverse("demand:sales"), accept | {"weekday": str((today.weekday() + 1) % 7)}
    )
    assert empty.status_code == 302


def test_too_few_weeks_and_no_sales_are_said(client, shop):
    assert "No sales yet" in words_of(client.get(reverse("demand:sales")))
    Sold.objects.create(
        product=steak(),
        day=timezone.localdate() - timedelta(days=7),
        weight=D(3),
        taken_at=timezone.now(),
    )
    words = words_of(client.get(reverse("demand:sales")))
    assert "1 weeks only; three are needed" in words
    nothing = client.post(reverse("demand:sales"), {"accept": "1"})
    assert "nothing is proposed" in words_of(nothing)
