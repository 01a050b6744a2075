"""Pages that need neither session nor database; one way of numbers; texts that fit."""

import errno
import sqlite3
import threading

import pytest
from django.conf import settings
from django.db import IntegrityError, OperationalError, connection, transaction
from django.test import Client, RequestFactory
from django.urls import reverse
from django.utils import timezone

from rooms.bench.models import CuttingTest, Note
from rooms.common.db.numbers import next_numbers
from rooms.common.errors import BadInput
from rooms.common.web import plain
from rooms.common.web.uploads import LARGEST
from rooms.pricebook.models import Version
from rooms.staff.models import Turn

pytestmark = pytest.mark.django_db


@pytest.mark.parametrize(
    ("handler", "status"),
    [
        (plain.bad_request, 400),
        (plain.forbidden, 403),
        (plain.not_found, 404),
        (plain.server_error, 500),
    ],
)
def test_error_pages_ask_neither_session_nor_database(handler, status, django_assert_num_queries):
    with django_assert_num_queries(0):
        answer = handler(RequestFactory().get("/"))  # a request without a session
    assert answer.status_code == status
    assert b"Not done" in answer.content


def test_a_wrong_host_is_a_plain_400():
    answer = Client().get("/", headers={"host": "evil.example"})
    assert answer.status_code == 400
    assert b"could not be read" in answer.content
    assert "default-src 'none'" in answer["Content-Security-Policy"]


@pytest.mark.parametrize(
    "fault",
    [
        sqlite3.OperationalError("database or disk is full"),
        OSError(errno.ENOSPC, "No space left on device"),
    ],
)
def test_a_full_disk_is_507_in_plain_words_wherever_it_happens(client, opened, monkeypatch, fault):
    rows = opened()

    def full(*_args, **_more):
        raise OperationalError(str(fault)) if isinstance(fault, sqlite3.Error) else fault

    monkeypatch.setattr("rooms.bench.actions.weighings.touch", full)
    fields = {
        "key": "0" * 8 + "-0000-4000-8000-" + "1" * 12,
        "output": rows.outputs[0].pk,
        "value": "0.44",
        "unit": "lb",
        "typed": "1",
    }
    for name in ("capture", "take"):
        answer = client.post(reverse(f"bench:{name}", args=[rows.test.pk]), fields)
        assert answer.status_code == 507
        assert "disk is full" in answer.content.decode()
    monkeypatch.setattr("rooms.staff.block._who", full)  # even who asks cannot be looked up
    client.raise_request_exception = False
    assert client.get("/").status_code == 507


def test_a_value_no_column_takes_is_refused_and_not_a_server_error(client, opened, monkeypatch):
    rows = opened()
    fields = {
        "key": "0" * 8 + "-0000-4000-8000-" + "1" * 12,
        "output": rows.outputs[0].pk,
        "value": "0." + "1" * 29,
        "unit": "lb",
        "typed": "1",
    }
    assert client.post(reverse("bench:capture", args=[rows.test.pk]), fields).status_code == 422
    answer = client.get(reverse("cooler:bag", args=[rows.test.pk]))
    assert answer.status_code == 404


def test_an_upload_that_is_too_large_is_not_read(client):
    answer = client.post(reverse("bench:files"), CONTENT_LENGTH=str(LARGEST + 1))
    assert answer.status_code == 413
    assert "At most" in answer.content.decode()


def test_a_slow_upload_is_ended(client, monkeypatch):
    from django.core.files.uploadedfile import SimpleUploadedFile

    moments = iter([0.0, 61.0, 62.0, 63.0])
    monkeypatch.setattr("rooms.common.web.uploads.monotonic", lambda: next(moments))
    answer = client.post(reverse("bench:files"), {"file": SimpleUploadedFile("a.json", b"{}")})
    assert answer.status_code == 400


# --- numbers ---


def test_numbers_go_on_where_a_shop_was_and_after_those_taken_in(opened):
    first = opened()
    assert opened().test.number == first.test.number + 1
    assert list(next_numbers(CuttingTest, 2, after=500)) == [501, 502]
    assert opened().test.number == 503
    assert next_numbers(Version)[0] == Version.objects.count() + 1


@pytest.mark.django_db(transaction=True)
def test_writers_at_once_get_numbers_of_their_own(shop):
    found, start = [], threading.Barrier(6)

    def write():
        start.wait()
        for _ in range(10):
            with transaction.atomic():
                found.extend(next_numbers(CuttingTest))
        connection.close()

    writers = [threading.Thread(target=write) for _ in range(6)]
    for writer in writers:
        writer.start()
    for writer in writers:
        writer.join()
    assert sorted(found) == list(range(1, 61))


# --- texts and turns ---


def test_a_text_longer_than_its_column_is_refused_before_the_database(opened):
    rows = opened()
    note = Note(
        key="0" * 8 + "-0000-4000-8000-" + "1" * 12,
        test=rows.test,
        text="x" * 501,
        at=timezone.now(),
    )
    with pytest.raises(BadInput, match="Text of 501 characters; at most 500"):
        note.save()


def test_a_tablet_has_one_open_turn_and_the_database_holds_it(shop, as_role):
    from rooms.staff.actions.tablets import enrol

    tablet, _ = enrol("Block 1", shop["bram"].pk)
    for name in ("ines", "tove"):
        Turn.objects.filter(tablet=tablet, until=None).update(until=timezone.now())
        Turn.objects.create(person=shop[name], tablet=tablet, since=timezone.now())
    with pytest.raises(IntegrityError), transaction.atomic():
        Turn.objects.create(person=shop["bram"], tablet=tablet, since=timezone.now())
    other, _ = enrol("Block 2", shop["bram"].pk)
    Turn.objects.create(person=shop["bram"], tablet=other, since=timezone.now())


def test_every_answer_carries_the_policies(client, opened):
    rows = opened()
    for address in ("/", "/bench/", reverse("bench:test", args=[rows.test.pk]), "/nowhere/"):
        answer = client.get(address)
        policy = answer["Content-Security-Policy"]
        assert "unsafe" not in policy
        listens = policy.partition("connect-src")[2].partition(";")[0]
        assert (settings.SCALE_URL in listens) == (address != "/nowhere/")  # there nobody is asked
        assert "geolocation=()" in answer["Permissions-Policy"]
