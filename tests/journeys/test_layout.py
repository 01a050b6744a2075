"""Where to put the knife: a piece measured, a cut dragged by finger and by keys, the strip."""

import re

import pytest
from playwright.sync_api import expect

from tests.journeys.conftest import tablet, until

pytestmark = pytest.mark.django_db(transaction=True)


def test_a_piece_is_measured_a_cut_dragged_and_everything_follows(browser, live_server, shop):
    with tablet(browser, live_server.url, has_touch=True) as page:
        page.goto("/layout/")
        page.get_by_role("link", name="Rib-eye, boneless").first.tap()
        page.fill("[name=weight]", "12.40")
        page.fill("[name=length]", "14 1/2")
        page.get_by_role("button", name="Lay it out").tap()
        expect(page).to_have_url(re.compile("weight=12.40"))
        marks, money = page.locator("[data-marks]"), page.locator("[data-money]")
        before, brought = marks.inner_text(), float(money.inner_text())
        cut = page.locator(".cut").nth(3)
        box = cut.locator("line").bounding_box()
        page.mouse.move(box["x"], box["y"] + 60)
        page.mouse.down()
        page.mouse.move(box["x"] + 25, box["y"] + 60, steps=4)
        page.mouse.up()
        expect(marks).not_to_have_text(before)
        assert float(money.inner_text()) < brought  # out of its band it counts with the rest
        expect(page.locator(".dots-strip .off")).not_to_have_count(0)
        until(page, "[data-moved]", "Cuts were moved by hand")
        assert "&marks=" in page.locator("[data-strip]").get_attribute("href")
        page.get_by_role("link", name="Put them back").tap()
        expect(marks).to_have_text(before)


def test_a_cut_is_moved_by_keys_and_never_past_its_neighbour(page, shop):
    page.goto("/layout/beef-ribeye/")
    cut = page.locator(".cut").first
    cut.focus()
    place = int(cut.get_attribute("aria-valuenow"))
    page.keyboard.press("ArrowRight")
    expect(cut).to_have_attribute("aria-valuenow", str(place + 1))
    for _ in range(40):
        page.keyboard.press("PageUp")
    following = int(page.locator(".cut").nth(1).get_attribute("aria-valuenow"))
    expect(cut).to_have_attribute("aria-valuenow", str(following - 1))
    with page.expect_download() as strip:
        page.get_by_role("link", name="Print the strip").click()
    assert strip.value.suggested_filename == "strip-beef-ribeye.pdf"


@pytest.mark.parametrize(
    "path", ["/layout/", "/layout/beef-ribeye/", "/layout/beef-rib/", "/layout/small/"]
)
def test_on_a_phone_no_page_is_wider_than_the_glass(browser, live_server, shop, path):
    with tablet(browser, live_server.url, 390, 844) as phone:
        phone.goto(path)
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390
