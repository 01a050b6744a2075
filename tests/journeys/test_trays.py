"""Twelve trays on the scale, the roll runs out in the middle, none is lost and none comes out twice."""

import sys

import pytest
from playwright.sync_api import expect

from rooms.trays.models import PrintJob, Tray
from tests.journeys.conftest import ROOT, free_port, running, tablet
from tests.rooms.trays.helpers import flat_iron, tray_set

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def roll(settings, tmp_path):
    """The simulated printer with its outbox."""
    port = free_port()
    settings.PRINTER_URL = f"http://127.0.0.1:{port}"
    command = [sys.executable, "-m", "devices.label_printer", "--port", str(port)]
    assert ROOT.is_dir()
    with running([*command, "--outbox", str(tmp_path)], f"{settings.PRINTER_URL}/panel"):
        yield settings.PRINTER_URL, tmp_path


@pytest.mark.long
def test_twelve_trays_by_themselves_and_the_roll_runs_out(browser, live_server, hand, roll, shop):
    address, outbox = roll
    tray_set()
    flat_iron()
    with tablet(browser, live_server.url, has_touch=True) as page, browser.new_page() as printer:
        printer.goto(f"{address}/panel")
        printer.get_by_role("button", name="Leave two labels on the roll").click()
        page.goto("/trays/")
        page.get_by_role("link", name="Flat iron steak").first.tap()
        page.get_by_role("link", name="No lot").tap()
        page.get_by_label("Reason for no lot").fill("bought by the case")
        page.get_by_text("by itself, tray after tray").tap()
        for number in range(1, 13):
            hand.clear()
            expect(page.locator("[data-show=weight]")).to_have_text("0.00")
            hand.put(1 + number / 100)
            expect(page.locator(".told.good")).to_contain_text(f"Tray {number}:")
        expect(page.locator("#queue")).to_contain_text("10 labels wait")
        expect(page.locator("#queue")).to_contain_text("the roll is empty")
        printer.get_by_role("button", name="Put a new roll in").click()
        expect(page.locator("#queue")).to_contain_text("No label waits")
        page.locator(".trays-today a").first.tap()
        expect(page.locator(".label-paper")).to_contain_text("Flat iron steak")
    assert Tray.objects.count() == 12
    jobs = [str(job.key) for job in PrintJob.objects.order_by("id")]
    assert [path.stem[7:] for path in sorted(outbox.glob("*.png"))] == jobs
    assert not Tray.objects.filter(is_typed=True).exists()


def test_a_tray_is_packed_by_touch_and_by_a_typed_weight(browser, live_server, hand, shop):
    tray_set()
    numbered = flat_iron()
    with tablet(browser, live_server.url, 390, 844, has_touch=True) as phone:
        phone.goto(f"/trays/?product={numbered.pk}")
        phone.get_by_role("link", name="No lot").tap()
        phone.get_by_label("Reason for no lot").fill("bought by the case")
        hand.put(1.28)
        expect(phone.locator("[data-show=state]")).to_contain_text("steady")
        expect(phone.locator("[data-show=weight]")).to_have_text("1.28")
        phone.get_by_role("button", name="Pack what lies on the scale").tap()
        expect(phone.locator(".told.good")).to_contain_text("1.24 lb")
        phone.get_by_text("Type the weight").tap()
        phone.get_by_label("Gross weight, typed").fill("0.02")
        phone.get_by_role("button", name="Pack it").tap()
        expect(phone.locator(".told[role=alert]")).to_contain_text("more than the tare")
        assert phone.get_by_label("Gross weight, typed").input_value() == "0.02"
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    assert [one.is_typed for one in Tray.objects.all()] == [False]


@pytest.mark.long
def test_where_an_answer_is_lost_each_tray_is_packed_once(browser, live_server, hand, shop):
    tray_set()
    numbered = flat_iron()

    def lost(route):
        if route.request.method != "POST":
            return route.continue_()
        route.fetch()
        route.abort()

    def put(pounds):
        hand.clear()
        expect(page.locator("[data-show=weight]")).to_have_text("0.00")
        hand.put(float(pounds))
        expect(page.locator("[data-show=state]")).to_contain_text("steady")
        expect(page.locator("[data-show=weight]")).to_have_text(pounds)

    with tablet(browser, live_server.url, has_touch=True) as page:
        page.goto(f"/trays/?product={numbered.pk}&from=none")
        page.get_by_label("Reason for no lot").fill("bought by the case")
        packs = page.get_by_role("button", name="Pack what lies on the scale")
        for pounds in ("1.28", "1.50"):  # packed; its answer never came
            put(pounds)
            page.route("**/trays/", lost)
            packs.tap()
            expect(page.locator("#said")).to_contain_text("does not answer")
            page.unroute("**/trays/")
            if pounds == "1.28":  # it lies there still: the same tray
                packs.tap()
                expect(page.locator(".told.good")).to_contain_text("Tray 1: 1.24 lb")
        put("1.78")  # another tray, though the answer for the one before never came
        packs.tap()
        expect(page.locator(".told.good")).to_contain_text("Tray 3: 1.74 lb")
        page.context.clear_cookies(name="sessionid")
        put("1.28")
        packs.tap()
        expect(page.locator("#said")).to_contain_text("Nobody is")
    assert [str(one.net) for one in Tray.objects.order_by("number")] == ["1.24", "1.46", "1.74"]
    assert PrintJob.objects.count() == 3
