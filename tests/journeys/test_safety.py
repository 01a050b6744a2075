"""The tablet's list with an entry the server fails on, a full disk; and what pages may do."""

import re
from contextlib import contextmanager

import pytest
from playwright.sync_api import expect

from rooms.bench.models import Weighing
from tests.journeys.conftest import UNTIL_WORKED_FOR, open_tenderloin, tablet, take

pytestmark = pytest.mark.django_db(transaction=True)


def type_weight(page, value, unit="lb"):
    if not page.locator("#typed-weight").is_visible():
        page.click("text=No scale? Type a weight")
    page.fill("#typed-weight", value)
    page.select_option("select[name=unit]", unit)
    page.click("text=Record typed weight")


@contextmanager
def failing(page, value, status, body="<p>gone</p>"):
    """The server answers every capture of this value with a 5xx."""

    def answer(route):
        if f"value={value}" in (route.request.post_data or ""):
            route.fulfill(status=status, content_type="text/html", body=body)
        else:
            route.continue_()

    page.route("**/capture/", answer)
    yield
    page.unroute("**/capture/", answer)


@pytest.mark.long
def test_an_entry_the_server_fails_on_is_put_aside_and_what_came_after_goes_on(
    browser, live_server, shop
):
    with tablet(browser, live_server.url) as page:
        open_tenderloin(page)
        with failing(page, "0.44", 500):
            type_weight(page, "0.44")
            type_weight(page, "0.45")
            waiting = page.locator("#waiting li")
            expect(waiting.filter(has_text="0.44 lb")).to_contain_text("failed on it 4 times")
            expect(page.locator(".last")).to_contain_text("0.45 lb")
            expect(waiting).to_have_count(1)
            page.reload()  # it is still there, and visible
            expect(waiting).to_contain_text("server failed on it")
        waiting.get_by_text("Send again").click()
        expect(waiting).to_have_count(0)
        expect(page.locator(".last")).to_contain_text("0.44 lb")
        with failing(page, "0.46", 500):
            type_weight(page, "0.46")
            expect(waiting).to_contain_text("server failed on it")
            waiting.get_by_text("Remove from this list").click()
            expect(waiting).to_have_count(0)
    assert [str(w.value) for w in Weighing.objects.order_by("id")] == ["0.45", "0.44"]


@pytest.mark.long
def test_a_full_disk_is_said_and_nothing_is_put_aside_or_lost(browser, live_server, shop):
    from rooms.common.db.faults import FULL_DISK
    from rooms.common.web.plain import page_of_fault

    with tablet(browser, live_server.url) as page:
        open_tenderloin(page)
        with failing(page, "0.44", 507, page_of_fault(FULL_DISK).content.decode()):
            type_weight(page, "0.44")
            expect(page.locator("#said")).to_contain_text("The shop's disk is full")
            type_weight(page, "0.45")
            expect(page.locator("#waiting li")).to_have_count(2)
            expect(page.locator("#waiting")).not_to_contain_text("Send again")
        expect(page.locator("#waiting li")).to_have_count(0)
    assert [str(w.value) for w in Weighing.objects.order_by("id")] == ["0.44", "0.45"]  # in order


@pytest.mark.long
def test_typed_grams_into_a_tub_of_pounds_arrive_and_the_scale_goes_on_from_there(
    browser, live_server, hand, shop
):
    """What once stopped a tablet for good."""
    with tablet(browser, live_server.url) as page:
        page.goto("/tubs/")
        page.fill("#tub-name", "Lean 80")
        page.fill("#tub-shows", "1.00")
        page.click("button:text-is('Start it')")
        open_tenderloin(page)
        page.locator(".pile:has-text('Lean trim') input").check(force=True)
        page.click("text=Tubs, scales")
        page.click("button:text-is('Lean 80')")
        expect(page.locator(".pile:has-text('Lean trim')")).to_contain_text("tub Lean 80")
        type_weight(page, "300", "g")
        expect(page.locator(".last")).to_contain_text("300 g")
        hand.put(2.00)  # the tub with a little more, by what it gained
        take(page)
        expect(page.locator(".last")).to_contain_text("0.34 lb")
        assert str(Weighing.objects.last().value) == "0.33861"
        page.goto("/tubs/")
        expect(page.locator(".tub")).to_contain_text("the scale shows 2.00 lb")
        page.click("text=Ledger")
        expect(page.locator(".tub table").last).to_contain_text("not by the scale")


@pytest.mark.long
def test_no_page_runs_a_script_of_others_and_each_says_what_it_may(page, weighed):
    rows = weighed()
    told = []
    page.on("console", lambda message: told.append(message.text))
    addresses = (
        "/",
        "/bench/",
        "/pieces/",
        "/counter/",
        "/cooler/temperature/",
        "/counter/ad/",
        f"/sheet/{rows.test.pk}/",
        f"/counter/test/{rows.test.pk}/",
    )
    for address in addresses:
        answer = page.goto(address)
        policy = answer.headers["content-security-policy"]
        assert "default-src 'none'" in policy, address
        assert "unsafe" not in policy
        assert "camera=()" in answer.headers["permissions-policy"]
        for tag in re.findall(r"<script[^>]*>", answer.text()):
            nonce = re.search(r"nonce=\"([^\"]+)\"", tag)[1]
            assert f"'nonce-{nonce}'" in policy, tag
    page.goto("/")
    page.evaluate(
        """() => {
          const injected = document.createElement("script");
          injected.textContent = "window.hurt = 1";
          document.body.append(injected);
          document.body.insertAdjacentHTML("beforeend", "<img src=x onerror='window.hurt = 1'>");
        }"""
    )
    assert page.evaluate("() => window.hurt") is None
    assert all("Content Security Policy" in text or "404" in text for text in told), told


def test_the_scales_panel_keeps_to_the_same_rules(page, hand):
    answer = page.goto(f"{hand.url}/panel")
    assert "default-src 'none'" in answer.headers["content-security-policy"]
    page.click("text=0.44 (7 oz)")
    expect(page.locator("#face")).to_contain_text("0.44")


@pytest.mark.long
def test_the_service_worker_forgets_what_no_page_names(browser, live_server, opened):
    tests = [opened() for _ in range(14)]
    with tablet(browser, live_server.url, service_workers="allow") as page:
        page.goto(f"/bench/{tests[0].test.pk}/")
        page.evaluate(UNTIL_WORKED_FOR)
        page.evaluate(
            """async () => {
              const kept = await caches.open("tally-2");
              await kept.put("/static/js/old.js", new Response("old"));
            }"""
        )
        for rows in tests:
            page.goto(f"/bench/{rows.test.pk}/")
        found = page.evaluate(
            """() => new Promise((done) => {
              const look = async () => {
                const kept = await (await caches.open("tally-2")).keys();
                const paths = kept.map((each) => new URL(each.url).pathname);
                const pages = paths.filter((path) => path.startsWith("/bench/"));
                if (pages.length <= 12 && !paths.includes("/static/js/old.js")) done(paths);
                else setTimeout(look, 50);
              };
              look();
            })"""
        )
    assert f"/bench/{tests[-1].test.pk}/" in found
    assert f"/bench/{tests[0].test.pk}/" not in found
    assert any(path.endswith("bench.js") for path in found)
