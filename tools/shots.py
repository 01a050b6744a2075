#!/usr/bin/env python3
"""`make shots`: the pictures in docs/screenshots, made from demo data in a database of its own."""

import json
import os
import re
import subprocess
import sys
import urllib.request
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
SHOTS = ROOT / "docs" / "screenshots"
DATABASE = ROOT / "var" / "shots.sqlite3"
EMPTY = ROOT / "var" / "shots-empty.sqlite3"
PORT, SCALE_PORT = 8760, 8761
BASE = f"http://127.0.0.1:{PORT}"
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]
POUND = 453.59237


def answers(url):
    try:
        urllib.request.urlopen(url, timeout=1).close()
    except OSError:
        return False
    return True


def put(**what):
    request = urllib.request.Request(
        f"http://127.0.0.1:{SCALE_PORT}/hand", json.dumps(what).encode()
    )
    urllib.request.urlopen(request, timeout=5).close()


def shoot(page, name, full=False):
    page.evaluate("document.fonts.ready.then(() => 1)")
    page.screenshot(path=SHOTS / f"{name}.png", full_page=full)
    print(f"  {name}.png", flush=True)


def link(page, kind, words):
    """The address of the first test in the list that has `words`."""
    page.goto(f"{BASE}/bench/")
    return page.locator(f'.tests a[href*="/{kind}/"]:has-text("{words}")').first.get_attribute(
        "href"
    )


def catalog(page):
    """A guide."""
    for name, address in (("guide-beef", "/pieces/beef-top-sirloin/?plan=portioned&step=4"),):
        page.goto(address, wait_until="networkidle")
        shoot(page, name)


def cooler(page):
    """The morning page, the bags."""
    for name, address in (
        ("today", "/"),
        ("cooler", "/cooler/"),
    ):
        page.goto(address, wait_until="networkidle")
        shoot(page, name)


def enter(page):
    """The manager logs in and enrols this browser."""
    page.goto("/office/")
    page.fill("[name=username]", "bram")
    page.fill("[name=password]", "gull-quay-demo")
    page.click("text=Log in")
    page.wait_for_load_state()
    page.goto("/people/")
    page.fill("#tablet", "Block 1")
    page.click("button:text-is('Enrol this browser')")
    page.wait_for_load_state()


def first_day(browser):
    """An empty shop of its own: the steps, the first of them done."""
    environment = {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "mindful_tally.settings.demo",
        "TALLY_DB": str(EMPTY),
    }
    for command in (("migrate", "--verbosity", "0"), ("load_catalog",)):
        subprocess.run(
            [sys.executable, "manage.py", *command], cwd=ROOT, env=environment, check=True
        )
    where = f"127.0.0.1:{PORT + 9}"
    server = subprocess.Popen(
        [sys.executable, "-m", "gunicorn", "mindful_tally.wsgi", "--bind", where],
        cwd=ROOT,
        env=environment,
    )
    try:
        while not answers(f"http://{where}"):
            server.poll()
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=f"http://{where}")
        page.goto("/office/first/")
        page.fill("[name=name]", "Bram")
        page.fill("[name=username]", "bram")
        for name in ("password", "again"):
            page.fill(f"[name={name}]", "gull-quay-demo")
        page.click("text=Enter me as manager")
        page.click(".first-day a.next")
        page.fill("[name=name]", "Gull Quay Co-operative")
        for _ in range(6):
            page.click("text=Keep it, go on")
            page.wait_for_load_state()
        shoot(page, "first-day")
        page.close()
    finally:
        server.terminate()
        server.wait()


def trays(page):
    """Packing by itself, and the label of a tray."""
    for name in ("Flat iron steak", "Ranch steak", "Chuck-eye steak", "Chuck steak"):
        page.goto("/trays/")
        page.get_by_role("link", name=name).first.click()
        left = re.search(r"([\d.]+) lb left", page.locator("main").inner_text())
        if left and float(left[1]) >= 1.05:  # some days the demo has sold most of a pile
            break
    put(put=1.05 * POUND)
    page.wait_for_selector("[data-show=state]:has-text('steady')")
    page.wait_for_selector("[data-show=weight]:has-text('1.05')")
    page.click("[data-packs]")
    page.wait_for_selector(".told.good")
    shoot(page, "packing")
    page.click(".told.good a")
    page.wait_for_selector(".label-paper text")
    shoot(page, "label")
    put(take_off=True)


def step_up(page, name, pin):
    page.goto("/who/")
    page.click(f".people >> text={name}")
    page.fill("#pin", pin)
    page.click(".pad >> text=OK")
    page.wait_for_load_state()


def counter(page, builder):
    """Prices of a clod with one dragged, the book, a review, an ad."""
    page.goto(builder, wait_until="networkidle")
    slider = page.get_by_label("Drag the price of Flat iron")
    slider.focus()
    page.wait_for_timeout(400)
    for _ in range(2):
        slider.press("ArrowRight")
    page.wait_for_timeout(1200)
    page.evaluate("scrollTo(0, 0)")
    shoot(page, "price")
    page.goto("/book/")
    shoot(page, "price-book")
    page.goto("/book/products/?name=tip roast")
    roast = page.locator("tbody a").first.get_attribute("href").split("/")[-2]
    steak = page.request.get("/book/products/?name=tip center").text()
    steak = steak.split("/book/products/")[-1].split("/")[0]
    page.goto(
        f"/counter/ad/?product-0={roast}&price-0=4.99&cost-0=5.10&usual-pounds-0=60&pounds-0=260"
        f"&product-1={steak}&cost-1=5.40&usual-pounds-1=30&pounds-1=70&goal=30",
        wait_until="networkidle",
    )
    shoot(page, "ad", full=True)


def layouts(page):
    """A rib-eye with the plain rule beside it."""
    page.goto("/layout/beef-ribeye/?weight=12.40&unit=lb&plan=steaks-one-inch")
    shoot(page, "layout")


def day(page):
    """The day as it is solved, with what things are worth."""
    page.goto("/planner/")
    page.click("text=Plan the day")
    page.wait_for_selector("#worth:not([hx-post])", timeout=60_000)
    shoot(page, "day")
    page.goto("/planner/ways/beef-knuckle/")
    shoot(page, "ways", full=True)


def grinder(page):
    """A blend of 28 lb over the tubs, in the dark."""
    page.emulate_media(color_scheme="dark")
    page.goto("/grinder/")
    page.select_option("[name=b0-product]", label="Ground beef")
    page.fill("[name=b0-weight]", "28")
    page.fill("[name=b0-lean]", "85")
    page.click("button:has-text('Blend')")
    page.wait_for_selector(".takes")
    shoot(page, "grinder")
    page.emulate_media(color_scheme="light")


def next_cut(page):
    """A rib-eye opened with its layout, three steaks cut a little heavy."""
    page.goto("/layout/beef-ribeye/?weight=12.40&unit=lb&plan=steaks-one-inch")
    page.click("text=Cut by these marks")
    page.fill("[name=weight]", "14.50")
    page.fill("[name=price]", "9.99")
    page.click("text=Open the piece")
    page.wait_for_selector("#take[data-ready]", state="attached")
    page.keyboard.press("h")
    page.wait_for_selector("#holder", state="attached")
    page.click("text=No scale? Type a weight")
    for number, pounds in enumerate(("0.90", "0.88", "0.91"), start=1):
        page.fill("#typed-weight", pounds)
        page.click("text=Record typed weight")
        page.wait_for_selector(f".next-why:has-text('first {number if number > 1 else 'came'}')")
    page.click("text=No scale? Type a weight")
    page.evaluate("scrollTo(0, 0)")
    shoot(page, "next-cut")


def way(page):
    """The last batch from its lots to its trays; a lot of it held, one tray found."""
    page.goto("/trays/way/?code=G-12")
    page.wait_for_selector(".ribbons")
    shoot(page, "way")
    page.get_by_role("link", name="Hold it").first.click()
    page.get_by_label("Why").fill("the supplier calls it back")
    page.click("text=Hold it now")
    page.get_by_label("Found: scan it").fill("tray 10")
    page.click("text=It lies apart now")
    page.wait_for_selector("[role=status]")
    shoot(page, "recall")


def views(browser):
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=BASE)
    page = context.new_page()
    enter(page)
    cooler(page)
    catalog(page)
    layouts(page)
    day(page)
    grinder(page)
    trays(page)
    sheet = link(page, "sheet", "Lamb leg")
    page.goto(sheet)
    shoot(page, "sheet", full=True)
    counter(page, link(page, "sheet", "Shoulder clod").replace("/sheet/", "/counter/test/"))
    step_up(page, "Ines", "3141")
    next_cut(page)
    bench = link(page, "bench", "Shoulder clod") + "?step=4"
    page.goto(bench)
    put(put=0.52 * POUND)
    page.wait_for_selector("[data-show=state]:has-text('steady')")
    page.wait_for_selector("#take[data-ready]", state="attached")
    page.keyboard.press("h")
    page.wait_for_selector("#take-weight:enabled")
    page.goto(bench)
    page.wait_for_selector("#take[data-ready]", state="attached")
    page.wait_for_selector("#take-weight:enabled")
    page.keyboard.press("u")
    page.keyboard.press("3")
    page.wait_for_selector("[data-show=unit]:has-text('oz')")
    page.wait_for_selector("#take-weight:enabled")
    shoot(page, "bench")
    kept = context.storage_state()
    context.close()
    phone = browser.new_context(
        viewport={"width": 390, "height": 844}, base_url=BASE, storage_state=kept
    )
    page = phone.new_page()
    page.goto(bench)
    page.wait_for_timeout(900)
    shoot(page, "bench-phone", full=True)
    phone.close()
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=BASE)
    page = context.new_page()
    enter(page)
    way(page)
    context.close()


def main():
    from playwright.sync_api import sync_playwright

    for leftover in DATABASE.parent.glob("shots*.sqlite3*"):
        leftover.unlink()
    SHOTS.mkdir(parents=True, exist_ok=True)
    environment = {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "mindful_tally.settings.demo",
        "TALLY_DB": str(DATABASE),
        "PORT": str(PORT),
        "SCALE_PORT": str(SCALE_PORT),
    }
    demo = subprocess.Popen([sys.executable, "manage.py", "demo"], cwd=ROOT, env=environment)
    try:
        for _ in range(1500):
            if answers(BASE):
                break
            try:
                demo.wait(0.2)
                raise SystemExit("the demo did not start")
            except subprocess.TimeoutExpired:
                continue
        with sync_playwright() as playwright:
            chromium = playwright.chromium
            browser = chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
            views(browser)
            first_day(browser)
            browser.close()
    finally:
        demo.terminate()
        demo.wait()
        for leftover in DATABASE.parent.glob("shots*.sqlite3*"):
            leftover.unlink()


if __name__ == "__main__":
    main()
