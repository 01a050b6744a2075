"""Products taken from the catalog's cuts, or from the shop's own list with its doubts asked."""

from decimal import Decimal

import pytest
from django.urls import reverse

from cutting.quantities import Unit
from rooms.catalog.models import Cut, Piece
from rooms.pricebook.models import Price, Product, Version
from rooms.pricebook.queries.own_list import lines_of, matched
from tests.conftest import decide, words_of

pytestmark = pytest.mark.django_db
TABLE, LIST = "pricebook:from_catalog", "pricebook:from_list"


def cut(key):
    return Cut.objects.get(key=key)


@pytest.fixture
def tenderloin(catalog):
    Piece.objects.filter(key="beef-tenderloin").update(is_bought=True)
    return {key: cut(key).pk for key in ("beef-centre-filet", "beef-filet-tips", "beef-hard-fat")}


def fields(tenderloin, **typed):
    names = {"filet": "beef-centre-filet", "tips": "beef-filet-tips", "fat": "beef-hard-fat"}
    found = {"animal": "beef"}
    for name, value in typed.items():
        row, _, field = name.partition("_")
        found[f"{field}-{tenderloin[names[row]]}"] = value
    return found


def test_what_is_priced_ticked_or_worth_something_becomes_a_product(client, tenderloin):
    decide(unit=Unit.KG)
    data = fields(
        tenderloin, filet_price="64.99", filet_name="Filet of the house", filet_tray="0.5"
    ) | fields(tenderloin, tips_take="on", fat_worth="0.60")
    assert client.post(reverse(TABLE), data).status_code == 302
    filet, tips, fat = (Product.objects.get(cut=tenderloin[key]) for key in tenderloin)
    assert (filet.name, filet.per, filet.tray_weight) == (
        "Filet of the house",
        "kg",
        Decimal("0.5"),
    )
    assert (tips.name, tips.is_sold, tips.prices.count()) == ("Filet tips", True, 0)
    assert (fat.is_sold, fat.transfer) == (False, Decimal("0.60"))
    assert Price.objects.get().amount == Decimal("64.99")
    assert Version.objects.get().why == "first price list"
    client.post(reverse(TABLE), data)  # sent twice
    assert (Product.objects.count(), Version.objects.count()) == (3, 1)
    assert filet.history.get().history_user.username == "bram"


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ({}, "none is ticked"),
        ({"filet_price": "x"}, "Center filet, Price: “x” is not a plain number"),
        ({"filet_price": "1.999"}, "Center filet, Price"),
        ({"filet_price": "9.99", "filet_tray": "0"}, "more than 0"),
        ({"filet_price": "9.99", "filet_name": "y" * 101}, "100"),
    ],
)
def test_one_wrong_row_takes_nothing_and_loses_nothing(client, tenderloin, typed, says):
    answer = client.post(reverse(TABLE), fields(tenderloin, tips_name="My tips", **typed))
    text = words_of(answer)
    assert answer.status_code == 422
    assert says in text
    assert 'value="My tips"' in text
    assert not Product.objects.exists()


def test_the_table_goes_on_to_the_next_animal_that_is_bought(client, tenderloin):
    Piece.objects.filter(key="lamb-leg").update(is_bought=True)
    answer = client.post(reverse(TABLE), fields(tenderloin, filet_price="30.99"))
    assert answer.url.endswith("?animal=lamb&taken=1")
    text = words_of(client.get(answer.url))
    assert "1 product taken" in text
    assert "Lamb leg, bone in" in text


def said(text):
    """Each line's state with the cuts it may be."""
    return [(one.state, [cut.key for cut in one.cuts]) for one in matched(lines_of(text.encode()))]


@pytest.mark.parametrize(
    ("line", "name", "price", "per"),
    [
        ("Strip steak 17.99", "Strip steak", "17.99", ""),
        ("Strip steak, end cut: $13.99/lb", "Strip steak, end cut", "13.99", "lb"),
        ("Strip steak\t17.99\tkg", "Strip steak", "17.99", ""),
        ("Rib-eye; 17,99", "Rib-eye", "17,99", ""),
        ("Filet 30.99 per kg", "Filet", "30.99", "kg"),
        ("Bones", "Bones", "", ""),
        ("肉 12", "肉", "12", ""),
    ],
)
def test_a_plain_line_is_a_name_and_its_price(line, name, price, per):
    (found,) = lines_of(line.encode())
    assert (found.name, found.price, found.per) == (name, price, per)


def test_a_table_with_names_is_read_by_them():
    text = "code;Product;Price;per\n1;Strip steak;17.99;lb\n2;;3;lb\n"
    (found,) = lines_of(text.encode())
    assert (found.where, found.name, found.price, found.per) == (
        "row 2",
        "Strip steak",
        "17.99",
        "lb",
    )


def test_names_are_matched_as_people_write_them_and_doubts_are_asked(catalog):
    found = said(
        "RIB EYE STEAKS 17.99\nBeef flank 12\nlamb shanks 9\nfilet mignon 30\n"
        "Ribeye steak / strip steak 16.99\nshoulder 5\ndragon 1"
    )
    assert found[0] == ("sure", ["beef-ribeye-steak"])
    assert found[1] == ("sure", ["beef-flank-steak"])
    assert found[3] == ("sure", ["beef-centre-filet"])
    assert found[4] == ("two", ["beef-ribeye-steak", "beef-strip-steak"])
    assert found[5][0] == "asked"
    assert len(found[5][1]) > 1
    assert all(key.startswith("lamb") for key in found[2][1])
    assert found[6] == ("unknown", [])


def test_an_unanswered_doubt_takes_nothing_and_an_answered_list_is_taken_once(client, catalog):
    text = "Flank steak 12.99\nshoulder 5.99\nRibeye steak & strip steak 16.99\ndragon 1.00"
    asked = client.post(reverse(LIST), {"text": text})
    assert asked.status_code == 200
    assert "4 lines; 3 to be answered" in words_of(asked)
    kept = {"text": asked.context["text"], "asked": "1"}
    refused = client.post(reverse(LIST), kept)
    assert refused.status_code == 422
    assert "row 3 “shoulder”, row 4 “Ribeye" in words_of(refused).replace("&quot;", '"')
    assert not Product.objects.exists()
    rows = [one for one, _ in asked.context["rows"]]
    answers = kept | {
        "cut-0": rows[0].usual,
        "cut-1": str(cut("pork-collar").pk),
        "cut-2": rows[2].both,
        "cut-3": "out",
    }
    taken = client.post(reverse(LIST), answers)
    assert "4 products taken" in words_of(taken)
    prices = {one.product.name: str(one.amount) for one in Price.objects.all()}
    assert prices == {
        "Flank steak": "12.99",
        "shoulder": "5.99",
        "Rib-eye steak": "16.99",
        "Strip steak": "16.99",
    }
    assert Version.objects.get().kind == Version.Kind.FILE
    again = client.post(reverse(LIST), answers)
    assert "0 products taken; 4 stood there already and stay as they are" in words_of(again)
    assert Product.objects.count() == 4


def test_two_lines_on_one_cut_are_named(client, catalog):
    text = "Flank steak 12.99\nFlank skirt 11.99"
    kept = client.post(reverse(LIST), {"text": text}).context["text"]
    answer = client.post(reverse(LIST), {"text": kept, "asked": "1"})
    assert answer.status_code == 422
    assert "“Flank steak” and “Flank skirt” are both Flank steak" in words_of(answer)
    assert not Product.objects.exists()


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "it is empty"),
        ("\n".join(f"a {n}" for n in range(301)), "at most 300"),
        ("name\tprice\tper\nFlank steak\tfree\t", "row 2, price"),
        ("name\tprice\tper\nFlank steak\t1\tstone", "row 2, per: “stone”; lb or kg is right"),
    ],
)
def test_a_list_that_cannot_be_read_says_where(client, catalog, text, says):
    answer = client.post(reverse(LIST), {"text": text, "asked": "1"})
    assert answer.status_code == 422
    assert says in words_of(answer)


def test_a_damaged_spreadsheet_is_refused(client, catalog):
    from django.core.files.uploadedfile import SimpleUploadedFile

    file = SimpleUploadedFile("list.xlsx", b"PK\x03\x04 not a spreadsheet")
    answer = client.post(reverse(LIST), {"file": file})
    assert answer.status_code == 422
    assert "no XLSX spreadsheet" in words_of(answer)
