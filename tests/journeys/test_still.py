"""Nothing moves under the finger: what a page loads after itself pushes no control aside."""

import re

import pytest

from tests.journeys.conftest import open_tenderloin, tablet, weigh
from tests.journeys.test_access import pages_of

pytestmark = pytest.mark.django_db(transaction=True)
LATE = re.compile(rb'<\w+ [^>]*hx-trigger="load')
REMEMBER = """() => {
  window.stood = new Map();
  for (const each of document.querySelectorAll("a, button, input, select, textarea, summary")) {
    if (!each.checkVisibility() || !each.getClientRects().length) continue;
    const { x, y } = each.getBoundingClientRect();
    window.stood.set(each, [x, y]);
  }
}"""
MOVED = """() => [...window.stood].filter(([each]) => each.isConnected).flatMap(([each, [x, y]]) => {
  const now = each.getBoundingClientRect();
  const by = Math.max(Math.abs(now.x - x), Math.abs(now.y - y));
  return by > 1 ? [`${each.textContent.trim() || each.name} by ${Math.round(by)}`] : [];
})"""


def moved_by_late_parts(page, path):
    """The controls that stand elsewhere once everything late has come."""
    held, is_held = [], True
    page.route(
        lambda _: True,
        lambda route: (
            held.append(route)
            if is_held and route.request.headers.get("hx-request")
            else route.continue_()
        ),
    )
    page.goto(path)
    page.wait_for_function("() => document.querySelector('.htmx-request')")
    page.evaluate(f"document.fonts.ready.then({REMEMBER})")
    is_held = False
    for route in held:
        route.continue_()
    page.wait_for_function("() => !document.querySelector('.htmx-request')")
    page.unroute_all()
    return page.evaluate(MOVED)


@pytest.mark.long
@pytest.mark.parametrize("width", [1280, 390])
def test_what_comes_late_moves_no_control(
    client, browser, live_server, weighed, opened, shop, width
):
    every = pages_of(weighed, opened, shop)
    if width < 900:
        every.remove("/?wall=1")  # nobody hangs a phone on the wall
    pages = [path for path in every if LATE.search(client.get(path).content)]
    assert len(pages) > 10
    with tablet(browser, live_server.url, width=width) as page:
        moved = {path: found for path in pages if (found := moved_by_late_parts(page, path))}
    assert moved == {}


WHERE = """() => Object.fromEntries(
  [...document.querySelectorAll("#take-weight, .pile, .small-hands button, #take-back, #move-it")]
    .filter((each) => each.getClientRects().length)
    .map((each) => [each.id || each.textContent.trim(), Math.round(each.getBoundingClientRect().y + scrollY)])
)"""


@pytest.mark.long
@pytest.mark.parametrize("width", [1280, 390])
def test_nothing_moves_while_a_piece_is_cut(browser, live_server, hand, shop, width):
    with tablet(browser, live_server.url, width=width) as page:
        open_tenderloin(page)
        piles = page.locator(".pile")
        stood = page.evaluate(WHERE)
        for number in range(piles.count()):
            piles.nth(number).click()
            assert page.evaluate(WHERE) == stood
        weights = ((0, 0.43), (0, 0.44), (0, 0.38), (0, 0.6), (1, 0.3), (3, 0.2), (0, 0.41))
        for number, pounds in weights:
            piles.nth(number).click()
            weigh(page, hand, pounds)
            stands = page.evaluate(WHERE)
            # with the first weighing come the two buttons for the last one
            assert stood.items() <= stands.items()
            stood = stands
