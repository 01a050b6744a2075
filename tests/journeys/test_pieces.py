"""A hindquarter off the block: its short loin into the cooler, and from there onto the block again."""

import pytest
from playwright.sync_api import expect

from rooms.bench.models import CuttingTest
from rooms.catalog.models import Plan
from rooms.cooler.models import Bag
from tests.pieces import opened_from, weighed_out

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.mark.long
def test_a_piece_goes_into_the_cooler_comes_back_and_is_cut_on(page, hand, fill):
    (bag,) = fill(("beef-hindquarter", 8, "160.00"))
    rows = weighed_out(opened_from([bag], Plan.objects.get(piece=bag.piece, key="by-seams")))
    page.goto(f"/sheet/{rows.test.pk}/")
    loin = page.locator(".piece-row", has_text="Short loin")
    loin.get_by_role("button", name="Not sealed").click()
    expect(loin).to_contain_text("not sealed")
    loin.get_by_role("button", name="Take it back").click()
    loin.get_by_role("button", name="Sealed Short loin into the cooler", exact=True).click()
    loin.locator("a").click()
    expect(page.locator(".trace")).to_contain_text("8 days")
    expect(page.locator(".trace")).to_contain_text(bag.lot)
    page.click("text=Open for a test")
    page.click("button:text-is('Open the piece')")
    expect(page.locator("#rail")).to_contain_text("still on the block")
    inner = CuttingTest.objects.order_by("number").last()
    piece = Bag.objects.get(opened_for__test=inner)
    assert (piece.cut_of, inner.lot, inner.weight_value) == (bag, bag.lot, piece.weight_value)
