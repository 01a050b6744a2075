"""A real browser, a real scale bridge. Shared by all journeys of a worker."""

import json
import os
import signal
import socket
import subprocess
import sys
import urllib.request
from contextlib import contextmanager, suppress
from pathlib import Path

import pytest
from playwright.sync_api import TimeoutError, expect, sync_playwright

from tests.conftest import at_tablet
from tests.database import put_back

ROOT = Path(__file__).parents[2]
POUND = 453.59237
ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
UNTIL_WORKED_FOR = """() => new Promise((done) => {
  const worker = navigator.serviceWorker;
  worker.controller ? done() : worker.addEventListener("controllerchange", () => done());
})"""
SHOWS = """([selector, text]) =>
  document.querySelector(selector)?.textContent.replace(/\\s+/g, " ").includes(text)"""
expect.set_options(timeout=15_000)


def free_port():
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


@pytest.fixture(scope="session")
def browser():
    with sync_playwright() as playwright:
        launched = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGS)
        yield launched
        launched.close()


class Hand:
    """The hand that loads the simulated scale."""

    def __init__(self, url):
        self.url = url

    def say(self, **what):
        request = urllib.request.Request(f"{self.url}/hand", json.dumps(what).encode())
        urllib.request.urlopen(request, timeout=5)

    def put(self, pounds):
        self.say(put=pounds * POUND)

    def clear(self):
        self.say(take_off=True)


@contextmanager
def running(command, url, **more):
    """A process of our own until the end of the block; waits until it answers."""
    process = subprocess.Popen(command, cwd=ROOT, start_new_session=True, **more)
    try:
        for _ in range(200):
            try:
                urllib.request.urlopen(url, timeout=1).close()
                break
            except OSError:
                if process.poll() is not None:
                    raise RuntimeError(f"{command} ended") from None
                try:
                    process.wait(0.1)
                except subprocess.TimeoutExpired:
                    continue
        yield process
    finally:
        kill(process)


def kill(process):
    """kill -9, with the workers that a server has started."""
    with suppress(ProcessLookupError):
        os.killpg(process.pid, signal.SIGKILL)
    process.wait()


@contextmanager
def scale_bridge(*pages):
    port = free_port()
    command = [sys.executable, "-m", "devices.bridge", "--port", str(port), "--speed", "8"]
    for page in pages:
        command += ["--page", page]
    key = {**os.environ, "SCALE_KEY": "test-scale"}
    with running(command, f"http://127.0.0.1:{port}/panel", env=key):
        yield Hand(f"http://127.0.0.1:{port}")


@pytest.fixture(scope="session")
def bridge(live_server):
    """The scale that the pages of the live server listen to; one for all journeys of a worker."""
    with scale_bridge(live_server.url) as scale:
        yield scale


@pytest.fixture
def hand(bridge, settings):
    """That scale as it was first switched on."""
    bridge.say(as_new=True)
    settings.SCALE_URL = bridge.url
    return bridge


@pytest.fixture
def page(browser, live_server):
    """A wall tablet: 1280 by 800. Scripts that fail fail the journey."""
    with tablet(browser, live_server.url) as opened:
        yield opened


@contextmanager
def tablet(browser, url, width=1280, height=800, **more):
    by, is_confirmed = more.pop("by", "bram"), more.pop("is_confirmed", True)
    more.setdefault("service_workers", "block")  # else a route may miss what the page sends
    context = browser.new_context(base_url=url, viewport={"width": width, "height": height}, **more)
    if by is not None:  # "" is an enrolled tablet with nobody at it
        cookies = at_tablet(by, is_confirmed=is_confirmed)
        context.add_cookies([{"name": n, "value": v, "url": url} for n, v in cookies.items()])
    opened = context.new_page()
    faults = []
    opened.on("pageerror", lambda error: faults.append(str(error)))
    yield opened
    context.close()
    assert faults == []


def pin(page, name, digits):
    """Say who one is, with the large keys."""
    page.click(f".people >> text={name}")
    for digit in digits:
        page.click(f".pad >> text='{digit}'")
    page.click(".pad >> text=OK")


def give_password(page):
    """What is asked of a manager who signed in with a PIN; what was sent goes on with it."""
    page.fill("#own-password", "gull-quay-demo")
    page.get_by_role("button", name="Continue").click()


def first_manager(page):
    """A shop in which nobody is entered yet: its first manager, who enrols this browser."""
    page.goto("/")
    page.fill("#id_name", "Bram")
    page.fill("#id_username", "bram")
    for field in ("#id_password", "#id_again"):
        page.fill(field, "gull-quay-demo")
    page.click("text=Enter me as manager")
    page.click(".first-day >> text=People and tablets")
    page.fill("#tablet", "Block 1")
    page.click("button:text-is('Enrol this browser')")
    expect(page.locator(".lines")).to_contain_text("this browser")


def hears_keys(page):
    """Wait for the mark that the block's scripts set."""
    expect(page.locator("#take[data-ready]")).to_have_count(1)


def until(page, selector, text, timeout=15_000):
    """Wait for a text at every frame; `expect` looks again after up to a second."""
    page.wait_for_function(SHOWS, arg=[selector, text], timeout=timeout)


def press(page, key, selector, text):
    """Press a key until what it does is seen. While the scale is moving or not heard a press does
    nothing, and is made again as at the block."""
    button = page.locator("#take-weight")
    for is_last in (False, False, True):
        page.wait_for_selector("#take-weight:enabled")
        if key:
            page.keyboard.press(key)
        else:
            button.click()
        try:
            until(page, selector, text, timeout=15_000 if is_last else 3_000)
            break
        except TimeoutError:
            if is_last:
                raise


def take(page, key=None):
    """Take what lies on the scale, by key or by touch."""
    press(page, key, "[data-show=why]", "taken, change the load")


def weigh(page, hand, pounds, key=None):
    """Put a load on, wait until it may be taken, take it."""
    hears_keys(page)
    hand.clear()
    until(page, "[data-show=why]", "nothing on the scale")
    hand.put(pounds)
    take(page, key)
    until(page, "#said", "recorded")


def open_tenderloin(page, *, has_scripts=True):
    page.goto("/bench/")
    page.click(".pieces >> text=Tenderloin, side muscle on, defatted")
    page.fill("[name=weight]", "6.17")
    page.fill("[name=price]", "7.49")
    page.fill("[name=supplier]", "Skerry Point Packing")
    page.click("text=Open the piece")
    expect(page.locator("#rail")).to_contain_text("6.17 lb still on the block")
    if has_scripts:
        hears_keys(page)


def finish_as_it_is(page):
    """Finish with what is unweighed, and with none of each empty pile: the second button."""
    page.locator("#finish-now:visible, #finish button:visible").first.click()
    page.wait_for_selector("#unfinished")
    for box in page.locator("#unfinished input[type=checkbox]").all():
        box.check()
    page.click("#unfinished button")


def new_shop(environment):
    """An empty shop's database with the catalog."""
    put_back(environment["TALLY_DB"])


@pytest.fixture
def solver(settings):
    """The solver's own process."""
    port = free_port()
    settings.SOLVER_URL = f"http://127.0.0.1:{port}"
    command = [sys.executable, "-m", "mindful_tally.solver", "--port", str(port)]
    assert ROOT.is_dir()
    with running(command, settings.SOLVER_URL):
        yield
