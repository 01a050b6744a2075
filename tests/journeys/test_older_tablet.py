"""A tablet's page is older than the server: what it kept is recorded once, in order."""

import re

import pytest
from playwright.sync_api import expect

from tests.journeys.conftest import ROOT, first_manager, open_tenderloin
from tests.journeys.test_block import own_server, recorded

pytestmark = pytest.mark.long
SCRIPTS = ROOT / "tests" / "upgrades" / "scripts_before"
WEIGHED = ("0.44", "0.45", "0.46", "0.47")


def test_four_weighings_wait_through_an_upgrade(browser, tmp_path):
    given = []

    def as_before(route):
        name = route.request.url.rpartition("/")[2]
        if (SCRIPTS / name).exists():
            given.append(name)
            route.fulfill(path=SCRIPTS / name)
        else:
            route.fallback()

    with own_server(browser, tmp_path) as (page, serve, database):
        page.route(re.compile(r"/static/.*\.js"), as_before)
        with serve():
            first_manager(page)
            open_tenderloin(page)
        for value in WEIGHED:
            page.click("text=No scale? Type a weight")
            page.fill("#typed-weight", value)
            page.click("text=Record typed weight")
            page.click("text=No scale? Type a weight")
        expect(page.locator("#waiting li")).to_have_count(len(WEIGHED))
        assert {"block.js", "queue.js", "store.js", "sending.js"} <= set(given)
        page.unroute_all()
        with serve():
            expect(page.locator("#waiting li")).to_have_count(0, timeout=60_000)
            expect(page.locator(".last")).to_contain_text("0.47 lb")
            # The page of now finds nothing left to send in what the one of before kept.
            page.reload()
            expect(page.locator("#waiting li")).to_have_count(0)
            expect(page.locator(".last")).to_contain_text("0.47 lb")
    assert recorded(database) == list(WEIGHED)
