"""A whole test at the block: by touch, by keyboard, on a phone, with the line cut."""

import os
import re
import sys

import pytest
from playwright.sync_api import expect

from rooms.bench.models import CuttingTest, Unplaced, Weighing
from tests.journeys.conftest import (
    finish_as_it_is,
    first_manager,
    free_port,
    give_password,
    hears_keys,
    kill,
    new_shop,
    open_tenderloin,
    pin,
    running,
    scale_bridge,
    tablet,
    take,
    until,
    weigh,
)

pytestmark = pytest.mark.django_db(transaction=True)
PILES = (("1", 3.45), ("2", 0.80), ("3", 0.93), ("4", 0.68), ("5", 0.22), ("6", 0.07))


def test_from_the_open_bag_to_a_priced_tray_by_touch(browser, live_server, hand, shop):
    with tablet(browser, live_server.url, by="") as page:
        page.goto("/bench/")
        pin(page, "Ines", "3141")
        cut_and_price(page, hand)
    assert Weighing.objects.filter(taken_by__first_name="Ines", is_typed=False).count() == 7
    assert CuttingTest.objects.get().approved_by.first_name == "Bram"


def cut_and_price(page, hand):
    open_tenderloin(page)
    for name, pounds in zip(
        ("Center filet", "Tips", "Lean trim", "Hard fat", "Silver skin", "Purge"),
        (p for _, p in PILES),
        strict=True,
    ):
        page.click(f".pile:has-text('{name}')")
        if name == "Center filet":
            for _ in range(7):
                page.click("[data-step='1']")
        weigh(page, hand, pounds)
    expect(page.locator(".pile").first).to_contain_text("8 · 55.9 %")
    expect(page.locator(".balance")).to_contain_text("In balance")

    page.click("#take-back")
    expect(page.locator(".balance")).to_contain_text("0.09 lb still on the block")
    hand.clear()
    page.click(".pile:has-text('Purge')")
    weigh(page, hand, 0.07)

    page.fill("#note-text", "film loose at one end")
    page.click(".notes button")
    expect(page.locator(".notes")).to_contain_text("film loose at one end")
    page.click("#finish-now")

    expect(page.locator("h1")).to_contain_text("Tenderloin")
    page.locator(".school:has-text('By-product credit') summary").click()
    expect(page.locator(".school:has-text('By-product credit')")).to_contain_text("net cost")
    expect(page.locator("aside")).to_contain_text("A manager approves it.")
    page.click(".person summary")
    page.click("text=Somebody else")
    pin(page, "Bram", "2718")
    page.click("text=Approve the sheet")
    expect(page.locator("aside")).to_contain_text("Approved")

    page.click("text=Set prices")
    price = page.get_by_label("Price of Center filet a lb")
    price.fill("24.49")
    price.blur()
    expect(page.get_by_label("Lock the price of Center filet")).to_be_checked()
    expect(price).to_have_value("24.49")
    tips = page.get_by_label("Price of Tips a lb")
    before = tips.input_value()
    page.fill("#target", "38")
    page.locator("#target").blur()
    expect(tips).not_to_have_value(before)
    expect(price).to_have_value("24.49")  # a locked price does not move
    page.click("text=Save these prices")
    expect(page.locator("h1")).to_have_text("Your password")
    give_password(page)
    expect(page.locator("table").first).to_contain_text("24.49")
    page.click("nav >> text=Counter")
    expect(page.locator("tr:has-text('Center filet')")).to_contain_text("24.49")
    expect(page.locator("tr:has-text('Center filet')")).to_contain_text("test 1")


@pytest.mark.long
def test_the_same_by_keyboard_alone(page, hand, shop):
    open_tenderloin(page)
    page.keyboard.press("?")
    expect(page.locator("#keys")).to_be_visible()
    page.keyboard.press("?")
    expect(page.locator("#keys")).to_be_hidden()
    for key, pounds in PILES:
        page.keyboard.press(key)
        weigh(page, hand, pounds, key="Enter")
    expect(page.locator("#said")).to_contain_text("0.07 lb Purge recorded")
    page.keyboard.press("Enter")  # the load has not changed: nothing is taken twice
    page.keyboard.press("Backspace")
    expect(page.locator("#said")).to_have_text("Taken back.")
    hand.clear()
    weigh(page, hand, 0.07, key="Enter")
    page.keyboard.press("u")
    expect(page.locator("[data-show=unit]")).to_have_text("oz")
    page.locator("#finish-now").focus()
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/sheet/"))
    assert Weighing.objects.count() == 7
    assert CuttingTest.objects.finished().count() == 1


@pytest.mark.long
def test_on_a_phone_nothing_is_wider_than_the_glass(browser, live_server, hand, opened):
    running = opened()
    with tablet(browser, live_server.url, 390, 844) as page:
        open_tenderloin(page)
        page.click(".pile:has-text('Tips')")
        weigh(page, hand, 0.80)
        finish_as_it_is(page)
        for path in (
            page.url,
            page.url.replace("/sheet/", "/counter/test/"),
            "/",
            "/bench/",
            "/counter/",
            "/scale/",
            "/tubs/",
            f"/bench/{running.test.pk}/",
            f"/bench/{running.test.pk}/weighings/",
            f"{page.url}correct/",
        ):
            page.goto(path)
            assert page.evaluate("document.documentElement.scrollWidth") <= 390, path


@pytest.mark.long
def test_a_scale_that_is_off_moving_or_overloaded_takes_nothing(page, hand, shop):
    open_tenderloin(page)
    state, take = page.locator("[data-show=state]"), page.locator("#take-weight")
    hand.put(31)
    expect(state).to_have_text("overload")
    expect(take).to_be_disabled()
    hand.say(on=False)
    expect(state).to_have_text("off")
    page.keyboard.press("t")
    expect(page.locator("#said")).to_have_text("tare: the scale is off")
    page.keyboard.press("Enter")
    page.click("text=No scale? Type a weight")
    page.fill("#typed-weight", "31")
    page.click("text=Record typed weight")
    expect(page.locator("#waiting")).to_contain_text("over the scale's 30 lb")
    page.click("text=Remove from this list")
    page.fill("#typed-weight", "0.44")
    page.click("text=Record typed weight")
    expect(page.locator(".last")).to_contain_text("typed")
    assert [str(w.value) for w in Weighing.objects.all()] == ["0.44"]


@pytest.mark.long
def test_a_dropped_connection_loses_nothing_and_records_once(page, hand, shop):
    open_tenderloin(page)
    weigh(page, hand, 0.44)
    page.route("**/capture/", lambda route: route.abort("connectionrefused"))
    for pounds in (0.45, 0.43):
        hand.clear()
        expect(page.locator("[data-show=why]")).to_have_text("nothing on the scale")
        hand.put(pounds)
        take(page)
    expect(page.locator("#waiting li")).to_have_count(2)
    expect(page.locator("#said")).to_contain_text("kept here and sent again")
    page.reload()  # what was not accepted survives a reload of the page
    expect(page.locator("#waiting li")).to_have_count(2)
    assert Weighing.objects.count() == 1
    page.unroute("**/capture/")
    expect(page.locator("#waiting li")).to_have_count(0)
    assert [str(w.value) for w in Weighing.objects.all()] == ["0.44", "0.45", "0.43"]


@pytest.mark.long
def test_an_answer_lost_on_the_way_back_records_once(page, hand, shop):
    """The server records, the answer never arrives, the tablet sends again with the same key."""
    open_tenderloin(page)
    lost = []

    def lose(route):
        if not lost:
            lost.append(route.fetch())
            route.abort("connectionreset")
        else:
            route.continue_()

    page.route("**/capture/", lose)
    weigh(page, hand, 0.44)
    expect(page.locator("#waiting li")).to_have_count(0)
    assert len(lost) == 1
    assert Weighing.objects.count() == 1


@pytest.mark.long
def test_an_answer_that_is_not_ours_is_no_answer(page, hand, shop):
    """A portal between tablet and server says 200 with a page of its own: nothing is dropped."""
    open_tenderloin(page)
    page.route("**/capture/", lambda route: route.fulfill(status=200, body="<p>Welcome</p>"))
    hand.put(0.44)
    take(page)
    expect(page.locator("#said")).to_contain_text("kept here and sent again")
    expect(page.locator("#waiting li")).to_have_count(1)
    page.unroute("**/capture/")
    expect(page.locator("#waiting li")).to_have_count(0)
    assert Weighing.objects.count() == 1


@pytest.mark.long
def test_a_killed_server_loses_nothing_that_was_accepted(browser, tmp_path):
    """kill -9 in the middle of a test; the tablet keeps what was not accepted and sends it."""
    port = free_port()
    url = f"http://127.0.0.1:{port}"
    with scale_bridge(url) as scale, tablet(browser, url, by=None) as page:
        environment = {
            **os.environ,
            "DJANGO_SETTINGS_MODULE": "mindful_tally.settings.test",
            "TALLY_DB": str(tmp_path / "shop.sqlite3"),
            "SCALE_URL": scale.url,
        }
        serve = [
            sys.executable,
            "-m",
            "gunicorn",
            "mindful_tally.wsgi",
            "-b",
            f"127.0.0.1:{port}",
            "--threads",
            "2",
            "--log-level",
            "critical",
        ]
        new_shop(environment)
        with running(serve, url, env=environment) as process:
            first_manager(page)
            open_tenderloin(page)
            weigh(page, scale, 0.44)
            kill(process)
        scale.clear()
        expect(page.locator("[data-show=why]")).to_have_text("nothing on the scale")
        scale.put(0.52)
        take(page, "Enter")
        expect(page.locator("#waiting")).to_contain_text("0.52 lb Center filet")
        with running(serve, url, env=environment):
            expect(page.locator("#waiting li")).to_have_count(0)
            expect(page.locator(".last")).to_contain_text("0.44 lb")
            expect(page.locator(".last li").first).to_contain_text("0.52 lb")


@pytest.mark.long
def test_without_scripts_a_plain_form_still_records_finishes_and_prices(browser, live_server, shop):
    with tablet(browser, live_server.url, java_script_enabled=False) as page:
        open_tenderloin(page, has_scripts=False)
        page.click("text=No scale? Type a weight")
        for name, value in (("Center filet", "3.45"), ("Lean trim", "0"), ("Lean trim", "2.60")):
            page.locator(f".pile:has-text('{name}') input").check(force=True)
            if not page.locator("#typed-weight").is_visible():
                page.click("text=No scale? Type a weight")
            page.fill("#typed-weight", value)
            page.click("text=Record typed weight")
            if value == "0":
                expect(page.locator(".told")).to_contain_text("more than 0 is right")
                expect(page.locator("#typed-weight")).to_have_value("0")
        finish_as_it_is(page)
        page.click("text=Set prices")
        page.click("text=Save these prices")
        expect(page.locator(".told.good").first).to_contain_text("these are the current prices")
    assert [str(w.value) for w in Weighing.objects.all()] == ["3.45", "2.60"]


@pytest.mark.long
def test_two_tablets_on_one_test_add_up_and_only_the_newest_page_finishes(
    browser, live_server, hand, shop
):
    with tablet(browser, live_server.url) as one, tablet(browser, live_server.url) as other:
        open_tenderloin(one)
        other.goto(one.url)
        weigh(one, hand, 3.45)
        hand.clear()
        one.route("**/stands/**", lambda route: route.abort())  # it no longer hears of the other
        hears_keys(other)
        other.keyboard.press("2")
        weigh(other, hand, 0.80)
        expect(other.locator(".pile").first).to_contain_text("3.45")  # the other's pile came too
        one.click("#finish-now")
        expect(one.locator(".told")).to_contain_text("0.80 lb for Tips")
        finish_as_it_is(other)
        expect(other).to_have_url(re.compile("/sheet/"))
        hand.clear()
        hears_keys(one)
        one.keyboard.press("1")
        weigh_too_late(one, hand, 0.44)
        discard(other, "weighed twice")
    assert [str(one.value) for one in Weighing.objects.all()] == ["3.45", "0.80"]
    assert [str(one.value) for one in Unplaced.objects.all()] == ["0.44"]


def weigh_too_late(page, hand, pounds):
    """A stale page weighs on a finished test: it is on record, counts nowhere, and the page says so."""
    expect(page.locator("[data-show=why]")).to_have_text("nothing on the scale")
    hand.put(pounds)
    take(page, "Enter")
    until(page, "#said", "not placed")
    expect(page.locator("#waiting li")).to_have_count(0)


def discard(page, reason):
    """The one weighing that nobody placed counts nowhere, from the sheet's list of weighings."""
    page.goto(page.url.replace("/sheet/", "/bench/") + "weighings/")
    expect(page.locator(".unplaced-one")).to_contain_text("counts on no sheet yet")
    page.get_by_label("Reason").fill(reason)
    page.click("button:text-is('Discard')")
    expect(page.locator(".unplaced-one")).to_contain_text(f"Discarded: {reason}")


@pytest.mark.long
def test_the_printed_sheet_has_the_figures_and_none_of_the_buttons(page, weighed):
    rows = weighed()
    page.goto(f"/sheet/{rows.test.pk}/")
    page.emulate_media(media="print")
    expect(page.locator("svg.for-wide")).to_be_visible()
    expect(page.locator("table").first).to_be_visible()
    for hidden in (".masthead", "text=Set prices", ".notes form", "text=Approve the sheet"):
        expect(page.locator(hidden)).to_be_hidden()
    printed = page.pdf(format="Letter", print_background=True)
    assert re.search(rb"/Count 1\b", printed)  # one page
