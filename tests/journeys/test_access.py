"""No serious fault for people with other eyes or hands: axe on every page, in both themes."""

from decimal import Decimal
from random import Random
from uuid import uuid4

import pytest
from axe_playwright_python.sync_playwright import Axe
from django.urls import reverse
from django.utils import timezone

from rooms.bench.actions.weighings import take_weight
from rooms.cooler.actions.deliveries import Header, start_delivery
from rooms.cooler.models import Bag, Delivery
from rooms.demo.cooler import make_cooler
from rooms.grinder.actions.batch import clean_down
from rooms.recall.actions.recalls import start_drill
from rooms.shop.queries.progress import SECTIONS
from tests.conftest import capture, person
from tests.journeys.conftest import scale_bridge, tablet
from tests.rooms.grinder.helpers import tub
from tests.rooms.trays.helpers import flat_iron, pack, tray_set, written_batch

pytestmark = pytest.mark.django_db(transaction=True)


def faults(page, rules=None):
    only = {"runOnly": rules} if rules else None
    found = Axe().run(page, options=only).response["violations"]
    return [
        (fault["id"], node["target"], node.get("failureSummary", "")[:200])
        for fault in found
        if fault["impact"] in ("serious", "critical")
        for node in fault["nodes"]
    ]


@pytest.mark.long
@pytest.mark.parametrize("theme", ["light", "dark"])
def test_the_scale_panel_in_both_themes(browser, theme):
    with scale_bridge() as scale, tablet(browser, scale.url, color_scheme=theme) as page:
        page.goto("/panel")
        assert faults(page) == []


def pages_of(weighed, opened, shop):
    """Every page, with what it shows."""
    make_cooler(timezone.now(), shop, Random(3))
    bag, delivery = Bag.objects.in_cooler().first(), Delivery.objects.first()
    came = start_delivery(Header(uuid4(), "Skerry Point Packing"), None)
    done, out, running = weighed(), weighed(piles=("3.00",)), opened()
    ground = written_batch(
        clean_down(uuid4(), "cleaned", person("ines").pk),
        id=uuid4(),
        number=1,
        weight=Decimal(3),
        begun_at=timezone.now(),
    )
    tray = pack(flat_iron(), tray_set(), "1.04")
    take_weight(running.test.pk, capture(running.outputs[0], "7.1", "oz", division="0.1"), None)
    pages = [
        "/",
        "/who/",
        "/nowhere/",
        "/layout/",
        "/layout/beef-top-sirloin/?beside=weight",
        "/layout/beef-rib/?beside=2",
        "/layout/small/",
        "/planner/",
        "/planner/ways/beef-shoulder-clod/",
        reverse("bench:open", args=["lamb-leg"]),
        reverse("bench:test", args=[running.test.pk]),
        reverse("pricing:prices"),
        "/pieces/",
        "/pieces/same-map/",
        "/pieces/find/?q=leg",
        "/pieces/cuts/",
        "/pieces/cuts/beef-ranch-steak/",
        "/pieces/muscles/biceps-femoris/",
        "/pieces/beef-top-sirloin/?step=3",
        "/pieces/pork-loin-bone-in/",
        "/pieces/lamb-leg/handout/",
        "/pieces/lamb-leg/edit/",
        "/pieces/lamb-leg/plans/seamed/edit/",
        "/pieces/lamb-leg/steps/gland/edit/",
        "/pieces/files/",
        "/pieces/changes/",
        "/cooler/",
        "/cooler/receive/",
        "/cooler/calendar/",
        "/cooler/temperature/?for=week",
        "/cooler/windows/",
        "/cooler/windows/beef-rib/",
        "/planner/wanted/",
        "/planner/week/",
        "/planner/sales/",
        "/planner/order/",
        "/planner/demand/",
        "/grinder/",
        "/grinder/log/",
        "/grinder/log/print/",
        "/grinder/rules/",
        "/trays/",
        reverse("grinder:tub", args=[tub(pounds="13.0").pk]),
        reverse("grinder:batch", args=[ground.pk]),
        reverse("trays:tray", args=[tray.pk]),
        "/trays/queue/",
        "/trays/tares/",
        "/trays/labels/",
        "/trays/marking/",
        "/trays/way/?code=nonsense",
        "/trays/hold/?lot=L1",
        f"/trays/way/lot/?lot={bag.lot}",
        f"/trays/recall/{start_drill(uuid4(), bag.lot, None).pk}/",
        reverse("recall:trace", args=["test", done.test.pk]),
        "/01/00012345678905/21/1",
        "/bench/",
        "/?wall=1",
        reverse("cooler:bag", args=[bag.pk]),
        reverse("cooler:delivery", args=[delivery.pk]),
        reverse("cooler:delivery", args=[came.pk]),
        reverse("cooler:claim", args=[came.pk]),
        "/counter/give-and-take/cap-roast/",
        "/counter/same-names/",
        "/book/",
        "/book/version/1/",
        "/book/compare/",
        "/book/shelf/",
        "/book/import/",
        "/book/cards/?animal=lamb",
        "/book/cards/1/",
        "/book/dinner/?by=grill",
        "/book/products/from-catalog/?animal=lamb",
        "/book/products/from-list/",
        "/pieces/bought/",
        "/shop/",
        "/shop/history/",
        *(f"/shop/{key}/?walk=1" for key in SECTIONS),
        "/book/products/",
        "/book/products/1/",
        "/book/products/new/",
        "/book/shared/",
        "/book/shared/adders/0/",
        "/counter/invoices/",
        "/counter/ad/",
        "/planner/buy/",
        "/tests/",
        "/people/",
        "/people/new/",
        f"/who/{shop['ines'].pk}/",
        "/office/",
        "/office/password/",
        "/tubs/",
        "/scale/",
        reverse("bench:weighings", args=[running.test.pk]),
        reverse("bench:correct", args=[done.test.pk]),
    ]
    for rows in (done, out):
        pages += [
            reverse("bench:sheet", args=[rows.test.pk]),
            reverse("pricing:set_from_test", args=[rows.test.pk]),
        ]
    return pages


def look_at(browser, url, pages, theme, rules=None):
    with tablet(browser, url, color_scheme="light") as page:
        page.context.add_cookies([{"name": "theme", "value": theme, "url": url}])
        for path in pages:
            page.goto(path)
            page.evaluate(
                "for (const each of document.querySelectorAll('details')) each.open = true"
            )
            assert faults(page, rules) == [], path


@pytest.mark.long
def test_bench_and_guide_and_the_colours_of_the_bench_in_the_dark(browser, live_server, opened):
    """The others, and all of them in the dark, in the long tests."""
    bench = reverse("bench:test", args=[opened().test.pk])
    look_at(browser, live_server.url, [bench, "/pieces/beef-top-sirloin/?step=3"], "light")
    look_at(browser, live_server.url, [bench], "dark", ["color-contrast"])


@pytest.mark.long
@pytest.mark.parametrize("theme", ["light", "dark"])
@pytest.mark.parametrize("half", [0, 1])
def test_every_page_in_both_themes(browser, live_server, weighed, opened, shop, half, theme):
    look_at(browser, live_server.url, pages_of(weighed, opened, shop)[half::2], theme)
