"""Morning to the block: the day planned by the real solver, a bag pinned, a cutter ill, a job begun."""

from decimal import Decimal
from pathlib import Path

import pytest
from playwright.sync_api import expect

from rooms.demand.actions.want import want
from rooms.pricebook.models import Product
from tests.journeys.conftest import tablet, until

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def stocked(fill):
    return fill(
        ("beef-shoulder-clod", 20, "19.00"),
        ("beef-shoulder-clod", 21, "18.40"),
        ("beef-tenderloin", 22, "6.17"),
        price="4.10",
    )


@pytest.mark.long
def test_from_six_in_the_morning_to_the_block_in_ten_touches(
    browser, live_server, shop, stocked, solver
):
    with tablet(browser, live_server.url, has_touch=True) as page:
        page.goto("/")
        page.get_by_role("link", name="Planner").tap()
        page.get_by_role("button", name="Plan the day").tap()
        expect(page.locator(".plan-head")).to_contain_text("of 3 bags")
        until(page, "#worth", "hands bring")
        until(page, "#worth", "9 times in 10 between")
        page.get_by_role("button", name="Give to the block").tap()
        expect(page.locator(".plan-head")).to_contain_text("given to the block")
        page.goto("/")
        expect(page.locator("#given")).to_contain_text("The plan")
        page.goto("/planner/")
        page.locator(".lanes a").first.tap()
        page.get_by_role("button", name="Open the piece").first.tap()
        expect(page.locator("#rail")).to_contain_text("still on the block")


@pytest.mark.long
def test_a_bag_is_pinned_and_then_one_cutter_is_ill(browser, live_server, shop, stocked, solver):
    with tablet(browser, live_server.url, has_touch=True) as page:
        page.goto("/planner/")
        page.get_by_role("button", name="Plan the day").tap()
        page.get_by_text("Whoever knows better").tap()
        page.locator(f"[name=pin-{stocked[0].pk}]").select_option(label="not today")
        page.get_by_role("button", name="Plan it again").tap()
        expect(page.locator(".totals")).to_contain_text("than the plan before")
        expect(page.locator(".plan-head")).to_contain_text("of 2 bags")
        expect(page.locator(".lanes .piece", has_text="Ines")).to_have_count(1)
        page.get_by_label("Ines, hours").fill("")
        page.get_by_label("Bram, hours").fill("2")
        page.get_by_role("button", name="Plan it again").tap()
        expect(page.locator(".lanes .piece", has_text="Ines")).to_have_count(0)
        expect(page.locator(".lanes .piece", has_text="Bram")).to_have_count(1)


@pytest.mark.long
def test_the_order_is_worked_out_sent_and_taken_along_before_the_ferry(
    browser, live_server, shop, stocked, solver
):
    for key in ("beef-flat-iron", "beef-ranch-steak", "beef-shoulder-steak", "beef-ground"):
        for weekday in range(7):
            want(Product.objects.get(cut__key=key), weekday, Decimal(2), Decimal(9))
    with tablet(browser, live_server.url, has_touch=True) as page:
        page.goto("/planner/")
        page.get_by_role("link", name="The next order").tap()
        page.get_by_role("button", name="Work it out").tap()
        expect(page.locator(".plan")).to_contain_text("Shoulder clod")
        with page.expect_download() as file:
            page.get_by_role("link", name="CSV for the supplier").tap()
        assert "Shoulder clod" in Path(file.value.path()).read_text()
        page.get_by_role("button", name="It is sent").tap()
        expect(page.locator(".plan-head")).to_contain_text("sent at")
        pieces = page.locator(".plan table").first.locator("tbody tr")
        before = pieces.first.inner_text()
        page.get_by_role("button", name="Work it out again").tap()
        expect(page.locator(".plan-head")).not_to_contain_text("sent at")
        assert not pieces.count() or pieces.first.inner_text() != before


@pytest.mark.long
def test_the_day_fits_a_phone(browser, live_server, shop, stocked, solver):
    with tablet(browser, live_server.url, 390, 844) as phone:
        phone.goto("/planner/")
        phone.get_by_role("button", name="Plan the day").click()
        expect(phone.locator(".plan-head")).to_contain_text("bags")
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390
        for path in ("ways/beef-shoulder-clod/", "week/", "sales/", "wanted/", "order/", "demand/"):
            phone.goto(f"/planner/{path}")
            assert phone.evaluate("document.documentElement.scrollWidth") <= 390, path
