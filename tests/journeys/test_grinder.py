"""Trim of two tests into a tub, a blend, ground, carried over, cleaned, the log."""

import uuid
from decimal import Decimal

import pytest
from django.urls import reverse
from playwright.sync_api import expect

from cutting.grinding.judging import How
from rooms.grinder.actions.tubs import NewTub, judge, start_tub
from rooms.grinder.models import TubIn
from tests.journeys.conftest import tablet
from tests.rooms.grinder.helpers import tub

pytestmark = pytest.mark.django_db(transaction=True)


def confirm(page, button):
    """Every point of the open list, then its button."""
    points = page.locator("details[open] [name=points]")
    expect(points.first).to_be_visible()
    for at in range(points.count()):
        points.nth(at).tap()
    page.get_by_role("button", name=button, exact=True).tap()


@pytest.mark.long
def test_from_the_block_to_the_log_by_touch(browser, live_server, weighed, solver):
    for _ in range(2):
        weighed()
    made = start_tub(NewTub(uuid.uuid4(), "Trim", "beef", "lean"), None)
    judge(made.pk, How.TESTER, Decimal("0.85"), None)
    with tablet(browser, live_server.url, has_touch=True) as page:
        page.goto("/")
        page.get_by_role("link", name="Grinder").tap()
        for _ in range(2):
            page.get_by_role("button", name="into Trim").first.tap()
        expect(page.get_by_role("button", name="into Trim")).to_have_count(0)
        page.get_by_text("It is cleaned and sanitized").tap()
        confirm(page, "Cleaned and sanitized")
        confirm(page, "Set up")
        expect(page.locator(".plan-head")).to_contain_text("set up at")
        page.select_option("[name=b0-product]", label="Ground beef")
        page.fill("[name=b0-weight]", "1.5")
        page.fill("[name=b0-lean]", "85")
        page.get_by_role("button", name="Blend").tap()
        expect(page.locator(".takes")).to_contain_text("take 1.5 lb")
        page.get_by_label("Meat, °C").fill("2.5")
        page.get_by_role("button", name="Grind this").tap()
        expect(page.locator("h1")).to_contain_text("G-1")
        page.get_by_label("Came out").fill("1.3")
        page.get_by_label("Left in the grinder").fill("0.1")
        page.get_by_label("Meat, °C").fill("4")
        page.get_by_role("button", name="Keep it").first.tap()
        page.get_by_role("button", name="into Trim").tap()
        expect(page.locator(".log")).to_contain_text("Carried over")
        page.get_by_label("Trays").fill("2")
        page.get_by_label("Weight of them").fill("1.3")
        page.get_by_role("button", name="Packed").tap()
        expect(page.locator(".log")).to_contain_text("2 trays")
        page.goto("/grinder/")
        page.get_by_text("It is cleaned and sanitized").tap()
        confirm(page, "Cleaned and sanitized")
        expect(page.locator(".plan-head")).to_contain_text("not set up")
        page.goto("/grinder/log/?text=G-1")
        expect(page.locator("tbody tr")).to_have_count(1)
        page.get_by_role("link", name="Print for an inspector").tap()
        expect(page.locator(".records tbody tr")).to_have_count(1)
        expect(page.locator(".records")).to_contain_text("no known lot")
        assert page.pdf()[:4] == b"%PDF"


@pytest.mark.long
def test_the_grinder_fits_a_phone(browser, live_server, shop):
    start_tub(NewTub(uuid.uuid4(), "Trim", "beef", "lean"), None)
    with tablet(browser, live_server.url, 390, 844) as phone:
        for path in ("", "log/", "log/print/", "rules/"):
            phone.goto(f"/grinder/{path}")
            assert phone.evaluate("document.documentElement.scrollWidth") <= 390, path


@pytest.mark.long
def test_a_press_that_comes_to_nothing_says_so(browser, live_server, weighed, shop):
    rows = weighed()
    chuck = tub("Chuck")
    sheet = reverse("bench:sheet", args=[rows.test.pk])
    with tablet(browser, live_server.url, has_touch=True) as page:
        page.goto(sheet)
        into = page.get_by_role("button", name="into Chuck")
        trouble = page.get_by_role("alert")
        page.route("**/grinder/**", lambda route: route.abort())
        into.tap()
        expect(trouble).to_contain_text("The server does not answer. Press again")
        trouble.get_by_role("button", name="Seen").tap()
        expect(trouble).to_be_hidden()
        page.unroute("**/grinder/**")
        kept = page.context.cookies()
        page.context.clear_cookies()  # the turn at the tablet has ended meanwhile
        page.context.add_cookies([one for one in kept if one["name"] == "csrftoken"])
        into.tap()
        expect(trouble).to_contain_text("Nobody is")
        page.context.add_cookies(kept)
        into.tap()
        expect(page.locator(".to-tubs")).to_contain_text("in Chuck")
        expect(trouble).to_be_hidden()
    assert TubIn.objects.get().tub == chuck
