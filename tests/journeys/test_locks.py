"""A block that nobody touches asks who is there again, and keeps what waits on it."""

import re

import pytest
from playwright.sync_api import expect

from rooms.bench.models import Weighing
from rooms.staff.models import SecurityEvent, Turn
from tests.journeys.conftest import hears_keys, open_tenderloin, pin, tablet


@pytest.mark.long
def test_a_block_locks_after_half_an_hour_and_not_while_it_is_touched(browser, live_server, shop):
    with tablet(browser, live_server.url, by="ines") as page:
        page.clock.install()
        open_tenderloin(page)
        hears_keys(page)
        for _ in range(2):
            page.clock.fast_forward("20:00")
            page.locator("#rail").click()
        expect(page).to_have_url(re.compile("/bench/[0-9a-f]"))
        page.clock.fast_forward("31:00")
        expect(page.locator("h1")).to_have_text("Who is at the block?")
        assert not Turn.objects.filter(until=None).exists()
        pin(page, "Ines", "3141")
        expect(page).to_have_url(re.compile("/bench/[0-9a-f]"))
    assert SecurityEvent.objects.filter(kind="out").count() == 1
    assert not Weighing.objects.exists()


@pytest.mark.long
def test_what_a_manager_typed_is_kept_while_the_password_is_asked_for(browser, live_server, shop):
    with tablet(browser, live_server.url, by="bram", is_confirmed=False) as page:
        page.goto("/shop/place/")
        page.fill("[name=lock_minutes]", "12")
        page.get_by_role("button", name="Keep it").click()
        expect(page.locator("h1")).to_have_text("Your password")
        page.fill("#own-password", "not this one")
        page.get_by_role("button", name="Continue").click()
        expect(page.locator(".told")).to_contain_text("that is not Bram's")
        page.fill("#own-password", "gull-quay-demo")
        page.get_by_role("button", name="Continue").click()
        expect(page.locator("main")).to_contain_text("12")
        page.goto("/shop/place/")
        expect(page.locator("[name=lock_minutes]")).to_have_value("12")
