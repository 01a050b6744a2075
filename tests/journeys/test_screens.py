"""What a hand needs is on the glass: two touches, no scrolling at the block, prices on a phone."""

import re

import pytest
from django.urls import reverse
from playwright.sync_api import expect

from rooms.bench.actions.piles import add_pile
from rooms.bench.actions.weighings import take_weight
from rooms.bench.models import CuttingTest
from rooms.cooler.models import Bag
from rooms.pricebook.models import Price
from rooms.pricing.actions.save import Saving, save_prices
from rooms.pricing.queries.building import price_view
from rooms.pricing.queries.wishes import Wish
from tests.conftest import capture, finish
from tests.journeys.conftest import tablet, weigh

pytestmark = pytest.mark.django_db(transaction=True)


def stands_whole(page, part):
    """The part lies on the glass as it is, without scrolling and with nothing over it."""
    box = part.bounding_box()
    glass = page.viewport_size
    assert box["y"] >= 0, box
    assert box["y"] + box["height"] <= glass["height"], box
    assert box["x"] >= 0, box
    assert box["x"] + box["width"] <= glass["width"], box


@pytest.mark.long
def test_a_bag_that_is_known_is_opened_with_two_touches(browser, live_server, fill):
    bag = fill(("beef-tenderloin", 39, "6.17"))[0]
    for width, height in ((1280, 800), (390, 800)):
        with tablet(browser, live_server.url, width, height, has_touch=True) as page:
            page.goto("/")
            page.locator(".today-bags").get_by_role("link", name="Open").tap()
            button = page.get_by_role("button", name="Open the piece")
            stands_whole(page, button)
            expect(page.locator(".known")).to_contain_text("6.17 lb at 7.49")
    with tablet(browser, live_server.url, has_touch=True) as page:
        page.goto("/")
        page.locator(".today-bags").get_by_role("link", name="Open").tap()
        page.get_by_role("button", name="Open the piece").tap()
        expect(page).to_have_url(re.compile("/bench/"))
    test = CuttingTest.objects.get()
    assert (test.weight_value, test.lot) == (bag.weight_value, bag.lot)
    assert Bag.objects.get().state == Bag.State.OPENED


@pytest.mark.long
def test_finish_and_the_caution_stand_on_the_glass_with_twelve_piles(page, hand, opened):
    rows = opened("beef-shoulder-clod", "19.00", "4.10")
    assert len(rows.piles) == 12
    page.goto(reverse("bench:test", args=[rows.test.pk]))
    expect(page.locator("#take[data-ready]")).to_be_attached()
    counted = page.locator(".pile:has([data-counted])").first
    counted.click()
    weigh(page, hand, 0.45)
    for part in ("#finish-now", ".at-step .caution", "#take-weight", "#take-back", ".small-hands"):
        stands_whole(page, page.locator(part))
    for pile in page.locator(".pile").all():
        stands_whole(page, pile)
    assert page.evaluate("scrollY") == 0
    page.click("#finish-now")
    stands_whole(page, page.locator("#unfinished .other.big").first)
    for none in page.locator(".none-of").all():
        none.click()
    page.get_by_role("button", name="Finish with 18.55 lb unweighed").click()
    expect(page).to_have_url(re.compile("/sheet/"))


@pytest.mark.long
def test_the_price_list_shows_prices_on_a_phone(browser, live_server, shop):
    with tablet(browser, live_server.url, 390, 800) as page:
        page.goto(reverse("pricing:prices"))
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
        row = page.locator("table.folds tbody tr").first
        row.scroll_into_view_if_needed()
        name, price = row.locator("th").bounding_box(), row.locator(".point").bounding_box()
        assert price["x"] + price["width"] <= 390
        assert abs(price["y"] - name["y"]) < name["height"]
        first = Price.objects.current().get(product__name=row.locator("th").inner_text())
        expect(row.locator(".point")).to_contain_text(f"{first.amount:.2f}")


@pytest.mark.long
def test_an_ad_is_kept_by_touch_and_opened_again(page, weighed):
    rows = weighed()
    save_prices(rows, Wish(shown=price_view(rows, Wish()).shown), Saving(None))
    page.goto(reverse("planner:ad"))
    expect(page.locator(".week-bars")).to_be_visible()  # an example of the shop, picture first
    page.click("summary:text-is('The numbers')")
    page.fill("[name=pounds-0]", "61")
    page.fill("#plan-name", "Week 48")
    page.click("button:text-is('Keep')")
    expect(page.locator(".told.good")).to_contain_text("Week 48, kept by Bram")
    change = page.locator(".whole dd").last.inner_text()
    page.goto(reverse("planner:ad"))
    expect(page.locator(".whole dd").last).to_have_text(change)
    page.click("summary:text-is('The numbers')")
    expect(page.locator("[name=pounds-0]")).to_have_value("61")
    page.fill("[name=pounds-0]", "30")
    page.press("[name=pounds-0]", "Enter")  # works it out, keeps nothing
    expect(page.locator(".whole dd").last).not_to_have_text(change)
    page.fill("#plan-name", "Week 49")
    page.click("button:text-is('Keep')")
    page.click("text=all of them beside each other")
    expect(page.locator("tbody tr")).to_have_count(2)
    expect(page.locator("tbody")).to_contain_text(change)


@pytest.mark.long
def test_the_seam_of_give_and_take_follows_a_finger_and_the_keys(browser, live_server, catalog):
    with tablet(browser, live_server.url, has_touch=True) as page:
        page.goto(reverse("pricing:giving", args=["country-style"]))
        expect(page.locator("#seam-says")).to_contain_text("4 ribs")
        box = page.locator("svg.moved").bounding_box()
        rib = box["width"] * (392 / 420) / 12
        left = box["x"] + box["width"] * 14 / 420
        page.mouse.move(left + 4 * rib, box["y"] + box["height"] / 2)
        page.mouse.down()
        page.mouse.move(left + 7.2 * rib, box["y"] + box["height"] / 2, steps=5)
        page.mouse.up()
        expect(page.locator("#seam-says")).to_contain_text("7 ribs")
        expect(page.locator("#giving")).to_contain_text("keeps 5: fewer than the 8")
        expect(page.locator("#in-amount")).to_have_value("7")
        page.locator("#seam").focus()
        page.keyboard.press("ArrowLeft")
        page.keyboard.press("ArrowLeft")
        expect(page.locator("#giving")).to_contain_text("5 ribs")
        expect(page.locator("#seam")).to_have_attribute("aria-valuenow", "5")
        expect(page.locator("#seam")).to_be_focused()


@pytest.mark.long
def test_a_sheet_of_sixteen_piles_is_readable_on_a_phone(browser, live_server, opened):
    rows = opened("beef-shoulder-clod", "19.00", "4.10")
    for name in ("Café strips", "Ünder-blade ends", "肉", "A pile with a name of sixty characters"):
        rows = add_pile(rows.test.pk, name, "secondary")
    assert len(rows.outputs) == 16
    for i, output in enumerate(rows.outputs):
        rows = take_weight(rows.test.pk, capture(output, f"1.{i:02}"), None)
    with tablet(browser, live_server.url, 390, 800) as page:
        page.goto(reverse("bench:test", args=[rows.test.pk]))
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
        finish(rows.test.pk, str(rows.revision))
        page.goto(reverse("bench:sheet", args=[rows.test.pk]))
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
        for output in rows.outputs:
            row = page.locator("table.folds tbody tr", has_text=output.name).first
            point = row.locator(".point").first
            expect(point).to_be_visible()
            box = point.bounding_box()
            assert 0 <= box["x"] <= box["x"] + box["width"] <= 390, output.name


@pytest.mark.long
@pytest.mark.parametrize(("glass", "other"), [("light", "Dark"), ("dark", "Light")])
def test_the_theme_that_is_offered_is_the_other_one(browser, live_server, opened, glass, other):
    with tablet(browser, live_server.url, color_scheme=glass) as page:
        page.goto("/")
        shown = page.locator("[name=theme]:visible")
        expect(shown).to_have_text(other)
        page.goto(reverse("bench:test", args=[opened().test.pk]))
        expect(shown).to_have_text(other)
        shown.click()
        expect(page.locator("html")).to_have_attribute("data-bs-theme", other.lower())
        expect(shown).to_have_text(glass.capitalize())
