"""What a shopper is told: a cut found for a dinner, the cards printed."""

import io

import pypdf
import pytest
from django.utils import timezone
from playwright.sync_api import expect

from rooms.pricebook.models import Product
from rooms.pricebook.queries.shopper import cards
from tests.journeys.conftest import tablet

CUT_OFF = """() => [...document.querySelectorAll(".shopper")]
  .filter((card) => card.scrollHeight > card.clientHeight + 1).map((card) => card.ariaLabel)"""
pytestmark = pytest.mark.django_db(transaction=True)


@pytest.mark.long
def test_a_cut_is_found_for_a_dinner_on_a_phone(browser, live_server, shop):
    with tablet(browser, live_server.url, 390, 844, has_touch=True, by="tove") as phone:
        phone.goto("/counter/")
        phone.get_by_role("link", name="For shoppers").tap()
        phone.get_by_role("link", name="A cut for a dinner").tap()
        phone.locator("label", has_text="braise").tap()
        phone.locator("label", has_text="lamb").tap()
        phone.fill("[name=people]", "6")
        phone.get_by_role("button", name="Find it").tap()
        first = phone.locator("tbody tr").first
        expect(first).to_contain_text("lamb")
        expect(phone.locator("tbody tr", has_text="Lamb shank meat")).to_contain_text("2.40 lb")
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390
        first.get_by_role("link").tap()
        expect(phone.locator(".shopper")).to_contain_text("145 °F (62.8 °C) in the middle")
        phone.goto("/book/dinner/?by=grill&people=none")
        expect(phone.locator(".told[role=alert]")).to_contain_text(
            "People: “none”; a number from 1"
        )
        expect(phone.locator("[name=people]")).to_have_value("none")


@pytest.mark.long
def test_the_ticked_cards_are_printed_six_on_a_page(page, shop):
    page.set_viewport_size({"width": 740, "height": 980})  # a letter between its margins
    page.goto("/book/cards/")
    page.emulate_media(media="print")
    assert page.evaluate(CUT_OFF) == []
    page.emulate_media(media="null")
    page.goto("/book/cards/?animal=lamb")
    names = [card.product.name for card in cards("lamb", timezone.localdate())]
    left_out, story = names[0], cards("lamb", timezone.localdate())[0].story
    page.get_by_label(f"Print {left_out}", exact=True).uncheck()
    printed = pypdf.PdfReader(io.BytesIO(page.pdf(format="Letter")))
    text = " ".join(" ".join(sheet.extract_text().split()) for sheet in printed.pages)
    assert story
    assert story not in text
    assert all(name in text for name in names[1:])
    assert len(printed.pages) == -(-(len(names) - 1) // 6)
    assert "Print the ticked" not in text
    assert Product.objects.filter(is_sold=True, cut__species="lamb").count() >= len(names)
