"""Receive by scanner, find the leaker, open the right bag; the wall; a phone."""

import re
from datetime import timedelta
from random import Random

import pytest
from django.utils import timezone
from playwright.sync_api import expect

from rooms.bench.models import CuttingTest
from rooms.cooler.models import Bag
from rooms.demo.cooler import make_codes, make_cooler, make_readings
from tests.journeys.conftest import tablet

pytestmark = pytest.mark.django_db(transaction=True)


def receive(page):
    """A delivery with two cases from the simulated scanner and one nobody knows."""
    page.goto("/cooler/receive/")
    page.fill("[name=supplier]", "Skerry Point Packing")
    page.click("text=Start, then add the bags")
    page.fill("[name=price]", "11.40")
    page.focus("[name=lines]")
    for name in ("tenderloin case", "rib-eye case", "unknown case"):
        page.click(f"button:text-is('{name}')")
    page.click("text=Add them")
    expect(page.locator("[role=status]")).to_contain_text("3 added")


@pytest.mark.long
def test_receive_by_scanner_find_the_leaker_open_the_right_bag(page, hand, shop):
    make_codes()
    receive(page)
    expect(page.locator(".name-it")).to_contain_text("95011015300991")
    page.select_option(".name-it select", "beef-knuckle")
    page.click("text=This is it")
    expect(page.locator("tbody")).to_contain_text("Knuckle")
    page.fill("[name=celsius]", "43")
    page.select_option("[name=degrees]", "F")
    page.click("button:text-is('Close the delivery')")
    expect(page.locator(".told[role=alert]")).to_contain_text("above 5 °C")
    page.fill("[name=celsius]", "2.4")
    page.select_option("[name=degrees]", "C")
    page.fill("[name=freight]", "9.00")
    page.click("button:text-is('Close the delivery')")
    expect(page.locator("h1")).to_contain_text("closed")

    page.click("tbody >> text=Rib-eye")
    page.click("button:text-is('leaking')")
    expect(page.locator(".why")).to_contain_text("leaking: cut it today")
    page.goto("/")
    first = page.locator(".today-bags li").first
    expect(first).to_contain_text("Rib-eye")
    expect(first).to_contain_text("leaking: cut it today")
    first.locator("text=Open").click()
    expect(page.locator(".told")).to_contain_text("days since packing")
    page.click("button:text-is('Open the piece')")
    expect(page.locator("#rail")).to_contain_text("still on the block")
    test = CuttingTest.objects.get()
    bag = Bag.objects.get(piece__key="beef-ribeye")
    assert (test.weight_value, test.supplier) == (bag.weight_value, "Skerry Point Packing")
    assert bag.state == "opened"
    page.goto("/cooler/")
    expect(page.locator("h1")).to_contain_text("2 bags in the cooler")


@pytest.mark.long
def test_several_bags_become_one_test_and_part_goes_back(page, hand, shop):
    make_cooler(timezone.now() - timedelta(minutes=5), shop, Random(3))
    page.goto("/cooler/")
    names = page.locator(".bag .what a").all_inner_texts()
    twice = next(name for name in names if names.count(name) > 1)
    for row in page.locator(f".bag:has(.what a:text-is('{twice}'))").all()[:2]:
        row.locator("[name=bag]").check()
    page.click("text=Open the chosen bags as one test")
    expect(page.locator(".told")).to_contain_text("2 bags of the cooler")
    page.click("button:text-is('Open the piece')")
    page.click("summary:text-is('Part goes back into the cooler')")
    page.fill("#back-weight", "1.00")
    page.click("button:text-is('Put it back')")
    page.select_option("[name=bag]", index=1)  # two bags are open: which one is asked
    page.click("button:text-is('Put it back')")
    expect(page.locator(".notes")).to_contain_text("1.00 lb packed again, put back.")
    assert Bag.objects.filter(part_of__isnull=False).count() == 1


@pytest.mark.long
def test_the_chart_is_drawn_and_the_wall_refreshes_itself(page, shop):
    make_readings(timezone.now())
    page.goto("/cooler/temperature/?for=week")
    expect(page.locator("#chart canvas")).to_be_visible()
    expect(page.locator("table.figures")).to_contain_text(re.compile(r"(?:[6-9]|1\d)\.\d"))
    page.goto("/?wall=1")
    expect(page.locator("#lines")).to_have_attribute("hx-trigger", "every 60s")
    with page.expect_response("**/today/lines/"):
        page.evaluate("htmx.ajax('GET', '/today/lines/', {target: '#lines', swap: 'outerHTML'})")
    expect(page.locator("#lines h1")).to_be_visible()


@pytest.mark.long
def test_on_a_phone_no_page_of_the_cooler_is_wider_than_the_glass(browser, live_server, shop):
    make_cooler(timezone.now(), shop, Random(3))
    with tablet(browser, live_server.url, width=390, height=844) as phone:
        for path in [
            "/",
            "/planner/wanted/",
            "/cooler/",
            "/cooler/receive/",
            "/cooler/calendar/",
            "/cooler/temperature/",
            "/cooler/windows/",
        ]:
            phone.goto(path)
            assert phone.evaluate("document.documentElement.scrollWidth") <= 390, path
