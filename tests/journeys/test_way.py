"""A lot is called back: held, found in the case, let go; a tray on a phone; what is due is marked down."""

from datetime import timedelta

import pytest
from django.utils import timezone
from playwright.sync_api import expect

from cutting.labels.tray_life import Life
from rooms.cooler.models import LotHold
from rooms.recall.models import Recall
from rooms.trays.actions.life import becomes
from rooms.trays.actions.pack import Packing, pack_tray
from rooms.trays.models import Tray
from tests.conftest import person
from tests.journeys.conftest import tablet
from tests.rooms.trays.helpers import KEY, flat_iron, lb, of_bag, tray_set

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def case(shop, fill, weighed):
    """A bag of lot L40, cut; three trays of its steaks in the case."""
    size, product = tray_set(), flat_iron("beef-centre-filet")
    (bag,) = fill(("beef-tenderloin", 40, "6.17"))
    rows = weighed(**of_bag(bag))
    output = rows.outputs[0]
    trays = []
    for gross in ("1.04", "1.14", "1.24"):
        packing = Packing(KEY(), product.pk, size.pk, f"test:{output.pk}", lb(gross), None, 2)
        trays.append(pack_tray(packing, person("ines").pk))
        becomes(KEY(), trays[-1].pk, Life.IN_CASE, None)
    return trays


@pytest.mark.long
def test_a_lot_is_called_back_found_and_let_go(browser, live_server, case):
    with (
        tablet(browser, live_server.url, by="ines", has_touch=True) as block,
        tablet(browser, live_server.url, by="bram", has_touch=True) as office,
    ):
        block.goto("/trays/")
        block.get_by_role("link", name="The way back").tap()
        block.get_by_label("Lot, bag, test").fill("l-40")
        block.get_by_role("button", name="Follow it").tap()
        expect(block.get_by_role("heading", name="Lot L40")).to_be_visible()
        expect(block.locator(".ribbons")).to_contain_text("3 for sale")
        block.get_by_role("link", name="Hold it").tap()
        block.get_by_label("Why").fill("the supplier calls it back")
        block.get_by_role("button", name="Hold it now").tap()
        expect(block.get_by_role("heading", name="Still to be found: 3")).to_be_visible()
        office.goto(f"/trays/{case[0].pk}/")
        expect(office.locator(".way-line")).to_contain_text("Held: lot L40")
        assert office.get_by_role("button", name="Sold", exact=True).count() == 0
        for tray in case:
            block.get_by_label("Found: scan it").fill(tray.serial)
            block.keyboard.press("Enter")  # as a scanner ends
            expect(block.locator("[role=status]")).to_contain_text(f"Tray {tray.number}: found")
        expect(block.locator(".found-of")).to_contain_text("found 3 of 3")
        expect(
            block.get_by_role("heading", name="Every tray that can still be stopped")
        ).to_be_visible()
        assert block.get_by_role("button", name="Let it go").count() == 0
        office.goto("/")
        office.get_by_role("link", name="What is where").tap()
        office.get_by_label("Why it may go on").fill("the supplier was wrong")
        office.get_by_role("button", name="Let it go").tap()
        expect(office.locator(".told.good").first).to_contain_text("Free since")
    assert LotHold.objects.get().lifted.reason == "the supplier was wrong"
    assert Recall.objects.get().report["found"] == 3


@pytest.mark.long
def test_a_shopper_and_then_a_cutter_open_the_qr_with_a_phone(browser, live_server, case):
    tray = case[0]
    address = f"/01/{tray.document['product']['gtin']}/10/{tray.document['lot']}/21/{tray.serial}"
    with tablet(browser, live_server.url, 390, 844, has_touch=True, by=None) as phone:
        phone.goto(address)
        expect(phone.get_by_role("heading", level=1)).to_contain_text(tray.product.name)
        expect(phone.locator("main")).to_contain_text("145 °F")
        assert phone.get_by_text("For the shop").count() == 0
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    with tablet(browser, live_server.url, 390, 844, has_touch=True) as phone:
        phone.goto(address)
        phone.get_by_role("link", name="The way back").tap()
        expect(phone.get_by_role("heading", level=1)).to_contain_text(f"Tray {tray.number}")
        expect(phone.locator("main")).to_contain_text("L40")
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390


@pytest.mark.long
def test_what_is_due_is_marked_down_by_touch(browser, live_server, case):
    Tray.objects.update(sell_by=timezone.localdate())
    Tray.objects.filter(pk=case[2].pk).update(sell_by=timezone.localdate() - timedelta(days=1))
    with tablet(browser, live_server.url, 390, 844, has_touch=True, by="ines") as phone:
        phone.goto("/trays/marking/")
        first = phone.locator(".markdowns li").first
        first.get_by_role("textbox").fill("99")
        first.get_by_role("button", name="New label").tap()
        expect(phone.locator(".told[role=alert]")).to_contain_text("below")
        expect(phone.locator(".markdowns li").first.get_by_role("textbox")).to_have_value("99")
        phone.get_by_role("button", name="All 2 by the rule").tap()
        expect(phone.get_by_role("heading", name="Marked down already")).to_be_visible()
        expect(phone.get_by_role("heading", name="Past their last day")).to_be_visible()
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    marked = [one.state for one in Tray.objects.order_by("number")]
    assert marked == [Life.MARKED_DOWN, Life.MARKED_DOWN, Life.IN_CASE]
