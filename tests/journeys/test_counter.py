"""Building prices for a clod, an invoice that moves, the shelf list, out and in again."""

import io
import json
import re

import pypdf
import pytest
from django.urls import reverse
from playwright.sync_api import expect

from rooms.bench.actions.finishing import approve
from rooms.bench.actions.weighings import take_weight
from rooms.bench.models import CuttingTest, Output, Weighing
from rooms.bench.queries.rows import load
from rooms.pricebook.models import Price, Version
from rooms.pricing.actions.save import Saving, save_prices
from rooms.pricing.queries.building import price_view
from rooms.pricing.queries.wishes import Wish
from tests.conftest import capture, finish
from tests.journeys.conftest import tablet

pytestmark = pytest.mark.django_db(transaction=True)
PILES = ("2.40", "0.60", "3.50", "3.20", "3.70", "0.80", "2.40", "1.45", "0.70")


@pytest.fixture
def clod(opened, shop):
    """Two clods weighed out by one plan, the first one approved."""
    found = []
    for more in ("0.20", "0.25"):
        rows = opened("beef-shoulder-clod", "19.00", "4.10")
        for output, weight in zip(rows.outputs, (*PILES, more), strict=False):
            rows = take_weight(rows.test.pk, capture(output, weight, portions="6"), None)
        finish(rows.test.pk, str(rows.revision))
        found.append(load(rows.test.pk))
    approve(found[0].test.pk, "looked at", shop["bram"].pk)
    return found[1]


def price_of(page, name):
    return page.get_by_label(re.compile(f"^Price of {name} a"))


@pytest.mark.long
def test_prices_are_built_for_a_clod(page, clod):
    page.goto(reverse("bench:sheet", args=[clod.test.pk]))
    page.click("text=Set prices")
    expect(page.locator(".rests")).to_contain_text("rest on 2 tests")
    margin = page.locator("[data-live] [data-of=whole]")
    before, ranch = margin.inner_text(), price_of(page, "Ranch steak").input_value()
    slider = page.get_by_label("Drag the price of Ranch steak")
    slider.focus()
    for _ in range(6):
        slider.press("ArrowRight")
    expect(margin).not_to_have_text(before)  # the piece follows the hand
    dragged = price_of(page, "Ranch steak").input_value()
    assert float(dragged) > float(ranch)
    moved = margin.inner_text()
    expect(page.get_by_label("Lock the price of Ranch steak")).to_be_checked()
    expect(margin).to_have_text(moved)  # the server says the same
    stew = price_of(page, "Stew").input_value()
    page.click("text=Solve for the target")
    expect(price_of(page, "Stew")).not_to_have_value(stew)
    expect(price_of(page, "Ranch steak")).to_have_value(dragged)
    page.locator("details[data-keeps] summary").first.click()
    expect(page.locator(".wishes").first).to_contain_text("exact price = rung × factor")
    page.fill("#why", "clod is dearer")
    page.click("text=Save these prices")
    expect(page.locator("[role=status]").first).to_contain_text("Saved")
    page.goto("/book/")
    expect(page.locator("tbody tr").first).to_contain_text("clod is dearer")
    assert Price.objects.current().filter(amount=dragged).exists()


@pytest.mark.long
def test_what_is_typed_while_figures_come_is_kept(page, clod):
    page.goto(reverse("pricing:set_from_test", args=[clod.test.pk]))
    waiting = []

    def hold(route):
        waiting.append(route)

    page.route("**/proposal/**", hold, times=1)
    price_of(page, "Ranch steak").fill("9.89")
    price_of(page, "Stew").focus()
    expect(page.locator(".htmx-request")).to_have_count(1)
    price_of(page, "Stew").fill("7.79")
    with page.expect_response("**/proposal/**"):
        waiting[0].continue_()
    expect(page.locator(".htmx-request")).to_have_count(0)
    expect(price_of(page, "Stew")).to_have_value("7.79")
    page.keyboard.press("Tab")
    expect(page.get_by_label("Lock the price of Stew")).to_be_checked()
    expect(page.get_by_label("Lock the price of Ranch steak")).to_be_checked()
    expect(price_of(page, "Ranch steak")).to_have_value("9.89")


@pytest.mark.long
def test_an_invoice_moves_and_half_is_accepted_by_keyboard(page, clod):
    save_prices(clod, Wish(shown=price_view(clod, Wish()).shown), Saving(None))
    page.goto("/counter/invoices/")
    page.get_by_label("What Shoulder clod costs now").fill("4.95")
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_have_text("Review of prices")
    boxes = page.get_by_role("checkbox")
    count = boxes.count()
    assert count >= 6
    half = count // 2
    for i in range(half):
        boxes.nth(i).focus()
        page.keyboard.press("Space")
    accept = page.get_by_role("button", name="Put the ticked prices in the book")
    accept.focus()
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_contain_text("of the price book")
    version = Version.objects.latest("number")
    assert (version.kind, version.prices.count()) == ("invoice", half)
    expect(page.locator("table tbody tr")).to_have_count(half)
    page.click("text=Take this version back")
    expect(page.locator("h1")).to_contain_text(f"Version {version.number + 1}")


@pytest.mark.long
def test_an_ad_and_what_to_buy_are_worked_out_by_keyboard(page, clod):
    page.goto("/counter/ad/")
    page.get_by_label("Ad item", exact=True).select_option(label="Stewing beef, beef")
    for label, value in (
        ("Price in the ad week, row 0", "4.99"),
        ("Cost, row 0", "4.60"),
        ("Sold in a usual week, row 0", "40"),
        ("Sold in the ad week, row 0", "200"),
        ("Goal, % of sales", "25"),
    ):
        page.get_by_label(label, exact=True).fill(value)
    page.keyboard.press("Enter")
    expect(page.locator(".whole")).to_contain_text("600.00")  # (7.99 − 4.99) × 200 given away
    expect(page.locator("#ad-chart canvas")).to_be_visible()
    expect(page.locator(".answer")).to_contain_text("as they are, and 25.0 % is the goal")
    page.goto("/planner/buy/")
    for row, values in enumerate((("Whole", "4.10", "60"), ("Split", "5.20", "80"))):
        for label, value in zip(("Name", "Price", "Ready"), values, strict=True):
            page.get_by_label(f"{label}, row {row}").fill(value)
    page.keyboard.press("Enter")
    expect(page.locator(".answer")).to_contain_text("Split costs least ready: 6.50 a lb")
    expect(page.locator(".bars rect.bar")).to_have_count(2)


@pytest.mark.long
def test_the_shelf_list_is_printed_and_fits_a_phone(page, browser, live_server, shop):
    page.goto("/book/shelf/")
    page.emulate_media(media="print")
    expect(page.locator("nav.doors-row")).to_be_hidden()
    expect(page.locator("main")).to_contain_text("Flat iron steak")
    paper = pypdf.PdfReader(io.BytesIO(page.pdf(format="Letter")))
    assert len(paper.pages) <= 3  # some sixty products a sheet
    assert "Flat iron steak" in paper.pages[0].extract_text()
    with tablet(browser, live_server.url, 390, 844) as phone:
        for address in (
            "/book/shelf/",
            "/book/",
            "/book/products/",
            "/counter/ad/",
            "/planner/buy/",
            "/counter/invoices/",
        ):
            phone.goto(address)
            assert phone.evaluate("document.documentElement.scrollWidth") <= 390, address


@pytest.mark.long
def test_tests_go_out_are_wiped_and_come_in_the_same(page, clod, tmp_path):
    page.goto("/bench/")
    page.click("text=Tests out and in")
    with page.expect_download() as given:
        page.click("text=All of")
    path = tmp_path / "tests.json"
    given.value.save_as(path)
    first = json.loads(path.read_text())
    assert len(first["tests"]) == 2
    for model in (Weighing, Output, CuttingTest):
        model.objects.all()._raw_delete("default")
    page.goto("/tests/")
    page.set_input_files("#file", path)
    page.click("text=Take the tests in")
    expect(page.locator("[role=status]")).to_contain_text("2 tests taken in")
    with page.expect_download() as again:
        page.click("text=All of")
    again.value.save_as(path)
    assert json.loads(path.read_text()) == first
