"""The block all day: kills and cuts, two tablets, one scale, trouble, tubs, a correction."""

import os
import re
import sqlite3
import sys
from contextlib import ExitStack, contextmanager

import pytest
from playwright.sync_api import expect

from rooms.bench.actions.scales import take_scale
from rooms.bench.models import Hold, Move, ScaleCheck, TimeMark, Tub, Weighing
from tests.journeys.conftest import (
    UNTIL_WORKED_FOR,
    first_manager,
    free_port,
    hears_keys,
    kill,
    new_shop,
    open_tenderloin,
    pin,
    press,
    running,
    scale_bridge,
    tablet,
    take,
    weigh,
)

pytestmark = pytest.mark.django_db(transaction=True)
TAKE_THEM = """
async (captures) => {
  const { send } = await import(document.querySelector('link[href*="queue"]').href);
  const pile = document.querySelector("[name=output]:checked").value;
  window.made = 0;
  const timer = setInterval(() => {
    window.made += 1;
    const value = (window.made / 100).toFixed(2);
    send({ key: crypto.randomUUID(), output: pile, value, unit: "lb", typed: "1" }, value);
    if (window.made === captures) clearInterval(timer);
  }, 150);
}
"""


@contextmanager
def own_server(browser, folder):
    """A server process with a database of its own, and a tablet enrolled there."""
    port = free_port()
    url = f"http://127.0.0.1:{port}"
    with scale_bridge(url) as scale, tablet(browser, url, by=None, service_workers="allow") as page:
        environment = {
            **os.environ,
            "DJANGO_SETTINGS_MODULE": "mindful_tally.settings.test",
            "TALLY_DB": str(folder / "shop.sqlite3"),
            "SCALE_URL": scale.url,
        }
        new_shop(environment)
        command = [
            sys.executable,
            "-m",
            "gunicorn",
            "mindful_tally.wsgi",
            "-b",
            f"127.0.0.1:{port}",
            "--threads",
            "4",
            "--log-level",
            "critical",
        ]
        yield page, lambda: running(command, url, env=environment), folder / "shop.sqlite3"


# The page's policy lets no text become a script, so waiting is a function that answers.
UNTIL_MADE = """(least) => new Promise((done) => {
  const look = () => (window.made >= least ? done() : setTimeout(look, 20));
  look();
})"""


CAPTURES = 200


def recorded(database):
    with sqlite3.connect(database) as opened:
        return [row[0] for row in opened.execute("SELECT value FROM bench_weighing ORDER BY id")]


@pytest.mark.long
def test_captures_through_kills_and_cuts_are_all_there_in_order_once(browser, tmp_path):
    """One every 150 ms; kill -9 and the network cut in turn, each while captures come."""
    with own_server(browser, tmp_path) as (page, serve, database), ExitStack() as servers:
        process = servers.enter_context(serve())
        first_manager(page)
        open_tenderloin(page)
        page.evaluate(TAKE_THEM, CAPTURES)
        for trouble in range(10):
            page.evaluate(UNTIL_MADE, 15 + 18 * trouble)
            if trouble % 2:
                page.context.set_offline(True)
                page.evaluate(UNTIL_MADE, 22 + 18 * trouble)
                page.context.set_offline(False)
                continue
            kill(process)
            page.evaluate(UNTIL_MADE, 20 + 18 * trouble)
            process = servers.enter_context(serve())
        page.evaluate(UNTIL_MADE, CAPTURES)
        expect(page.locator("#waiting li")).to_have_count(0, timeout=60_000)
    assert recorded(database) == [f"{i / 100:.2f}" for i in range(1, CAPTURES + 1)]


@pytest.mark.long
def test_the_page_opens_without_the_server_and_sends_what_it_kept(browser, tmp_path):
    """A closed browser keeps the list; the page opens from the tablet; then all is sent."""
    with own_server(browser, tmp_path) as (page, serve, database):
        with serve():
            first_manager(page)
            open_tenderloin(page)
            page.evaluate(UNTIL_WORKED_FOR)
            page.reload()  # now the page is kept
            address = page.url
        for value in ("0.44", "0.45"):
            page.click("text=No scale? Type a weight")
            page.fill("#typed-weight", value)
            page.click("text=Record typed weight")
            page.click("text=No scale? Type a weight")
        expect(page.locator("#waiting li")).to_have_count(2)
        page.close()
        again = page.context.new_page()
        again.goto(address)
        expect(again.locator("#waiting li")).to_have_count(2)
        expect(again.locator("h1")).to_contain_text("Tenderloin")
        with serve():
            expect(again.locator("#waiting li")).to_have_count(0)
            expect(again.locator(".last")).to_contain_text("0.45 lb")
    assert recorded(database) == ["0.44", "0.45"]


@pytest.mark.long
def test_one_scale_two_cutters_and_a_visible_hand_over(browser, live_server, hand, opened):
    first, second = opened(), opened()
    take_scale(first.test.pk, "block", None)
    with (
        tablet(browser, live_server.url, by="ines") as one,
        tablet(browser, live_server.url, by="bram") as other,
    ):
        one.goto(f"/bench/{first.test.pk}/")
        other.goto(f"/bench/{second.test.pk}/")
        weigh(one, hand, 0.44)
        hand.clear()
        expect(other.locator("#holder")).to_contain_text("is with test 1, Tenderloin (Ines)")
        hand.put(0.80)
        expect(other.locator("[data-show=why]")).to_have_text("test 1 has it")
        other.keyboard.press("Enter")  # nothing is taken for the wrong test
        other.keyboard.press("h")
        expect(other.locator("#take-weight")).to_be_enabled()
        expect(one.locator("#holder")).to_contain_text("is with test 2")
        weigh(other, hand, 0.80)
        other.click(f"nav >> text='{first.test.number}'")
        expect(other.locator("#holder")).to_contain_text("is with test 2")
    assert Hold.objects.last().test_id == second.test.pk
    assert [w.test_id for w in Weighing.objects.all()] == [first.test.pk, second.test.pk]
    assert not Weighing.objects.filter(is_typed=True).exists()


@pytest.mark.long
def test_two_tablets_on_one_test_are_in_step_and_a_stale_edit_shows_both_versions(
    browser, live_server, hand, opened
):
    rows = opened()
    with (
        tablet(browser, live_server.url, by="ines") as one,
        tablet(browser, live_server.url, by="bram") as other,
    ):
        other.goto(f"/bench/{rows.test.pk}/weighings/")
        one.goto(f"/bench/{rows.test.pk}/")
        watching = other.context.new_page()
        watching.goto(f"/bench/{rows.test.pk}/")
        weigh(one, hand, 0.44)
        expect(watching.locator(".pile").first).to_contain_text("0.44", timeout=1_000)
        other.select_option("#gone", label="Center filet (nothing)")
        other.select_option("#into", label="Tips")
        other.click("button:text-is('Merge')")
        told = other.locator(".told")
        expect(told).to_contain_text("saw Center filet with nothing; it now has 0.44 lb")
        other.select_option("#into", label="Tips")
        other.click("button:text-is('Merge')")
        expect(watching.locator(".pile:has-text('Tips')")).to_contain_text("0.44")
        expect(watching.locator(".pile:has-text('Center filet')")).to_have_count(0)
        other.click("text=Undo")
        for glass in (one, watching):  # both see the pile again, with what came from it
            expect(glass.locator(".pile:has-text('Center filet')")).to_contain_text("0.44")
            expect(glass.locator(".pile:has-text('Tips')")).to_contain_text("none yet")
    assert Move.objects.count() == 2


@pytest.mark.long
@pytest.mark.parametrize(
    ("fault", "says"),
    [
        pytest.param({"fault": "wobble"}, "moving", marks=pytest.mark.long),
        ({"fault": "freeze"}, "stale"),
        ({"line": False}, "no scale"),
        pytest.param({"put": -5000.0}, "nothing on the scale", marks=pytest.mark.long),
    ],
)
def test_a_scale_in_trouble_says_one_word_takes_nothing_and_comes_back(
    page, hand, opened, fault, says
):
    rows = opened()
    page.goto(f"/bench/{rows.test.pk}/")
    hand.put(0.44)
    expect(page.locator("#take-weight")).to_be_enabled()
    hand.say(**fault)
    expect(page.locator("[data-show=why]")).to_have_text(says)
    page.keyboard.press("Enter")
    hand.say(**({"line": True} if "line" in fault else {"fault": "none"}))
    hand.clear()
    weigh(page, hand, 0.52)
    assert [str(w.value) for w in Weighing.objects.all()] == ["0.52"]


@pytest.mark.long
def test_auto_takes_each_load_that_settles_once_and_a_lighter_one_never(page, hand, opened):
    rows = opened()
    page.goto(f"/bench/{rows.test.pk}/")
    expect(page.locator("[data-show=why]")).to_have_text("nothing on the scale")
    page.keyboard.press("a")
    for pounds in (0.44, 0.46):
        hand.put(pounds)
        expect(page.locator("#said")).to_contain_text("recorded")
        expect(page.locator(".last li").first).to_contain_text(f"{pounds} lb")
        hand.say(put=-0.20 * 453.59237)  # some of it is taken off again: nothing new
        expect(page.locator("#take-weight")).to_be_enabled()
        hand.clear()
        expect(page.locator("[data-show=why]")).to_have_text("nothing on the scale")
    assert [str(w.value) for w in Weighing.objects.all()] == ["0.44", "0.46"]


@pytest.mark.long
def test_a_tub_that_stays_on_the_scale_is_weighed_by_difference(page, hand, opened):
    rows = opened()
    page.goto(f"/bench/{rows.test.pk}/")
    hand.put(1.20)
    press(page, "d", "[data-show=why]", "nothing added")
    for key, pounds, gross in (("1", 0.80, "2.00"), ("2", 0.55, "2.55")):
        hand.put(pounds)
        page.keyboard.press(key)
        expect(page.locator("[data-show=weight]")).to_have_text(f"{pounds:.2f}")
        take(page, "Enter")
        expect(page.locator(".last li").first).to_contain_text(f"{pounds:.2f} lb")
        expect(page.locator(".last li").first).to_contain_text("by difference")
        expect(page.locator("[data-show=portion]")).to_have_text(f"since {gross}")
    found = [(str(w.value), str(w.before), str(w.gross)) for w in Weighing.objects.all()]
    assert found == [("0.80", "1.20", "2.00"), ("0.55", "2.00", "2.55")]


@pytest.mark.long
def test_trim_of_two_tests_goes_into_one_tub_by_what_it_gains(page, hand, opened):
    first, second = opened(lot="L1"), opened(lot="L2")
    page.goto("/tubs/")
    page.fill("#tub-name", "Lean 80")
    page.fill("#tub-shows", "1.12")
    page.click("button:text-is('Start it')")
    expect(page.locator(".tub")).to_contain_text("Nothing in it yet")
    for rows, puts in ((first, 1.12 + 0.68), (second, 0.40)):
        page.goto(f"/bench/{rows.test.pk}/")
        if page.locator("#take-scale").count():
            page.click("#take-scale")
            expect(page.locator("#take-scale")).to_have_count(0)
        page.wait_for_load_state()
        page.keyboard.press("3")
        page.click("text=Tubs, scales")
        page.click("button:text-is('Lean 80')")
        expect(page.locator(".pile:has-text('Lean trim')")).to_contain_text("tub Lean 80")
        page.wait_for_load_state()
        hand.put(puts)
        take(page, "Enter")
        expect(page.locator("#said")).to_contain_text("recorded")
    page.goto("/tubs/")
    expect(page.locator(".tub")).to_contain_text("1.08 lb in it")
    expect(page.locator(".tub")).to_contain_text("Lots: L1, L2")
    assert [str(w.value) for w in Tub.objects.get().weighings.all()] == ["0.68", "0.40"]


@pytest.mark.long
def test_a_wiped_glass_takes_nothing_and_a_touched_button_leaves_the_pedal_free(page, hand, opened):
    rows = opened()
    page.goto(f"/bench/{rows.test.pk}/")
    hand.put(0.44)
    page.click("#wipe")
    expect(page.locator("#wiping")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.locator("#wiping")).to_be_hidden(timeout=20_000)
    assert not Weighing.objects.exists()
    page.click("[data-order=unit]")
    expect(page.locator("[data-show=unit]")).to_have_text("oz")
    page.click("[data-order=unit]")
    expect(page.locator("[data-show=unit]")).to_have_text("kg")
    take(page, "NumpadEnter")  # the pedal is a plain Enter: it takes, it presses no button
    expect(page.locator(".last li").first).to_contain_text("kg")
    assert Weighing.objects.get().unit == "kg"


@pytest.mark.long
def test_the_daily_check_fails_with_a_drift_and_the_sheet_of_that_day_says_so(page, hand, weighed):
    page.goto("/scale/")
    for line, pounds in ((1, 0), (2, 5)):
        if pounds:
            hand.put(pounds + 0.03)
            expect(page.locator("[data-show=weight]")).to_have_text("5.03")
        expect(page.locator("[data-show=state]")).to_have_text("steady")
        page.locator("tbody tr").nth(line - 1).locator("[data-read]").click()
    for line in (3, 4):
        page.locator("tbody tr").nth(line - 1).locator("[name=load]").fill("")
    page.click("text=Judge and record")
    expect(page.locator(".told").first).to_contain_text("failed its check")
    check = ScaleCheck.objects.get()
    assert [line["is_typed"] for line in check.lines] == [False, False]
    page.goto("/")
    expect(page.locator("#scales")).to_contain_text("The Block scale failed its check")
    page.goto(f"/sheet/{weighed(signed=True).test.pk}/")
    expect(page.locator(".told").first).to_contain_text("5.03 lb shown for 5")


@pytest.mark.long
def test_a_manager_corrects_a_finished_sheet_and_both_versions_stay(page, weighed):
    rows = weighed()
    page.goto(f"/sheet/{rows.test.pk}/")
    page.click("text=Correct it, with a reason")
    page.fill(f"#weighing-{rows.weighings[0].pk}", "3.40")
    page.click("text=Add the correction")
    expect(page.locator(".told")).to_contain_text("Reason: 3 to 500 characters")
    expect(page.locator(f"#weighing-{rows.weighings[0].pk}")).to_have_value("3.40")
    page.fill("#reason", "The tub was left on.")
    page.click("text=Add the correction")
    expect(page.locator("table").first).to_contain_text("3.40")
    expect(page.locator(".versions")).to_contain_text("by Bram: The tub was left on.")
    page.click("text=As it was finished")
    expect(page.locator("table").first).to_contain_text("3.45")
    page.click("text=As it is now")
    expect(page.locator("table").first).to_contain_text("3.40")


@pytest.mark.long
def test_a_tablet_that_was_withdrawn_keeps_its_weighings_and_asks_who_is_there(
    browser, live_server, hand, opened
):
    from rooms.staff.actions.tablets import withdraw
    from rooms.staff.models import Tablet, Turn
    from tests.conftest import person

    rows = opened()
    with tablet(browser, live_server.url, by="ines") as page:
        page.goto(f"/bench/{rows.test.pk}/")
        weigh(page, hand, 0.44)
        hand.clear()
        withdraw(Tablet.objects.get().pk, person("bram"))
        hand.put(0.52)
        take(page, "Enter")
        expect(page.locator("#said")).to_contain_text("Nobody is at the block")
        expect(page.locator("#waiting")).to_contain_text("0.52 lb")
        page.goto(f"/bench/{rows.test.pk}/")
        expect(page).to_have_url(re.compile("/office/"))
        page.fill("[name=username]", "bram")
        page.fill("[name=password]", "gull-quay-demo")
        page.click("text=Log in")
        expect(page.locator(".last")).to_contain_text("0.52 lb")  # what was kept is sent now
    assert [str(w.value) for w in Weighing.objects.all()] == ["0.44", "0.52"]
    assert Turn.objects.get().until is not None


@pytest.mark.long
def test_keys_alone_open_hand_over_move_and_correct(page, hand, opened):
    """No pointer at all: the keys of the bench and the tab key."""
    rows = opened()
    page.goto(f"/bench/{rows.test.pk}/")
    weigh(page, hand, 0.44, key="Enter")
    page.keyboard.press("2")
    page.keyboard.press("m")
    expect(page.locator(".pile:has-text('Tips')")).to_contain_text("0.44")
    page.wait_for_load_state()
    page.keyboard.press("p")
    expect(page.locator("#clock")).to_contain_text("clock running")
    with page.expect_response("**/mark/"):  # a running clock goes on at the next step
        page.keyboard.press("]")
    expect(page.locator("#step")).to_contain_text("Step 2")
    first, second = (mark.step_key for mark in TimeMark.objects.order_by("id"))
    assert first != second
    page.keyboard.press("p")
    expect(page.locator("#clock")).to_contain_text("clock paused")
    page.locator("#finish-now").focus()
    page.keyboard.press("Enter")
    page.wait_for_selector("#unfinished")
    for box in page.locator("#unfinished input[type=checkbox]").all():
        box.focus()
        page.keyboard.press("Space")
    page.locator("#unfinished button").focus()
    page.keyboard.press("Enter")
    page.locator("text=Correct it, with a reason").focus()
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_contain_text("Correct the sheet")


@pytest.mark.long
@pytest.mark.parametrize("order", [(0, 1), (1, 0)])
def test_a_press_while_the_clock_is_asked_is_seen_in_whatever_order_the_answers_come(
    page, hand, opened, order
):
    rows = opened()
    page.goto(f"/bench/{rows.test.pk}/")
    hears_keys(page)
    page.keyboard.press("p")
    expect(page.locator("#clock")).to_contain_text("clock running")
    held = []

    def hold(route):
        held.append(route)

    page.route("**/mark/", hold)
    for key in "]p":
        with page.expect_request("**/mark/"):
            page.keyboard.press(key)
    answers = [route.fetch() for route in held]
    for at in order:
        with page.expect_response("**/mark/"):
            held[at].fulfill(response=answers[at])
    expect(page.locator("#clock")).to_contain_text("clock paused")


@pytest.mark.long
def test_a_pin_by_keys_locks_after_five_wrong_ones(browser, live_server, shop):
    with tablet(browser, live_server.url, by="") as page:
        page.goto("/")
        page.click(".people >> text=Ines")
        for _ in range(5):
            expect(page.locator("#pin")).to_be_focused()
            page.keyboard.type("0001")
            with page.expect_navigation():
                page.keyboard.press("Enter")
            expect(page.locator(".told")).to_be_visible()
        expect(page.locator(".told")).to_contain_text("Wait 30 seconds")
        page.click("text=Another name")
        pin(page, "Bram", "2718")
        expect(page.locator(".person")).to_contain_text("Bram")
