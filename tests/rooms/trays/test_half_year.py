"""A simulated half year: each lot's weight foots from its bags to trays, thrown away, sold and lost."""

from datetime import timedelta
from decimal import Decimal

import pytest
from django.utils import timezone

from cutting.quantities import working
from cutting.tracing.lots import lot_key
from rooms.recall.actions.recalls import end_looking, find_tray, start_drill
from rooms.recall.models import Recall
from rooms.recall.queries.trace import trace
from rooms.recall.queries.whereabouts import whereabouts
from rooms.trays.models import Tray
from rooms.trays.queries.lot_graph import Start
from tests.rooms.trays.half_year import HalfYear, in_pounds

pytestmark = [pytest.mark.django_db, pytest.mark.long]
D = Decimal
A_LITTLE = D("0.001")
"""Pounds: the last digits of a thrown tub."""


@pytest.fixture(params=[1, 2, 3])
def year(fill, weighed, numbered, size, request):
    (bag,) = fill(("beef-tenderloin", 40, "6.17"))
    made = HalfYear(bag.pk, weighed().test.pk, numbered, size, request.param)
    bag.lot = "template"
    bag.save()
    made.carried_at_the_end()
    return made


def test_each_lot_foots_and_what_is_where_is_what_the_books_say(year):
    assert len(year.received) > 25
    assert Tray.objects.count() > 400
    for lot, weight in year.received.items():
        found = trace(Start(lot=lot_key(lot)))
        ends = {end: in_pounds(part) for end, part in found.ends().items()}
        with working():
            assert abs(in_pounds(found.weight) - weight) < A_LITTLE, lot
            assert abs(sum(ends.values()) - weight) < A_LITTLE, lot
            books = {end: part for end, part in year.ends[lot].items() if abs(part) > A_LITTLE}
            ends = {end: part for end, part in ends.items() if abs(part) > A_LITTLE}
            assert set(ends) == set(books), lot
            for end, part in books.items():
                assert abs(ends[end] - part) < A_LITTLE, (lot, end)


@pytest.mark.parametrize("year", [1], indirect=True)
def test_a_drill_on_it_is_kept_with_its_time(year):
    lot = max(year.received, key=lambda one: whereabouts(lot_key(one)).for_sale)
    drill = start_drill(year.key(), lot, None)
    where = whereabouts(drill.lot_key, drill)
    assert where.for_sale > 0
    for row in where.missing:
        find_tray(drill.pk, Tray.objects.get(pk=row.pk), None)
    Recall.objects.update(started_at=timezone.now() - timedelta(minutes=7))
    ended = end_looking(drill.pk, None)
    assert (ended.minutes, ended.report["found"]) == (8, where.for_sale)
    assert ended.report["sold"] == where.sold > 0
    assert D("0.90") < ended.accounted < 1
    assert not whereabouts(drill.lot_key, drill).missing.exists()
