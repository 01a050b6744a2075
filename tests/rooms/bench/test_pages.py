"""The bench's pages: what they show, what they refuse, how many queries they take."""

import json
import uuid
from datetime import datetime, timedelta
from decimal import Decimal
from zoneinfo import ZoneInfo

import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.costing.schools import CostingSchool
from cutting.costing.sheet import compute
from cutting.quantities import Weight
from formats.reading import read_document
from mindful_tally.cli import main
from rooms.bench.actions.weighings import take_weight
from rooms.bench.models import CuttingTest, Note, Output, Unplaced, Weighing
from rooms.bench.queries.rows import load
from rooms.catalog.models import Plan
from rooms.pricebook.models import Price, Product
from tests.cases import some_often
from tests.conftest import address, at_tablet, capture, decide, finish, words_of

pytestmark = pytest.mark.django_db
MOST_QUERIES = 15
NOBODY = uuid.UUID(int=1)


def fields(output, value="0.44", **more):
    return {"key": str(uuid.uuid4()), "output": output.pk, "value": value, "unit": "lb", **more}


def opening(**more):
    plan = more.pop("plan")
    return {
        "key": str(uuid.uuid4()),
        "plan": plan.pk,
        "weight": "6.17",
        "unit": "lb",
        "price": "7.49",
        **more,
    }


# --- opening a piece ---


def test_the_start_page_of_an_empty_shop_says_what_to_do_first(client, shop):
    page = client.get("/bench/").content.decode()
    assert "Nothing is open. Choose a piece to start." in page
    assert "Tenderloin, side muscle on, defatted" in page


def test_opening_a_piece_leads_to_the_block(client, shop, opened):
    plan = opened().test.plan
    answer = client.post(
        reverse("bench:open", args=["beef-tenderloin"]),
        opening(plan=plan, supplier="Skerry Point", opened="6.10"),
    )
    test = CuttingTest.objects.get(number=2)
    assert answer.status_code == 302
    assert answer.url == reverse("bench:test", args=[test.pk])
    assert (str(test.weight_value), str(test.opened_value)) == ("6.17", "6.10")


@pytest.mark.parametrize(
    ("wrong", "says"),
    some_often(
        [
            ({"weight": "0"}, "0 is not right here; more than 0 is right."),
            ({"weight": "six"}, "“six” is not a plain number; write it like 6.17."),
            ({"weight": ""}, "This field is required."),
            ({"weight": "99999"}, "at most 10000 is right"),
            ({"price": "0"}, "more than 0 is right"),
            ({"price": "7,49"}, "write it like 7.49"),
            ({"opened": "-1"}, "more than 0 is right"),
            ({"freight": "-1"}, "0 or more is right"),
            ({"discount": "99"}, "99 is more than the piece costs; at most 46.21 is right."),
            ({"packed_on": "2999-01-01"}, "is still to come"),
            ({"packed_on": "soon"}, "Enter a valid date."),
            ({"plan": "999"}, "Select a valid choice"),
            ({"unit": "stone"}, "Select a valid choice"),
        ]
    ),
)
def test_a_wrong_opening_says_so_at_the_field_and_keeps_what_was_typed(
    client, shop, opened, wrong, says
):
    plan = opened().test.plan
    data = opening(plan=plan, supplier="Skerry & Sons") | wrong
    answer = client.post(reverse("bench:open", args=["beef-tenderloin"]), data)
    page = answer.content.decode()
    assert answer.status_code == 422
    assert says in page
    assert "Skerry &amp; Sons" in page
    assert CuttingTest.objects.count() == 1


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ({"price": "", "total": "46.21"}, None),
        (
            {"price": "7.49", "total": "46.21"},
            "A unit price stands beside it; one of the two is right",
        ),
        ({"price": "", "total": ""}, "It is empty; a price or the total paid is right"),
        ({"price": "", "total": "0"}, "more than 0 is right"),
    ],
)
def test_the_total_may_be_typed_in_place_of_a_unit_price(client, shop, opened, typed, says):
    data = opening(plan=opened().test.plan) | typed
    answer = client.post(reverse("bench:open", args=["beef-tenderloin"]), data)
    if says is not None:
        assert answer.status_code == 422
        assert says in answer.content.decode()
        return
    test = CuttingTest.objects.get(number=2)
    assert answer.status_code == 302
    assert round(test.price_amount * test.weight_value, 2) == Decimal("46.21")


# --- the block ---


def test_a_capture_answers_with_the_block_as_it_stands(client, opened):
    rows = opened()
    answer = client.post(address("capture", rows), fields(rows.outputs[1], "0.58"))
    page = answer.content.decode()
    assert answer.status_code == 200
    assert 'id="rail"' in page
    assert "5.59 lb still on the block." in page
    assert "0.58 lb" in page


def test_a_capture_takes_at_most_ten_queries_and_one_transaction(
    client, opened, django_assert_max_num_queries
):
    rows = opened()
    for output in rows.outputs:
        take_weight(rows.test.pk, capture(output, "0.30"), None)
    with django_assert_max_num_queries(10) as found:  # one of them: the settings
        client.post(address("capture", rows), fields(rows.outputs[0]))
    writes = [q["sql"] for q in found.captured_queries if q["sql"].startswith(("INSERT", "UPDATE"))]
    assert [q.split()[1].strip('"') for q in writes] == ["INTO", "INTO", "bench_cuttingtest"]


@pytest.mark.parametrize(("value", "status"), [("0", 422), ("abc", 422), ("31", 422)])
def test_a_refused_capture_says_why_by_script_and_by_plain_form(client, opened, value, status):
    rows = opened()
    by_script = client.post(address("capture", rows), fields(rows.outputs[0], value))
    by_form = client.post(address("take", rows), fields(rows.outputs[0], value, typed="1"))
    assert by_script.status_code == by_form.status_code == status
    assert "data-refused" in by_script.content.decode()
    page = by_form.content.decode()
    assert "Weight: " in page
    assert f'value="{value}"' in page  # what was typed stays
    assert not Weighing.objects.exists()


def test_a_plain_form_records_once_and_comes_back_to_the_block(client, opened):
    rows = opened()
    data = fields(rows.outputs[0], typed="1")
    for _ in range(2):
        answer = client.post(address("take", rows), data)
        assert answer.status_code == 302
    assert Weighing.objects.get().is_typed
    assert "portion 2" in words_of(client.get(answer.url))


def test_a_capture_on_a_finished_test_is_taken_and_not_placed(client, weighed):
    rows = weighed()
    before = Weighing.objects.count()
    sent = fields(rows.outputs[0])
    for _ in range(2):
        answer = client.post(address("capture", rows), sent)
        assert answer.status_code == 200
        assert "0.44 lb recorded, not placed: test 1 was finished" in words_of(answer)
    assert Weighing.objects.count() == before
    assert str(Unplaced.objects.get().key) == sent["key"]


def test_finishing_with_a_stale_page_shows_the_newer_state(client, opened):
    rows = opened()
    stale = rows.revision
    now = take_weight(rows.test.pk, capture(rows.outputs[0], "6.00"), None).revision
    answer = client.post(address("finish", rows), {"seen": stale})
    assert answer.status_code == 409
    assert "Look again, then finish." in answer.content.decode()
    assert load(rows.test.pk).test.is_open
    left = client.post(address("finish", rows), {"seen": now})
    assert left.status_code == 409
    told = left.context["unfinished"]
    assert (told.unweighed, len(told.empty)) == ("0.17", 5)
    agreed = {"seen": now, "unweighed": "0.17", "none": [one.pk for one in told.empty]}
    wrong = client.post(address("finish", rows), agreed | {"unweighed": "0.10"})
    assert wrong.status_code == 409
    assert client.post(address("finish", rows), agreed).url == address("sheet", rows)


def test_finishing_an_empty_test_is_refused(client, opened):
    rows = opened()
    answer = client.post(address("finish", rows), {"seen": "0"})
    assert answer.status_code == 422
    assert "nothing has been weighed yet" in answer.content.decode()


def test_taking_back_by_script_and_by_form(client, opened):
    rows = opened()
    rows = take_weight(rows.test.pk, capture(rows.outputs[0], "0.44"), None)
    rows = take_weight(rows.test.pk, capture(rows.outputs[0], "0.45"), None)
    one, two = (w.pk for w in rows.weighings)
    assert client.post(address("recall", rows), {"weighing": two}).status_code == 200
    assert client.post(address("take_back", rows), {"weighing": one}).status_code == 302
    assert load(rows.test.pk).standing == []
    assert client.post(address("recall", rows), {"weighing": "no"}).status_code == 422
    assert client.post(address("take_back", rows), {"weighing": "9"}).status_code == 422


def test_an_output_named_twice_is_refused_and_the_name_stays_typed(client, opened):
    rows = opened()
    data = {"name": "TIPS", "pile": "secondary"}
    answer = client.post(address("another_pile", rows), data)
    page = answer.content.decode()
    assert answer.status_code == 422
    assert "already a pile named TIPS" in page
    assert 'value="TIPS"' in page
    assert client.post(address("another_pile", rows), {**data, "name": "Ends"}).status_code == 302


def test_notes_are_shown_as_written_and_markup_stays_text(client, opened):
    rows = opened()
    data = {"key": str(uuid.uuid4()), "text": "<script>alert(1)</script> heavy purge"}
    client.post(address("note", rows), data)
    page = client.get(address("test", rows)).content.decode()
    assert "&lt;script&gt;alert(1)&lt;/script&gt; heavy purge" in page
    assert client.post(address("note", rows), {"text": ""}).status_code == 422
    assert Note.objects.count() == 1


def test_who_cuts_is_recorded_with_the_weighing(client, opened, shop):
    rows = opened()
    client.cookies.load(at_tablet("tove"))
    client.post(address("capture", rows), fields(rows.outputs[0]))
    assert Weighing.objects.get().taken_by == shop["tove"]


# --- the sheet ---


def test_the_sheet_shows_four_schools_and_a_table_that_foots(client, weighed):
    rows = weighed()
    page = client.get(address("sheet", rows)).content.decode()
    for name in ("Flat true cost", "By-product credit", "Sales-value share", "Replacement"):
        assert name in page
    assert "In balance: 0.03 lb short" in page
    for school in ("flat", "credit", "replacement", "nonsense"):
        assert client.get(address("sheet", rows), {"school": school}).status_code == 200


def test_a_sheet_opens_on_the_credit_where_by_products_have_values_and_no_retail(
    client, shop, opened
):
    Price.objects.all().delete()
    Product.objects.update(transfer="1.20")
    rows = opened()
    for output, value in zip(rows.outputs, ("3.45", "0.80", "0.93", "0.68"), strict=False):
        rows = take_weight(rows.test.pk, capture(output, value, portions="8"), None)
    finish(rows.test.pk, str(rows.revision))

    def opens_on():
        return client.get(address("sheet", rows)).context["view"].school

    assert opens_on() is CostingSchool.CREDIT
    asked = client.get(address("sheet", rows), {"school": "flat"})
    assert asked.context["view"].school is CostingSchool.FLAT
    tips = Product.objects.get(cut__key="beef-filet-tips")
    Output.objects.filter(test=rows.test, cut=tips.cut).update(retail="9.99")
    assert opens_on() is not CostingSchool.CREDIT


def test_a_gain_is_told_as_a_gain_and_waste_is_never_below_nothing(client, weighed):
    """0.01 lb more than was paid for, as the scale rounds."""
    page = words_of(client.get(address("sheet", weighed(piles=("4.25", "0.80", "0.83", "0.30")))))
    assert "waste 0.0 %, gain 0.2 %" in page


@pytest.mark.parametrize(
    ("piles", "says"),
    [
        (("6.12",), "nothing unaccounted"),
        (("3.00",), "Out of balance: 3.17 lb missing"),
        (("6.00", "1.00"), "Out of balance: 0.83 lb too much"),
        (("0", "0", "0", "0", "6.10"), "–"),
    ],
)
def test_a_sheet_that_is_thin_or_out_of_balance_still_stands(client, weighed, piles, says):
    rows = weighed(piles=piles)
    answer = client.get(address("sheet", rows))
    assert answer.status_code == 200
    assert says.replace("nothing unaccounted", "In balance") in answer.content.decode()


def test_the_sheet_of_an_open_test_shows_how_it_stands_even_empty(client, opened):
    page = client.get(address("sheet", opened())).content.decode()
    assert "Still open" in page
    assert "Set prices" not in page


def test_approval_out_of_balance_asks_for_the_reason_and_keeps_it(client, weighed):
    rows = weighed(piles=("3.00",))
    seen = {"seen": rows.revision}
    assert client.post(address("approve", rows), seen | {"reason": ""}).status_code == 422
    assert (
        client.post(address("approve", rows), {"seen": "0", "reason": "Fell."}).status_code == 409
    )
    said = seen | {"reason": "The tub fell."}
    assert client.post(address("approve", rows), said).status_code == 302
    assert "Reason: The tub fell." in words_of(client.get(address("sheet", rows)))


def test_back_to_the_block_from_the_sheet_until_it_is_approved(client, weighed):
    rows = weighed()
    assert client.post(address("reopen", rows)).url == address("test", rows)
    seen = load(rows.test.pk).revision
    client.post(address("finish", rows), {"seen": seen})
    client.post(address("approve", rows), {"seen": load(rows.test.pk).revision})
    answer = client.post(address("reopen", rows))
    assert answer.status_code == 409
    assert "it stays as it is" in answer.content.decode()


def test_with_an_own_weight_the_sheet_also_shows_shares_of_it(client, weighed):
    rows = weighed(opened=Weight.of("6.14", "lb"))
    page = client.get(address("sheet", rows)).content.decode()
    assert "of opened %" in page
    assert "56.2" in page  # 3.45 of 6.14
    assert "purge and short weight" not in page  # purge was weighed, so it wins


def test_the_document_is_what_compute_reads_and_gives_the_sheets_figures(
    client, weighed, tmp_path, capsys
):
    rows = weighed()
    answer = client.get(address("document", rows))
    assert f"cutting-test-{rows.test.number}.json" in answer["Content-Disposition"]
    read = read_document(json.loads(answer.content))
    assert read.id == rows.test.pk
    assert compute(read.test) == compute(rows.weighed)
    file = tmp_path / "test.json"
    file.write_bytes(answer.content)
    assert main(["compute", str(file)]) == 0
    assert json.loads(capsys.readouterr().out)["cost"] == "46.2133"


# --- every page ---


def test_every_page_takes_few_queries_and_the_same_number_with_many_tests(
    client, weighed, opened, django_assert_max_num_queries
):
    done, running = weighed(), opened()
    take_weight(running.test.pk, capture(running.outputs[0], "0.44"), None)
    pages = [
        "/people/",
        "/bench/",
        "/bench/?before=900",
        reverse("bench:open", args=["beef-tenderloin"]),
        address("test", running),
        address("sheet", done),
        address("document", done),
        address("set_from_test", done, "pricing"),
        address("proposal", done, "pricing"),
        reverse("pricing:prices"),
    ]

    def counts():
        result = {}
        for page in pages:
            with django_assert_max_num_queries(MOST_QUERIES) as found:
                assert client.get(page).status_code == 200, page
            result[page] = len(found)
        return result

    few = counts()
    now = timezone.now()
    template = CuttingTest.objects.get(pk=done.test.pk)
    many = []
    for number in range(100, 130):
        template.pk, template.number = uuid.uuid4(), number
        template.finished_at = now - timedelta(hours=number)
        many.append(
            CuttingTest(
                **{
                    f.attname: getattr(template, f.attname)
                    for f in CuttingTest._meta.concrete_fields
                }
            )
        )
    CuttingTest.objects.bulk_create(many)
    assert counts() == few


@pytest.mark.parametrize(
    "path",
    [
        "/nowhere/",
        f"/sheet/{NOBODY}/",
        "/open/none/",
        f"/bench/{NOBODY}/",
        f"/counter/test/{NOBODY}/",
    ],
)
def test_a_page_that_is_not_there_says_so_plainly(client, shop, path):
    answer = client.get(path)
    assert answer.status_code == 404
    assert "There is no such page." in answer.content.decode()


def test_a_post_without_its_token_changes_nothing(opened):
    from django.test import Client

    rows = opened()
    strict = Client(enforce_csrf_checks=True)
    answer = strict.post(address("capture", rows), fields(rows.outputs[0]))
    assert answer.status_code == 403
    assert "Nothing was changed." in answer.content.decode()
    assert not Weighing.objects.exists()


def test_the_theme_is_kept_in_a_cookie(client, shop):
    client.post(reverse("theme"), {"theme": "dark", "back": "/"})
    assert 'data-bs-theme="dark"' in client.get("/").content.decode()
    client.post(reverse("theme"), {"theme": "pink"})
    assert 'data-bs-theme="dark"' in client.get("/").content.decode()


@pytest.mark.parametrize("zone", ["Pacific/Kiritimati", "Pacific/Auckland", "Pacific/Honolulu"])
def test_meat_packed_today_is_of_the_shops_own_day(client, shop, zone):
    decide(time_zone=zone)
    today = datetime.now(ZoneInfo(zone)).date()
    plan = Plan.objects.filter(piece__key="beef-tenderloin").first()
    at = reverse("bench:open", args=["beef-tenderloin"])
    late = client.post(at, opening(plan=plan, packed_on=today + timedelta(days=1)))
    assert "is still to come" in words_of(late)
    answer = client.post(at, opening(plan=plan, packed_on=today, young_reason="the case is empty"))
    assert answer.status_code == 302
