"""Where to put the knife: a piece measured, a cut dragged by finger and by keys, the strip."""

import re

import pytest
from playwright.sync_api import expect

from tests.journeys.conftest import tablet, until, weigh
from tests.journeys.test_still import WHERE

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.mark.long
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
        assert float(money.inner_text()) == brought  # outside its limits it still sells by weight
        expect(page.locator(".dots-strip .off")).not_to_have_count(0)
        until(page, "[data-moved]", "Cuts were moved by hand")
        assert "&marks=" in page.locator("[data-strip]").first.get_attribute("href")
        page.get_by_role("link", name="Put them back").tap()
        expect(marks).to_have_text(before)


@pytest.mark.long
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


@pytest.mark.long
def test_five_portions_are_cut_by_the_layout_and_the_marks_move(browser, live_server, shop, hand):
    """By touch alone: lay it out, open it, cut what stands beside the scale; the second tablet sees
    the same; one is taken back."""
    with tablet(browser, live_server.url, has_touch=True) as page:
        page.goto("/layout/beef-ribeye/?weight=12.40&unit=lb&plan=steaks-one-inch&aim=give_away")
        page.get_by_role("link", name="Cut by these marks").tap()
        page.fill("[name=weight]", "14.50")
        page.fill("[name=price]", "9.99")
        page.get_by_role("button", name="Open the piece").first.tap()
        marks = page.locator("#next-cut .mark")
        expect(page.locator("#next-cut")).to_contain_text("Rib-eye steak, about")
        before = [mark.get_attribute("data-mark") for mark in marks.all()]
        stood = page.evaluate(WHERE)
        for number, pounds in enumerate((0.92, 0.93, 0.92, 0.93, 0.92), start=1):
            weigh(page, hand, pounds)
            said = "first came" if number == 1 else f"first {number} came"
            until(page, ".next-why", said)
            assert stood.items() <= page.evaluate(WHERE).items()
        expect(page.locator(".next-why")).to_contain_text("move closer")
        after = [mark.get_attribute("data-mark") for mark in marks.all()]
        assert 0 < len(after) < len(before)
        assert not set(after) <= set(before)
        with tablet(browser, live_server.url) as other:
            other.goto(page.url)
            thick = page.locator(".next-thick b").inner_text()
            expect(other.locator(".next-thick b")).to_have_text(thick)
            page.locator("#take-back").tap()
            until(page, ".next-why", "first 4 came")
            until(other, ".next-why", "first 4 came")


@pytest.mark.long
@pytest.mark.parametrize(
    "path", ["/layout/", "/layout/beef-ribeye/", "/layout/beef-rib/?beside=2", "/layout/small/"]
)
def test_on_a_phone_no_page_is_wider_than_the_glass(browser, live_server, shop, path):
    with tablet(browser, live_server.url, 390, 844) as phone:
        phone.goto(path)
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390
