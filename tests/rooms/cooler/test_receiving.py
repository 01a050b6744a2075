"""Receiving: many bags in one go, whatever they come as; what is wrong is told by row."""

import io
import uuid
from datetime import timedelta
from decimal import Decimal

import openpyxl
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone

from cutting.quantities import Weight
from cutting.tracing.lots import lot_key
from rooms.catalog.models import Piece
from rooms.common.errors import BadInput, Refused
from rooms.cooler.actions.bags import leave, weigh_again
from rooms.cooler.actions.deliveries import (
    Check,
    Header,
    add_bags,
    close_delivery,
    name_code,
    start_delivery,
)
from rooms.cooler.actions.holds import hold_lot
from rooms.cooler.forms import BagForm
from rooms.cooler.models import Bag, BagEvent, Delivery, ProductCode
from rooms.cooler.queries import reading_in
from rooms.cooler.queries.one_delivery import claim_of
from tests.cases import some_often
from tests.conftest import words_of

pytestmark = pytest.mark.django_db
D = Decimal
GTIN = "09501101530003"


@pytest.fixture
def delivery(shop):
    return start_delivery(Header(uuid.uuid4(), "Skerry Point Packing"), shop["bram"].pk)


@pytest.fixture
def usual(shop):
    packed = timezone.localdate() - timedelta(days=9)
    return reading_in.Usual(Piece.objects.get(key="beef-tenderloin"), "lb", packed, D("7.49"))


def put(delivery, text, usual):
    bags, wrong = reading_in.bags(reading_in.rows_of_text(text), usual)
    assert wrong == []
    return add_bags(delivery.pk, bags, None)


def papers(bag):
    """What the page of a bag sends for what its papers say, as it was shown."""
    bag.refresh_from_db()
    own = BagForm.filled(bag)
    return {name: "" if value is None else value for name, value in own.items()}


def post(client, delivery, **data):
    usual = {
        "unit": "lb",
        "piece": Piece.objects.get(key="beef-tenderloin").pk,
        "price": "7.49",
        "packed_on": f"{timezone.localdate() - timedelta(days=5)}",
    }
    return client.post(reverse("cooler:add", args=[delivery.pk]), usual | data)


@pytest.mark.parametrize(
    "text",
    [
        "6.17\n5.92\n",
        "6.17,L1\n5.92,L2",
        "weight;lot\n6.17;L1\n5.92;L2",
        "Lot\tNet weight\nL1\t6.17 lb\nL2\t5.92",
        "\n 6.17 \n\n5.92 lb\n",
        "6,17\n5,92 lb",
        "6,17;L1\n5,92;L2",
        "weight;lot\r\n6,17;L1\r\n5,92;L2",
    ],
)
def test_catch_weights_typed_or_pasted(delivery, usual, text):
    bags = put(delivery, text, usual)
    assert [bag.weight_value for bag in bags] == [D("6.17"), D("5.92")]
    assert {bag.piece.key for bag in bags} == {"beef-tenderloin"}
    assert BagEvent.objects.filter(kind="came").count() == 2


def test_labels_as_the_scanner_types_them(delivery, usual, client):
    ProductCode.objects.create(gtin=GTIN, piece=usual.piece)
    day = f"{timezone.localdate() - timedelta(days=4):%y%m%d}"
    text = "\n".join(f"]C101{GTIN}32020006{i}713{day}10L{i}\x1d21S{i}" for i in range(3))
    answer = post(client, delivery, lines=text, piece="", packed_on="", key=str(uuid.uuid4()))
    assert answer.status_code == 302
    bags = list(Bag.objects.order_by("serial"))
    assert [str(bag.weight_value) for bag in bags] == ["6.07", "6.17", "6.27"]
    assert {bag.piece_id for bag in bags} == {usual.piece.pk}
    again = post(client, delivery, lines=text, piece="", packed_on="", key=str(uuid.uuid4()))
    assert again.status_code == 422
    assert "serial S0 came with delivery 1 already" in again.content.decode()
    assert Bag.objects.count() == 3


def test_labels_and_typed_weights_may_stand_in_one_list(delivery, usual):
    day = f"{usual.packed_on:%y%m%d}"
    bags = put(delivery, f"01{GTIN}320200061713{day}\n5.92,L2", usual)
    assert [(str(bag.weight_value), bag.lot) for bag in bags] == [("6.17", ""), ("5.92", "L2")]


def test_the_same_request_twice_adds_nothing(delivery, client):
    key = str(uuid.uuid4())
    for _ in range(2):
        answer = post(client, delivery, lines="6.17\n5.92", key=key)
    assert Bag.objects.count() == 2
    assert "there already" in words_of(client.get(answer.url))
    post(client, delivery, lines="7.17\n5.92", key=key)  # back, and another list typed
    assert sorted(bag.weight_value for bag in Bag.objects.all()) == [
        D("5.92"),
        D("6.17"),
        D("7.17"),
    ]


@pytest.mark.long
def test_a_thousand_rows_of_a_spreadsheet_and_the_same_file_twice(delivery, client):
    book = openpyxl.Workbook()
    book.active.append(["Net weight", "Serial", "Packed on", "Item number"])
    day = timezone.localdate() - timedelta(days=3)
    for i in range(1000):
        book.active.append([6.17 + i / 100, f"C{i:05d}", day, "189A"])
    raw = io.BytesIO()
    book.save(raw)
    for status in (302, 409):
        file = SimpleUploadedFile("weights.xlsx", raw.getvalue())
        answer = post(client, delivery, file=file, key=str(uuid.uuid4()))
        assert answer.status_code == status
    assert Bag.objects.count() == 1000
    assert "was read before, into delivery 1" in answer.content.decode()
    assert Bag.objects.get(serial="C00123").weight_value == D("7.4")


@pytest.mark.parametrize(
    ("lines", "says"),
    some_often(
        [
            ("6.17\nsix\n5.92", "row 2"),
            ("weight,packed on\n6.17,2026-13-01", "is no date"),
            ("weight,packed on\n6.17,2199-01-01", "after it came"),
            ("weight,packed on\n6.17,2019-01-01", "more than 400 days"),
            ("0", "above 0"),
            ("5000", "at most 1000"),
            ("6.17 st", "lb or kg is right"),
            ("weight,serial\n6,A\n7,A", "stands twice"),
            ("weight,piece\n6,unicorn", "“unicorn”"),
            ("weight,use by,packed on\n6,2026-01-01,2026-01-02", "before it was packed"),
            ("0109501101530004", "check digit"),
            ("]C1" + "01" + GTIN, "no net weight"),
            ("", "there is none"),
            ("weight,pieces\n6,many", "“many”"),
        ]
    ),
)
def test_what_is_wrong_is_told_by_row_and_nothing_typed_is_lost(delivery, client, lines, says):
    answer = post(client, delivery, lines=lines, key=str(uuid.uuid4()))
    page = answer.content.decode()
    assert answer.status_code == 422
    assert says in page
    assert lines.split("\n")[0][:4] in page
    assert not Bag.objects.exists()


@pytest.mark.parametrize("raw", [b"\xff\xfe\x00", b"PK\x03\x04broken"])
def test_a_file_that_is_no_table_is_refused(delivery, client, raw):
    for name in ("w.csv", "w.xlsx"):
        file = SimpleUploadedFile(name, raw)
        assert post(client, delivery, file=file).status_code == 422


def test_mixed_units_keep_their_own_and_are_told(delivery, usual, client):
    put(delivery, "6.17 lb\n2.80 kg", usual)
    page = client.get(reverse("cooler:delivery", args=[delivery.pk])).content.decode()
    assert "in lb and in kg" in page
    assert "12.34 lb" in page  # 6.17 + 2.80 / 0.45359237


def test_an_unknown_code_is_kept_and_asked_about(delivery, usual, client, shop):
    day = f"{timezone.localdate():%y%m%d}"
    nobody = reading_in.Usual(packed_on=usual.packed_on, price=D("5"))
    put(delivery, f"01{GTIN}320200061713{day}", nobody)
    page = client.get(reverse("cooler:delivery", args=[delivery.pk])).content.decode()
    assert f"product code <b>{GTIN}</b>" in page
    address = reverse("cooler:code", args=[delivery.pk])
    assert client.post(address, {"gtin": GTIN, "piece": "beef-ribeye"}).status_code == 302
    bag = Bag.objects.select_related("piece").get()
    assert bag.piece.key == "beef-ribeye"
    with pytest.raises(BadInput, match="never came"):
        name_code("0", usual.piece, None)


def test_closing_spreads_freight_by_weight_and_needs_a_cold_delivery(delivery, usual, shop):
    put(delivery, "6.17\n5.92\n12.40", usual)
    with pytest.raises(BadInput, match="Temperature: it is empty"):
        close_delivery(delivery.pk, Check(), None)
    warm = Check(arrival=5100)
    with pytest.raises(Refused, match=r"3-202\.11"):
        close_delivery(delivery.pk, warm, shop["bram"].pk)
    with pytest.raises(Refused, match="nobody is named"):
        close_delivery(delivery.pk, Check(arrival=5100, arrival_reason="top layer only"), None)
    found = Check(freight=D("10.00"), discount=D("1.00"), arrival=5000)
    close_delivery(delivery.pk, found, None)
    bags = list(Bag.objects.order_by("weight_value"))
    assert sum(bag.freight for bag in bags) == D("10.00")
    assert sum(bag.discount for bag in bags) == D("1.00")
    assert Delivery.objects.get().closed_at is not None
    with pytest.raises(Refused, match="is closed"):
        close_delivery(delivery.pk, found, None)
    with pytest.raises(Refused, match="is closed"):
        add_bags(delivery.pk, [], None)


def test_an_invoice_that_disagrees_is_told_and_needs_a_reason(delivery, usual, client):
    put(delivery, "6.17\n5.92", usual)
    address = reverse("cooler:close", args=[delivery.pk])
    data = {"celsius": "35.6", "degrees": "F", "bags": "3", "weight": "12.09", "amount": "99"}
    answer = client.post(address, data)
    assert answer.status_code == 422
    assert "bags: 3 billed, 2 here" in answer.content.decode()
    assert (
        client.post(address, data | {"difference_reason": "one case is missing"}).status_code == 302
    )
    closed = Delivery.objects.get()
    assert closed.arrival == 2000
    page = client.get(reverse("cooler:delivery", args=[delivery.pk])).content.decode()
    assert "one case is missing" in page


def test_bags_without_a_price_are_named_and_get_one(delivery, usual, client):
    put(delivery, "6.17", reading_in.Usual(usual.piece, "lb", usual.packed_on))
    with pytest.raises(BadInput, match="1 of 1 bags have none"):
        close_delivery(delivery.pk, Check(arrival=2000), None)
    address = reverse("cooler:price", args=[delivery.pk])
    assert client.post(address, {"amount": "dear", "per": "lb"}).status_code == 422
    assert client.post(address, {"amount": "7.49", "per": "lb"}).status_code == 302
    assert Bag.objects.get().price_amount == D("7.49")
    close_delivery(delivery.pk, Check(arrival=2000), None)


def test_a_bag_sent_back_at_the_door_is_not_paid_for(delivery, usual, client):
    torn, kept = put(delivery, "6.17\n5.92", usual)
    leave(torn.pk, "back", "torn film", None)
    page = client.get(reverse("cooler:delivery", args=[delivery.pk])).content.decode()
    assert "5.92 lb" in page
    assert "sent back" in page
    close_delivery(delivery.pk, Check(freight=D("4.00"), arrival=2000, bags=1), None)
    assert Bag.objects.get(pk=kept.pk).freight == D("4.00")
    assert Bag.objects.get(pk=torn.pk).freight == 0


def test_lamb_needs_its_country_of_origin(delivery, usual, client):
    """7 CFR 65: country of origin labelling covers lamb."""
    lamb = reading_in.Usual(Piece.objects.get(key="lamb-rack"), "lb", usual.packed_on, D("12"))
    bag = put(delivery, "2.10", lamb)[0]
    with pytest.raises(BadInput, match="Country of origin: 1 bags of lamb do not say"):
        close_delivery(delivery.pk, Check(arrival=2000), None)
    address = reverse("cooler:correct", args=[bag.pk])
    for more in ({"born": "US"}, {"country": "Ovis " * 20}):
        assert client.post(address, papers(bag) | more).status_code == 422
    assert client.post(address, papers(bag) | {"country": "US"}).status_code == 302
    with pytest.raises(BadInput, match="do not say where they were born, raised and slaughtered"):
        close_delivery(delivery.pk, Check(arrival=2000), None)
    for sent in [papers(bag) | {"born": "CA", "raised": "US", "slaughtered": "US"}] * 2:
        client.post(address, sent)
    assert bag.events.filter(kind="corrected").count() == 2
    assert "Canada, United States, United States" in words_of(client.get(bag.get_absolute_url()))
    close_delivery(delivery.pk, Check(arrival=2000), None)


def test_what_a_bag_came_with_is_put_right_with_both_values_kept(delivery, usual, client):
    bag = put(delivery, "6.17, L-12", usual)[0]
    address = reverse("cooler:correct", args=[bag.pk])
    shown, end = papers(bag), bag.ends_on
    packed = bag.packed_on - timedelta(days=3)
    right = {"lot": "L-21", "packed_on": packed, "grade": "Choice"}
    assert client.post(address, shown | right).status_code == 302
    said = bag.events.get(kind="corrected").words
    assert f"lot L-21, was L-12; packed on {packed}, was {shown['packed_on']}" in said
    bag.refresh_from_db()
    assert (bag.lot_key, bag.grade) == (lot_key("L-21"), "Choice")
    assert bag.ends_on == end - timedelta(days=3)
    late = client.post(address, shown | {"grade": "Select"})
    assert late.status_code == 409
    assert 'value="L-21"' in words_of(
        late
    )  # the other's lot, and the own grade, one press from saved
    assert 'value="Select"' in words_of(late)
    for more in (
        {"packed_on": timezone.localdate() + timedelta(days=1)},
        {"packed_on": "2020-01-01"},
    ):
        assert client.post(address, papers(bag) | more).status_code == 422
    bag.refresh_from_db()
    assert (bag.lot, bag.grade) == ("L-21", "Choice")


def test_a_bag_of_a_held_lot_keeps_its_lot_and_one_moved_into_it_is_held(delivery, usual, client):
    held, other = put(delivery, "6.17, L-12\n5.92, L-13", usual)
    hold_lot(uuid.uuid4(), "L-12", "recall", None)
    send = lambda bag, lot: client.post(  # noqa: E731
        reverse("cooler:correct", args=[bag.pk]), papers(bag) | {"lot": lot}
    )
    answer = send(held, "L-99")
    assert answer.status_code == 409
    assert "is held since" in words_of(answer)
    assert send(other, "l 12").status_code == 302
    assert not Bag.objects.free().exists()


@pytest.mark.parametrize(
    ("text", "life"),
    [
        ("weight,born,raised,slaughtered\n6.17,Canada,US,USA", ("CA", "US", "US")),
        ("(01)09501101530003(3201)000617(13)261120(426)554", ("NZ", "NZ", "NZ")),
        ("(01)09501101530003(3201)000617(13)261120(422)554", ("", "", "")),
    ],
)
def test_files_and_labels_say_where_the_animal_lived(delivery, usual, text, life):
    """GS1 General Specifications: 422 is the country of origin, 426 that of the full process chain."""
    bag = put(delivery, text, usual)[0]
    assert (bag.born, bag.raised, bag.slaughtered) == life


@pytest.mark.parametrize("row", ["6.17,Canada,,", "6.17,Ovisland,US,US"])
def test_a_life_told_in_part_or_nowhere_on_earth_is_a_fault_of_its_row(shop, usual, row):
    _, wrong = reading_in.bags(
        reading_in.rows_of_text(f"weight,born,raised,slaughtered\n{row}"), usual
    )
    assert [where for where, _ in wrong] == ["row 2"]


def test_seal_and_signs_of_freezing_are_kept_as_they_come(delivery, client):
    data = {"lines": "6.17", "seal": "suspect", "was_frozen": "on", "pieces_inside": "2"}
    assert post(client, delivery, **data).status_code == 302
    bag = Bag.objects.get()
    assert (bag.seal, bag.was_frozen, bag.pieces_inside) == ("suspect", True, 2)
    page = client.get(reverse("cooler:bag", args=[bag.pk])).content.decode()
    assert "Signs of freezing" in page
    assert "seal suspect: look at it today" in page


def test_a_short_bag_stands_on_the_claim_sheet(delivery, usual, client):
    """NIST Handbook 44, 2.20, Table 6: two divisions at 617 divisions of load."""
    bag, other = put(delivery, "6.17\n5.92", usual)
    weigh_again(bag.pk, Weight.of("5.87", "lb"), None)
    weigh_again(other.pk, Weight.of("5.91", "lb"), None)
    claim = claim_of(Bag.objects.get(pk=bag.pk))
    assert (claim.missing, claim.worth) == (D("0.30"), D("2.25"))
    assert claim_of(Bag.objects.get(pk=other.pk)) is None
    page = client.get(reverse("cooler:claim", args=[delivery.pk])).content.decode()
    assert page.count("0.30") == 1
    assert "2.25" in page


def test_starting_twice_is_one_delivery_and_a_name_is_needed(client, shop):
    key = str(uuid.uuid4())
    data = {"key": key, "supplier": "Low Holm Provisions", "invoice": "77"}
    for _ in range(2):
        answer = client.post(reverse("cooler:receive"), data)
        assert answer.url == reverse("cooler:delivery", args=[key])
    assert Delivery.objects.count() == 1
    assert client.post(reverse("cooler:receive"), {"key": key}).status_code == 422


# --- what a row says and what holds for all ---


def one(text, usual):
    (bag,), wrong = reading_in.bags(reading_in.rows_of_text(text), usual)
    assert not wrong
    return bag


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("lb,lot\n6.17,A", ("6.17", "lb")),
        ("lot,kg\nA,2.80", ("2.80", "kg")),
        ("lb,kg,lot\n,2.80,A", ("2.80", "kg")),
        ("lb,kg,lot\n6.17,,A", ("6.17", "lb")),
        ("weight,lot\n2.80 kg,A", ("2.80", "kg")),
        ('weight,lot\n6.17,"A2;B"', ("6.17", "lb")),
    ],
)
def test_each_weight_has_the_unit_of_its_own_column(usual, text, wanted):
    bag = one(text, usual)
    assert (str(bag.weight), bag.unit) == wanted


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("lb,kg\n6.17,2.80", "under lb and kg"),
        ("weight,net weight\n1,2", "two columns say weight"),
        ("weight,gtin\n6.17,12345", "8, 12, 13 or 14 digits"),
        ("weight,gtin\n6.17,09501101530004", "check digit"),
    ],
)
def test_a_row_that_says_two_things_or_a_wrong_code_is_told(usual, text, says):
    try:
        _, ((_, words),) = reading_in.bags(reading_in.rows_of_text(text), usual)
    except BadInput as bad:
        words = bad.message
    assert says in words


def test_a_price_of_nothing_in_a_row_is_told_and_not_replaced(delivery, usual):
    bags, _ = reading_in.bags(reading_in.rows_of_text("weight,price\n6.17,0\n"), usual)
    assert bags[0].price == 0
    with pytest.raises(BadInput, match="price 0; above 0 is right"):
        add_bags(delivery.pk, bags, None)


def test_a_row_beside_its_label_keeps_its_price_grade_and_pieces(usual):
    label = f"(01){GTIN}(3102)000280(13)261103(21)S9"
    for text in (
        f"label,price,grade,pieces\n{label},6.20,Choice,2",
        f"price,grade,label,pieces\n6.20,Choice,{label},2",
    ):
        bag = one(text, usual)
        assert (bag.serial, bag.price, bag.price_per) == ("S9", D("6.20"), "kg")
        assert (bag.grade, bag.pieces_inside, bag.weight) == ("Choice", 2, D("2.80"))


def test_a_price_of_the_form_is_for_the_unit_of_the_form_whatever_the_label_weighs_in(usual):
    bag = one(f"(01){GTIN}(3102)000280(13)261103", usual)
    assert (bag.unit, bag.price, bag.price_per) == ("kg", D("7.49"), "lb")


def test_the_piece_of_the_form_holds_for_a_label_whose_code_nobody_named(delivery, usual):
    ribeye = Piece.objects.get(key="beef-ribeye")
    label = f"(01){GTIN}(3202)000617(13)261103"
    assert one(label, usual).piece == usual.piece
    ProductCode.objects.create(gtin=GTIN, piece=ribeye)
    assert one(label, usual).piece == ribeye


def test_a_code_of_fewer_digits_is_the_same_code(usual):
    ribeye = Piece.objects.get(key="beef-ribeye")
    ProductCode.objects.create(gtin="00012345678905", piece=ribeye)
    for code in ("012345678905", "0012345678905", "00012345678905"):
        bag = one(f"weight,gtin\n6.17,{code}", usual)
        assert (bag.gtin, bag.piece) == ("00012345678905", ribeye)


@pytest.mark.parametrize("text", ["840", "USA", "us", "United States", "United States of America"])
def test_a_country_has_one_name_however_it_is_given(usual, text):
    assert one(f"weight,country\n6.17,{text}", usual).country == "United States"
    assert one("weight,country\n6.17,Hill country", usual).country == "Hill country"


def test_texts_that_are_too_long_are_told_by_row(delivery, usual):
    bags, _ = reading_in.bags(
        reading_in.rows_of_text(f"weight,lot,country\n6.17,{'L' * 500},{'C' * 300}"), usual
    )
    with pytest.raises(BadInput) as refused:
        add_bags(delivery.pk, bags, None)
    assert "lot of 500 characters; at most 60" in refused.value.message
    assert "country of 300 characters; at most 60" in refused.value.message
    with pytest.raises(BadInput, match="Supplier of 101 characters"):
        start_delivery(Header(uuid.uuid4(), "S" * 101), None)
