"""Sheets out as CSV, XLSX and PDF; tests out and in as JSON."""

import copy
import csv
import io
import json

import openpyxl
import pypdf
import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.errors import BadDocument
from cutting.quantities import Unit, Weight, storable
from formats.difference import differences
from rooms.bench.actions.finishing import approve
from rooms.bench.actions.import_tests import bring_in
from rooms.bench.actions.record import add_note
from rooms.bench.models import CuttingTest, Note, Output, StepCheck, TakeBack, Weighing
from rooms.bench.queries.document import documents
from rooms.bench.queries.rows import load
from rooms.pricing.actions.save import Saving, save_prices
from rooms.pricing.queries.building import price_view
from rooms.pricing.queries.wishes import Wish
from rooms.staff.models import Person
from tests.conftest import address, words_of
from tests.formats.test_cutting_test import WORKED

pytestmark = pytest.mark.django_db


def get(client, rows, kind):
    return client.get(reverse("bench:sheet_file", args=[rows.test.pk, kind]), {"school": "flat"})


def test_a_sheet_goes_out_as_csv_that_foots(client, weighed):
    answer = get(client, weighed(), "csv")
    assert answer["Content-Disposition"].endswith('cutting-test-1.csv"')
    table = list(csv.DictReader(io.StringIO(answer.content.decode())))
    assert [row["output"] for row in table][:3] == ["Center filet", "Tips", "Lean trim"]
    assert round(sum(float(row["weight"]) for row in table), 2) == 6.17
    assert round(sum(float(row["yield %"]) for row in table), 1) == 100.0
    assert table[0]["cost by"] == "Flat true cost"


def test_a_spreadsheet_has_numbers_weighings_and_facts(client, weighed):
    rows = weighed()
    CuttingTest.objects.filter(pk=rows.test.pk).update(supplier="=1+1")
    book = openpyxl.load_workbook(io.BytesIO(get(client, rows, "xlsx").content))
    assert book.sheetnames == ["outputs", "weighings", "costings", "test"]
    assert book["outputs"]["H2"].value == 3.45
    assert book["outputs"]["E2"].value == "'=1+1"  # no formula
    assert book["weighings"].max_row == 7
    facts = dict(book["test"].iter_rows(min_row=2, values_only=True))
    assert (facts["weight paid for"], facts["cost"]) == (6.17, 46.21)


@pytest.mark.parametrize("piles", [("3.45", "0.80", "0.93", "0.68", "0.22", "0.06"), ("9",)])
def test_a_pdf_is_one_page_with_the_words_of_the_sheet(client, weighed, piles):
    rows = weighed(piles=piles)
    add_note(rows.test, "a" * 8 + "-0000-4000-8000-" + "b" * 12, "Łódka: heavy purge", None)
    answer = get(client, rows, "pdf")
    pdf = pypdf.PdfReader(io.BytesIO(answer.content))
    text = pdf.pages[0].extract_text()
    assert len(pdf.pages) == 1
    assert "cost 46.21" in text
    assert "By-product credit" in text
    assert "Łódka: heavy purge" in text
    assert ("In balance" in text) == (len(piles) > 1)
    assert get(client, rows, "docx").status_code == 404


def test_forty_outputs_are_still_one_page(client, opened, shop):
    rows = opened()
    Output.objects.bulk_create(
        Output(
            test=rows.test,
            position=10 + i,
            name=f"Pile {i}",
            pile="secondary",
            role="secondary",
            retail="5.00",
        )
        for i in range(34)
    )
    rows = load(rows.test.pk)
    for output in rows.outputs:
        Weighing.objects.create(
            key=f"00000000-0000-4000-8000-{output.pk:012}",
            test=rows.test,
            output=output,
            value="0.15",
            unit="lb",
            taken_at=rows.test.started_at,
        )
    assert len(pypdf.PdfReader(io.BytesIO(get(client, rows, "pdf").content)).pages) == 1


# --- out and in ------------------------------------------------------------------------------


def wipe():
    for model in (TakeBack, Note, StepCheck, Weighing, Output, CuttingTest):
        model.objects.all()._raw_delete("default")


@pytest.fixture
def two(weighed, shop):
    """Two tests, one approved with notes, as the shop gives them out."""
    first, second = weighed(), weighed(piles=("3.30", "0.90", "1.00", "0.60", "0.25"))
    approve(first.test.pk, "", shop["bram"].pk)
    add_note(first.test, "00000000-0000-4000-8000-000000000001", "Film loose at one end.", None)
    return [first, second]


def given_out(client):
    return json.loads(client.get(reverse("bench:export", args=[timezone.localdate().year])).content)


def test_out_wiped_and_in_again_is_the_same_to_the_letter(client, two):
    before = given_out(client)
    sheets = [client.get(address("sheet", rows)).content.decode() for rows in two]
    wipe()
    answer = client.post(reverse("bench:files"), {"text": json.dumps(before)})
    assert "2 tests taken in" in answer.content.decode()
    assert given_out(client) == before
    for rows, sheet in zip(two, sheets, strict=True):
        again = client.get(address("sheet", rows)).content.decode()
        assert "Taken in from a file" in again
        figure = sheet.partition("<tfoot>")[2].partition("</tfoot>")[0]
        assert figure in again
    assert CuttingTest.objects.get(number=1).approved_by.username == "bram"


def test_the_same_file_twice_changes_nothing(client, two, django_assert_max_num_queries):
    text = json.dumps(given_out(client))
    with django_assert_max_num_queries(24):
        answer = client.post(reverse("bench:files"), {"text": text})
    assert "0 tests taken in; 2 were here already" in words_of(answer)
    assert CuttingTest.objects.filter(imported_at=None).count() == 2


def test_the_same_test_that_says_otherwise_is_refused_with_the_difference(client, two):
    data = given_out(client)
    data["tests"][0]["outputs"][1]["weighings"][0]["value"] = "0.85"
    data["tests"][1]["piece"]["price"]["amount"] = "7.50"
    answer = client.post(reverse("bench:files"), {"text": json.dumps(data)})
    text = answer.content.decode()
    assert answer.status_code == 422
    assert "$.tests[0].outputs[1].weighings[0].value</b>: 0.80 here, 0.85 in the file" in text
    assert "$.tests[1].piece.price</b>: 7.49 lb here, 7.50 lb in the file" in text


def test_one_fault_takes_nothing_in(two, client):
    data = given_out(client)
    wipe()
    data["tests"][1]["outputs"][0]["role"] = "king"
    with pytest.raises(BadDocument, match=r"\$\.tests\[1\]\.outputs\[0\]\.role"):
        bring_in(data, None)
    assert not CuttingTest.objects.exists()


def test_a_plain_document_of_another_hand_is_taken_in(shop):
    """The worked example: no record, no keys, a count of six in one weighing."""
    assert (bring_in(WORKED, shop["bram"].pk).added, bring_in(WORKED, None).same) == (1, 1)
    test = CuttingTest.objects.get()
    rows = load(test.pk)
    assert (test.piece.key, test.number, test.imported_by) == ("beef-tenderloin", 1, shop["bram"])
    assert [o.pile for o in rows.outputs] == ["lean", "lean", "portions"]
    given = documents([test])[test.pk]
    assert given["outputs"][2]["count"] == 6
    assert differences(given, WORKED, ()) == []


def changed(**changes):
    data = copy.deepcopy(WORKED)
    for path, value in changes.items():
        *way, last = path.split("__")
        holder = data
        for key in way:
            holder = holder.setdefault(key, {}) if not key.isdigit() else holder[int(key)]
        holder[last] = value
    return data


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"piece__name": "Moon", "piece__item_number": "0"}, "“Moon” is no piece of the catalog"),
        ({"piece__species": "pork"}, r"\$\.piece\.species: pork; beef"),
        ({"currency": "EUR"}, "USD is right here"),
        ({"outputs__0__name": "x" * 61}, "61 characters"),
        ({"outputs__0__retail": {"amount": "3", "per": "kg"}}, "prices of several units"),
        ({"outputs__2__weighings": [{"value": "0.3", "unit": "lb"}] * 7}, "6 in 7 weighings"),
        ({"record__number": "1"}, r"\$\.record\.number: '1'"),
        ({"record__cut_on": "soon"}, r"\$\.record\.cut_on: 'soon'"),
        ({"record__notes": "one"}, "no list of short texts"),
        ({"record__checks": [{}]}, "no list of checks"),
        ({"record__approved": {"by": "me"}}, r"\$\.record\.approved: no moment"),
        ({"record__supplier": 5}, r"\$\.record\.supplier: no short text"),
        ({"piece__item_number": "1" * 21}, r"\$\.piece\.item_number: 21 characters"),
        ({"record__approved": {"at": "2026-11-20", "by": "y" * 101}}, r"approved\.by: no short"),
    ],
)
def test_what_the_bench_cannot_keep_is_told_by_its_path(shop, changes, says):
    with pytest.raises(BadDocument, match=says):
        bring_in(changed(**changes), None)
    assert not CuttingTest.objects.exists()


def test_a_name_nobody_here_has_stays_readable(shop, client):
    record = {
        "cutter": "Zed",
        "approved": {"at": "2026-11-20T10:00:00+00:00", "by": "Yan"},
        "checks": [{"text": "Gland out", "by": "Zed"}],
    }
    bring_in(changed(record=record), None)
    test = CuttingTest.objects.get()
    again = documents([test])[test.pk]["record"]
    assert (again["cutter"], again["approved"]["by"]) == ("Zed", "Yan")
    assert again["checks"][0]["text"] == "Gland out"


@pytest.mark.parametrize("text", ["", "{", '{"format": "mindful-tally.cutting-tests"}', "[]"])
def test_a_file_that_is_none_is_refused(client, shop, text):
    answer = client.post(reverse("bench:files"), {"text": text})
    assert answer.status_code == 422
    assert "Nothing was taken in" in answer.content.decode()


# --- what a converted or a strange value does ---


def test_a_division_in_another_unit_is_kept_and_is_no_difference_the_second_time(shop):
    data = copy.deepcopy(WORKED)
    data["outputs"][0]["weighings"][0]["division"] = {"value": "5", "unit": "g"}
    assert bring_in(data, None).added == 1
    division = Weighing.objects.filter(output__position=0).first().division
    assert division == storable(Weight.of("5", "g"), Unit.LB).value
    assert bring_in(data, None).same == 1


@pytest.mark.parametrize("moment", ["9999-12-31T23:30:00", "0001-01-01T00:00:00", "2999-01-01"])
def test_a_moment_of_another_age_is_told(client, shop, moment):
    data = copy.deepcopy(WORKED) | {"record": {"started_at": moment}}
    answer = client.post(reverse("bench:files"), {"text": json.dumps(data)})
    assert answer.status_code == 422
    assert "$.record.started_at" in answer.content.decode()


def test_a_price_set_since_makes_no_difference_to_the_test_itself(weighed):
    rows = weighed()
    out = documents([rows.test])[rows.test.pk]
    save_prices(
        load(rows.test.pk), Wish(shown=price_view(load(rows.test.pk), Wish()).shown), Saving(None)
    )
    assert (
        documents([rows.test])[rows.test.pk]["outputs"][0]["retail"] != out["outputs"][0]["retail"]
    )
    assert bring_in(json.loads(json.dumps(out)), None).same == 1


def test_a_spreadsheet_of_a_sheet_asks_no_more_for_more_weighings(
    client, weighed, django_assert_num_queries
):
    rows = weighed()
    Weighing.objects.filter(test=rows.test).update(taken_by=rows.test.cutter_id)
    with django_assert_num_queries(8):
        assert get(client, rows, "xlsx").status_code == 200


def test_a_test_taken_in_says_who_cut_it_elsewhere_in_every_file(client, shop):
    data = copy.deepcopy(WORKED) | {"record": {"cutter": "Somebody else"}}
    bring_in(data, None)
    rows = load(CuttingTest.objects.get().pk)
    book = openpyxl.load_workbook(io.BytesIO(get(client, rows, "xlsx").content))
    assert dict(book["test"].iter_rows(min_row=2, values_only=True))["cutter"] == "Somebody else"


def test_a_cutter_whose_name_two_people_have_stays_a_name_only(shop):
    Person.objects.create(username="ines-two", first_name=shop["ines"].first_name)
    bring_in(changed(record={"cutter": "Ines"}), None)
    test = CuttingTest.objects.get()
    assert (test.cutter, test.cutter_name) == (None, "Ines")
