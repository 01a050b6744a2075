"""The door for writing: the same key says the same, an older page overwrites nothing, nobody goes around it."""

import re
import uuid
from decimal import Decimal
from pathlib import Path

import pytest
from django.db import connection
from django.urls import reverse

from cutting.quantities import Unit, Weight
from rooms.bench.actions.weighings import take_weight
from rooms.bench.models import Weighing
from rooms.bench.queries.rows import load
from rooms.common.db.seen import state_of
from rooms.common.db.writing import Recorded, Sent, is_open, savepoint, write
from rooms.common.errors import KeyTaken, Overtaken
from rooms.common.models import SentKey
from rooms.cooler.models import LotHold
from rooms.trays.actions.house import change_label_rules
from rooms.trays.models import LabelRules
from tests.conftest import capture, words_of
from tests.doorkeeper import WroteOutsideTheDoor, watch

pytestmark = pytest.mark.django_db
D = Decimal
ROOMS = Path(__file__).parents[2] / "rooms"


def sent(key, **values):
    return Sent(key, "test", "3.00 lb, Tips", values)


def come(what, recorded=lambda: None):
    with write(key=what, recorded=recorded) as door:
        return door.first


@pytest.mark.parametrize(
    ("first", "again"),
    [
        ({"weight": Weight(D("3.0"), Unit.LB)}, {"weight": Weight(D("3.00"), Unit.LB)}),
        ({"amount": D("10")}, {"amount": D("1E+1")}),
        ({"lots": ["A", "B"], "n": 1}, {"n": 1, "lots": ["A", "B"]}),
    ],
)
def test_the_same_meaning_under_one_key_is_the_same(first, again):
    key = uuid.uuid4()
    assert come(sent(key, **first)) is None
    assert come(sent(key, **again)) is not None
    assert SentKey.objects.count() == 1


@pytest.mark.parametrize(
    ("first", "again"),
    [
        ({"weight": Weight(D(3), Unit.LB)}, {"weight": Weight(D(3), Unit.KG)}),
        ({"weight": Weight(D(3), Unit.LB)}, {"weight": Weight(D("3.01"), Unit.LB)}),
        ({"pile": 1}, {"pile": 2}),
        ({"reason": "a"}, {"reason": ""}),
        ({"lots": ["A", "B"]}, {"lots": ["B", "A"]}),
    ],
)
def test_other_content_under_one_key_is_refused_and_told(first, again):
    key = uuid.uuid4()
    come(sent(key, **first))
    with pytest.raises(KeyTaken, match=r"3\.00 lb, Tips"):
        come(sent(key, **again))


def test_a_refused_request_leaves_its_key_free():
    key = uuid.uuid4()
    with pytest.raises(ValueError, match="no"), write(key=sent(key, n=1)):
        raise ValueError("no")
    assert come(sent(key, n=2)) is None


def test_rows_older_than_digests_say_what_they_first_recorded(shop):
    """Where that cannot be known, the same is assumed."""
    key = uuid.uuid4()
    known = lambda: Recorded("row", {"pile": 1})  # noqa: E731
    with pytest.raises(KeyTaken):
        come(sent(key, pile=2), known)
    assert come(sent(key, pile=1), known) == "row"
    assert come(sent(uuid.uuid4(), pile=2), lambda: Recorded("row")) == "row"


def test_a_digest_of_another_version_is_not_compared():
    key = uuid.uuid4()
    come(sent(key, pile=1))
    SentKey.objects.update(version=0)
    assert come(sent(key, pile=2)) is not None


def test_a_savepoint_stands_inside_the_door_only():
    with pytest.raises(RuntimeError, match="inside a write block"), savepoint():
        pass
    with write():
        assert is_open()
        with savepoint():
            pass
    assert not is_open()


# --- what the pages tell --------------------------------------------------------------------


def test_a_weighing_sent_again_is_answered_as_the_first_and_altered_is_told(client, opened):
    """Neither who is signed in nor what the page had seen is what was meant."""
    rows = opened()
    one = capture(rows.outputs[0], "0.44")
    for by in (None, rows.test.cutter_id):
        take_weight(rows.test.pk, one, by)
    with pytest.raises(KeyTaken) as taken:
        take_weight(rows.test.pk, capture(rows.outputs[1], "0.44", key=one.key), None)
    assert taken.value.status == 409
    assert taken.value.row == Weighing.objects.get()


def test_a_press_that_came_again_is_told_once_and_may_be_recorded_as_another(client, shop):
    press = {"key": uuid.uuid4(), "lot": "L40", "reason": "supplier called"}
    for _ in range(2):
        client.post(reverse("recall:hold"), press)
    assert LotHold.objects.count() == 1
    page = words_of(client.get("/cooler/"))
    assert "Already recorded at" in page
    assert "Record as another" in page
    assert "Already recorded" not in words_of(client.get("/cooler/"))


def test_a_key_with_other_content_shows_what_was_recorded_and_both_ways_on(client, shop):
    press = {"key": uuid.uuid4(), "lot": "L40"}
    client.post(reverse("recall:drill"), press)
    answer = client.post(reverse("recall:drill"), press | {"lot": "L41"})
    assert answer.status_code == 409
    page = words_of(answer)
    assert "drill of lot L40" in page
    assert "Record as another" in page
    assert f'value="{press["key"]}"' not in page  # only this gives a new key
    assert 'value="L41"' in page


def shown_in(form):
    """What a browser sends of a form as it is shown."""
    shown = {name: form[name].value() for name in form.fields}
    return {name: own for name, own in shown.items() if own is not None and own is not False}


def test_an_older_page_is_refused_told_what_differs_and_saved_by_one_more_press(client, shop):
    change_label_rules({"place": "Gull Quay"}, None)
    seen = state_of(LabelRules.objects.get())
    page = client.get(reverse("trays:rules"))
    fields = shown_in(page.context["rules"])
    change_label_rules({"place": "Skerry Point"}, None)
    with pytest.raises(Overtaken) as late:
        change_label_rules({"link": "https://shop.example"}, None, seen)
    assert [(one.was, one.now) for one in late.value.differences] == [("Gull Quay", "Skerry Point")]
    own = fields | {"what": "rules", "link": "https://shop.example"}
    answer = client.post(reverse("trays:rules"), own)
    assert answer.status_code == 409
    assert "Skerry Point" in words_of(answer)
    again = shown_in(answer.context["rules"]) | {"what": "rules"}
    assert client.post(reverse("trays:rules"), again).status_code == 302
    now = LabelRules.objects.get()
    assert (now.place, now.link) == ("Skerry Point", "https://shop.example")


# --- nobody goes around it ------------------------------------------------------------------


def test_no_room_opens_a_transaction_of_its_own():
    around = re.compile(r"transaction\.atomic|@atomic|ATOMIC_REQUESTS")
    found = [
        str(path.relative_to(ROOMS))
        for path in sorted(ROOMS.rglob("*.py"))
        if around.search(path.read_text()) and "migrations" not in path.parts
    ]
    assert found == ["common/db/writing.py"]


def test_what_reads_writes_nothing():
    """Queries and clients: the folder says whether a module writes."""
    writes = re.compile(
        r"@write\b|\bwith write\(|\.(?:bulk_create|bulk_update|get_or_create|update_or_create)\("
        r"|objects\.create\(|\.save\((?:update_fields|force_insert|using)|\bINSERT INTO\b|\bUPDATE \w"
    )
    readers = [*ROOMS.glob("*/queries/*.py"), *ROOMS.glob("*/clients/*.py")]
    assert len(readers) > 100
    assert [path for path in readers if writes.search(path.read_text())] == []


def test_the_doorkeeper_stops_what_writes_outside(opened):
    """Every request of the suite passes it: `tests.doorkeeper`."""
    rows = opened()
    take_weight(rows.test.pk, capture(rows.outputs[0], "0.44"), None)
    with connection.execute_wrapper(watch):
        load(rows.test.pk)
        with write():
            Weighing.objects.update(is_typed=True)
        with pytest.raises(WroteOutsideTheDoor, match="bench_weighing"):
            Weighing.objects.update(is_typed=False)
