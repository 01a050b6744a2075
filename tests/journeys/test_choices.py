"""In the browser: a too young bag, a thicker steak, a knuckle by two plans, names people type."""

import pytest
from django.urls import reverse
from playwright.sync_api import expect

from rooms.bench.models import CuttingTest
from rooms.cooler.models import Bag
from tests.journeys.conftest import tablet, until, weigh

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.mark.long
def test_a_too_young_bag_is_opened_by_a_plan_that_suits_or_with_a_word(page, fill):
    bag = fill(("beef-knuckle", 8, "10.00"))[0]
    page.goto(reverse("cooler:bag", args=[bag.pk]))
    page.click("text=Open for a test")
    expect(page.locator(".told[role=alert]")).to_contain_text("Center steak: 6 days too young")
    page.click("button:has-text('Open the piece')")  # without a word nothing is opened
    expect(page.locator(".told[role=alert]").first).to_contain_text("Too young")
    assert Bag.objects.get(pk=bag.pk).state == "in"
    page.click(".told a:has-text('Basic')")
    expect(page.locator(".told[role=alert]")).to_have_count(0)
    page.goto(reverse("cooler:bag", args=[bag.pk]))
    page.click("text=Open for a test")
    page.fill("[name=young_reason]", "ordered for today")
    page.check("[name=was_frozen]")
    page.click("button:has-text('Open the piece')")
    expect(page.locator("header.piece")).to_contain_text("Why: ordered for today")
    expect(page.locator("header.piece")).to_contain_text("Previously frozen")


@pytest.mark.long
def test_a_thicker_steak_is_chosen_at_the_block_by_touch(page, hand, opened):
    rows = opened("beef-ribeye", "14.50", "9.80")
    page.goto(reverse("bench:test", args=[rows.test.pk]))
    page.click(".pile >> nth=0")
    page.click("text=Choices: target, thickness")
    form = page.locator("form[data-choice=thickness]")
    expect(form).to_contain_text("now 1 in")
    form.locator("text='1 1/2 in'").click()
    page.click("text=Choices: target, thickness")
    expect(page.locator("form[data-choice=thickness]")).to_contain_text("now 1 1/2 in")
    page.locator("form[data-choice=target] input[name=other]").fill("21 oz")
    page.locator("form[data-choice=target] >> text='Set it'").click()
    weigh(page, hand, 1.31)
    until(page, ".next-cut", "The last one is right")
    page.click(".pile:has-text('Hard fat')")
    page.click("text=Choices: target, thickness")
    expect(page.locator("form[data-choice=thickness]")).to_be_hidden()
    expect(page.locator("form[data-choice=value]")).to_be_visible()
    output = CuttingTest.objects.get().outputs.first()
    assert (output.thickness, str(output.target_value)) == ("1 1/2 in", "21")


@pytest.mark.long
def test_a_knuckle_is_cut_by_two_plans_and_the_split_moves(page, hand, shop):
    page.goto(reverse("bench:open", args=["beef-knuckle"]))
    page.select_option("[name=plan]", label="Basic: roasts, tip steaks, stew")
    page.click("text=Two plans in one piece")
    page.select_option("[name=rest_by]", label="Seamed: center steaks, side steaks, cube, grind")
    page.fill("[name=split]", "50")
    page.fill("[name=weight]", "10.20")
    page.fill("[name=price]", "4.60")
    page.click("button:has-text('Open the piece')")
    for name in ("Tip roast", "Center steak"):
        expect(page.locator(f".pile:has-text('{name}')")).to_be_visible()
    page.click("text=Choices: target, thickness")
    page.locator("form:has(input[value=split]) >> text='67 %'").click()
    page.click("text=Choices: target, thickness")
    expect(page.locator("form:has(input[value=split])")).to_contain_text("now 67.0 %")
    page.click(".pile:has-text('Tip roast')")
    weigh(page, hand, 3.40)
    expect(page.locator("#rail")).to_contain_text("6.80 lb still on the block")


@pytest.mark.long
def test_picanha_and_tri_tip_are_found_as_they_are_typed(browser, live_server, shop):
    with tablet(browser, live_server.url, 390, 800) as page:
        page.goto(reverse("catalog:find"))
        for typed, found in (
            ("picanha", "Sirloin cap steak"),
            ("picahna", "Sirloin cap steak"),
            ("tri tip", "Tri-tip"),
            ("paddywhack", "never gets tender"),
        ):
            page.fill("[name=q]", typed)
            expect(page.locator("#found")).to_contain_text(found)
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
