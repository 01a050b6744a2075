"""What is today, from Auckland to Honolulu: at midnight, and where the clocks go on and back."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from django.urls import reverse
from django.utils import timezone

from rooms.bench.actions.weighings import take_weight
from rooms.bench.queries.cut_today import piles_free
from rooms.common.errors import BadInput
from rooms.pricebook.actions.prices import NewPrice, Origin, set_prices
from rooms.pricebook.models import Product
from rooms.pricebook.queries.book import prices_on
from tests.conftest import capture, decide, words_of
from tests.rooms.trays.helpers import pack, tray_set

pytestmark = pytest.mark.django_db
OFTEN = ("Pacific/Auckland", "Europe/Berlin", "Pacific/Honolulu")
COMING = datetime.now(UTC).date() + timedelta(days=3)
"""A day to come: the prices of the tests' shop hold from the day the tests run."""
MIDNIGHT = [
    pytest.param(
        zone,
        datetime(COMING.year, COMING.month, COMING.day, tzinfo=ZoneInfo(zone)),
        marks=() if zone in OFTEN else pytest.mark.long,
    )
    for zone in (
        "Pacific/Auckland",
        "Asia/Tokyo",
        "Asia/Kathmandu",
        "Europe/Berlin",
        "Europe/London",
        "America/New_York",
        "Pacific/Honolulu",
    )
]
CLOCKS = [
    ("Europe/Berlin", datetime(2027, 3, 28, 1, 0, tzinfo=UTC)),  # on: 2:00 is 3:00
    ("Europe/Berlin", datetime(2027, 10, 31, 1, 0, tzinfo=UTC)),  # back: 3:00 is 2:00
    ("America/New_York", datetime(2027, 11, 7, 6, 0, tzinfo=UTC)),
    ("Pacific/Auckland", datetime(2027, 4, 3, 14, 0, tzinfo=UTC)),
]


@pytest.fixture
def at(monkeypatch):
    """The machine's clock as the test sets it."""

    def set_to(moment):
        monkeypatch.setattr(timezone, "now", lambda: moment.astimezone(UTC))

    return set_to


@pytest.mark.parametrize(("zone", "moment"), MIDNIGHT)
def test_a_day_begins_and_ends_with_the_shops_midnight(client, weighed, at, zone, moment):
    """Half a minute before midnight a piece is weighed and packed; a minute later it is another day."""
    decide(time_zone=zone)
    with timezone.override(ZoneInfo(zone)):
        at(moment - timedelta(seconds=30))
        main = weighed().outputs[0]
        before = timezone.localdate()
        tray = pack(Product.objects.get(cut=main.cut_id), tray_set(), "1.04", f"test:{main.pk}")
        assert tray.packed_on == before
        assert main.pk in piles_free(before)
        at(moment + timedelta(seconds=30))
        assert timezone.localdate() == before + timedelta(days=1)
        assert piles_free(timezone.localdate()) == {}
        assert client.get(reverse("bench:sheet", args=[main.test_id])).status_code == 200
        assert client.get("/").status_code == 200


@pytest.mark.parametrize(("zone", "moment"), MIDNIGHT)
def test_a_price_for_today_holds_today_there_and_yesterday_is_refused(shop, at, zone, moment):
    decide(time_zone=zone)
    product = Product.objects.filter(is_sold=True).first()
    with timezone.override(ZoneInfo(zone)):
        at(moment + timedelta(minutes=1))
        today = timezone.localdate()
        set_prices([NewPrice(product, product.prices.first().amount + 1)], Origin(None))
        assert prices_on(today)[product.pk].effective_on == today
        yesterday = Origin(None, effective_on=today - timedelta(days=1))
        again = [NewPrice(product, product.prices.first().amount + 2)]
        with pytest.raises(BadInput):
            set_prices(again, yesterday)


@pytest.mark.parametrize(("zone", "moment"), CLOCKS)
def test_weighings_keep_their_order_where_the_clocks_change(client, opened, at, zone, moment):
    """One ten minutes before the change and one ten minutes after: twenty minutes apart, in that order."""
    decide(time_zone=zone)
    with timezone.override(ZoneInfo(zone)):
        at(moment - timedelta(minutes=10))
        rows = opened()
        rows = take_weight(rows.test.pk, capture(rows.outputs[0], "0.50"), None)
        at(moment + timedelta(minutes=10))
        rows = take_weight(rows.test.pk, capture(rows.outputs[0], "0.60"), None)
        first, second = rows.standing
        assert second.taken_at - first.taken_at == timedelta(minutes=20)
        assert [f"{one.value}" for one in rows.standing] == ["0.50", "0.60"]
        words = words_of(client.get(reverse("bench:test", args=[rows.test.pk])))
        assert "went back" not in words  # the clock on the wall did, the machine's did not
