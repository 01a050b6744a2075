"""Finding a piece, following its guide, changing it, printing it; the step beside the scale."""

import re

import pytest
from playwright.sync_api import expect

from rooms.bench.models import StepCheck
from rooms.catalog.models import Piece
from tests.journeys.conftest import open_tenderloin, tablet

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.mark.long
def test_any_piece_in_two_touches_from_the_start_page(page, shop):
    page.goto("/")
    page.click("nav >> text=Pieces")
    page.wait_for_load_state()
    page.locator("#find").press_sequentially("rump, tri")
    page.click("#found >> text=Top sirloin butt")
    expect(page.locator("h1")).to_contain_text("Top sirloin butt")
    page.goto("/pieces/")
    page.click("nav[aria-label=Animals] >> text=Pork")
    page.locator("svg.for-wide a[aria-label=Leg]").click()
    page.click("text=Pork leg, skin on")
    expect(page.locator("h1")).to_contain_text("Pork leg")


@pytest.mark.long
def test_a_piece_followed_step_by_step_with_the_keys(page, shop):
    page.goto("/pieces/beef-top-sirloin/?plan=portioned")
    page.keyboard.press("]")
    expect(page.locator("#now-head")).to_contain_text("Step 1 of")
    page.keyboard.press("]")
    expect(page.locator("#now-head")).to_contain_text("Step 2 of")
    page.keyboard.press("[")
    expect(page.locator("#now-head")).to_contain_text("Step 1 of")
    expect(page).to_have_url(re.compile("step=1"))
    page.click(".step-list >> text=peel the cap off")
    expect(page.locator(".seam-art .lit").first).to_be_attached()
    expect(page.locator(".step-list [aria-current=step]")).to_contain_text("peel the cap off")
    page.go_back()
    expect(page.locator("#now-head")).to_contain_text("Step 1 of")
    page.goto("/pieces/")
    page.keyboard.press("/")
    expect(page.locator("#find")).to_be_focused()


@pytest.mark.long
def test_the_step_stands_beside_the_scale_and_its_tick_stays(page, hand, shop):
    open_tenderloin(page)
    step = page.locator("#step")
    expect(step).to_contain_text("Step 1 of 6")
    page.wait_for_load_state()
    page.keyboard.press("]")
    expect(step).to_contain_text("Side muscle off")
    step.locator("text=Next").click()
    step.locator(".tick").click()
    expect(step.locator(".tick")).to_have_attribute("aria-pressed", "true")
    assert StepCheck.objects.get().by.first_name == "Bram"
    page.reload()
    expect(step).to_contain_text("Step 3 of 6")
    expect(step.locator(".tick")).to_have_attribute("aria-pressed", "true")
    step.locator(".tick").click()
    expect(step.locator(".tick")).to_have_attribute("aria-pressed", "false")


@pytest.mark.long
def test_a_manager_changes_a_piece_and_sees_it_before_he_saves(page, shop):
    page.goto("/pieces/beef-flank/")
    page.click("text=Change >> visible=true")
    page.fill("#id_house_name", "Bar steak")
    expect(page.locator("#preview")).to_contain_text("Bar steak")
    page.fill("#id_item_number", "19")
    expect(page.locator("#preview")).to_contain_text("like 184")
    page.click("button:text-is('Save')")
    expect(page.locator("form#edit-form")).to_contain_text("like 184")
    expect(page.locator("#id_house_name")).to_have_value("Bar steak")
    page.fill("#id_item_number", "193")
    page.click("button:text-is('Save')")
    expect(page.locator("h1")).to_contain_text("Bar steak")
    assert Piece.objects.get(key="beef-flank").house_name == "Bar steak"


@pytest.mark.long
@pytest.mark.parametrize(
    "key",
    [
        "beef-rib",
        "pork-side",
        pytest.param("pork-leg", marks=pytest.mark.long),
        pytest.param("beef-hindquarter", marks=pytest.mark.long),
    ],
)
def test_a_guide_prints_on_two_pages(page, shop, key):
    page.goto(f"/pieces/{key}/handout/")
    pdf = page.pdf(format="Letter", print_background=True)
    assert len(re.findall(rb"/Type\s*/Page\b", pdf)) == 2


@pytest.mark.long
def test_on_a_phone_no_page_is_wider_than_the_glass(browser, live_server, shop):
    with tablet(browser, live_server.url, width=390, height=844) as phone:
        for path in (
            "/pieces/",
            "/pieces/?animal=pork&primal=pork-leg",
            "/pieces/beef-rib/?plan=apart&step=5",
            "/pieces/beef-chuck-roll/",
            "/pieces/lamb-leg/",
            "/pieces/same-map/",
            "/pieces/beef-rib/edit/",
            "/pieces/beef-rib/plans/apart/edit/",
            "/counter/give-and-take/country-style/",
            "/pieces/cuts/",
        ):
            phone.goto(path)
            assert phone.evaluate("document.documentElement.scrollWidth") <= 390, path


@pytest.mark.long
def test_without_scripts_the_guide_the_search_and_the_tick_still_work(browser, live_server, shop):
    with tablet(browser, live_server.url, java_script_enabled=False) as page:
        page.goto("/pieces/")
        page.fill("#find", "leg")
        page.keyboard.press("Enter")
        page.click("text=Lamb leg, bone in")
        page.click("text=Start with step 1")
        page.click("text=Next")
        expect(page.locator("#now-head")).to_contain_text("Step 2 of")
        page.goto("/open/beef-tenderloin/")
        page.fill("[name=weight]", "6.17")
        page.fill("[name=price]", "7.49")
        page.click("text=Open the piece")
        for _ in range(2):
            page.click("#step >> text=Next")
        page.click("#step .tick")
        expect(page.locator("#step .tick")).to_have_attribute("aria-pressed", "true")
