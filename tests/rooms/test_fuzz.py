"""Every importer with damaged files: an answer in plain words, and nothing stored by a refusal."""

import io
import json
import uuid
from contextlib import suppress
from pathlib import Path

import openpyxl
import pytest
from django.apps import apps
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.urls import reverse
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from rooms.common.errors import BadInput
from rooms.cooler.actions.deliveries import Header, start_delivery
from rooms.cooler.queries.scanning import scan

pytestmark = pytest.mark.django_db
EXAMPLES = Path(__file__).parents[2] / "docs" / "formats" / "examples"
FEW = settings(
    max_examples=12,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)


def sheet(rows):
    book = openpyxl.Workbook()
    for row in rows:
        book.active.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


WEIGHTS = [
    ["weight", "lot", "gtin", "packed on", "price", "label"],
    ["6.17", "L1", "09501101530003", "2026-11-03", "7.49", ""],
    ["6,20 kg", "L2", "", "261104", "0", "(01)09501101530003(3202)000617(13)261103"],
]
PRICES = [
    ["name", "cut", "price", "per"],
    ["Stewing beef", "", "7.99", "lb"],
    ["", "beef-centre-filet", "29.99", "kg"],
]
COSTS = [["piece", "price", "per"], ["189A", "8.24", "lb"], ["Ribeye", "18.17", "kg"]]
CUTS = [
    [
        "piece",
        "plan",
        "name",
        "pile",
        "role",
        "share",
        "cut",
        "target",
        "unit",
        "thickness",
        "counted",
        "in_case",
    ],
    ["beef-flank", "whole", "Flank", "portions", "", "0.8", "", "", "", "", "", ""],
]


def as_csv(rows):
    return "\n".join(",".join(row) for row in rows).encode()


TENDERLOIN = (EXAMPLES / "cutting-test-tenderloin.json").read_bytes()
CATALOG = json.dumps({"cuts": {"x": {"name": "X", "species": "beef", "muscle": "spinalis"}}})
SEEDS = {
    "weights": [as_csv(WEIGHTS), sheet(WEIGHTS), b"6.17\n6.20\n", b"]d201095011015300033202000617"],
    "prices": [as_csv(PRICES), sheet(PRICES)],
    "costs": [as_csv(COSTS), sheet(COSTS)],
    "catalog": [CATALOG.encode(), as_csv(CUTS), sheet(CUTS)],
    "tests": [
        TENDERLOIN,
        json.dumps(
            {
                "format": "mindful-tally.cutting-tests",
                "version": 1,
                "tests": [json.loads(TENDERLOIN)],
            }
        ).encode(),
    ],
}
BITS = [
    b"",
    b"\x00",
    b"\xff",
    b'"',
    b",",
    b";",
    b"\t",
    b"\n",
    b"-1",
    b"1e9",
    b"9" * 40,
    b"=1+1",
    b"\xe2\x80\x8b",
    b"\\ud800",
    b"null",
    b"[]",
    b"{}",
    b"\x1d",
    b"NaN",
    b"0",
]


@st.composite
def damaged(draw, kind):
    """A good file with some bytes changed, cut off or put in; or just any bytes."""
    raw = bytearray(draw(st.sampled_from(SEEDS[kind])))
    for _ in range(draw(st.integers(0, 4))):
        at = draw(st.integers(0, len(raw)))
        length = draw(st.integers(0, 12))
        raw[at : at + length] = draw(st.sampled_from(BITS) | st.binary(max_size=6))
    if draw(st.booleans()):
        raw = raw[: draw(st.integers(0, len(raw)))]
    return bytes(raw)


def counts():
    return {model: model._base_manager.count() for model in apps.get_models()}


def tried(client, address, fields):
    """Post, and undo whatever it stored; nothing is stored by a refusal."""
    with transaction.atomic():
        before = counts()
        answer = client.post(address, fields)
        assert answer.status_code < 500
        if answer.status_code >= 400:
            assert counts() == before
        transaction.set_rollback(True)


def file_of(raw, name):
    return SimpleUploadedFile(name, raw)


@pytest.mark.long
@FEW
@given(damaged("weights"), st.sampled_from(["a.csv", "a.xlsx", "a.txt"]), st.booleans())
def test_catch_weights(client, shop, raw, name, is_pasted):
    with transaction.atomic():
        delivery = start_delivery(Header(uuid.uuid4(), "S"), None)
        fields = {"unit": "lb", "key": uuid.uuid4(), "lines": ""}
        if is_pasted:
            fields["lines"] = raw.decode("latin-1")
        else:
            fields["file"] = file_of(raw, name)
        tried(client, reverse("cooler:add", args=[delivery.pk]), fields)
        transaction.set_rollback(True)


@pytest.mark.long
@FEW
@given(damaged("prices"), st.sampled_from(["a.csv", "a.xlsx"]))
def test_prices(client, shop, raw, name):
    tried(client, reverse("pricebook:import"), {"file": file_of(raw, name), "text": ""})


@pytest.mark.long
@FEW
@given(damaged("costs"), st.sampled_from(["a.csv", "a.xlsx"]))
def test_invoice_costs(client, shop, raw, name):
    fields = {"file": file_of(raw, name), "key": uuid.uuid4()}
    tried(client, reverse("pricing:invoices"), fields)


@pytest.mark.long
@FEW
@given(damaged("catalog"), st.sampled_from(["a.csv", "a.json", "a.xlsx"]))
def test_the_catalog(client, shop, raw, name):
    tried(client, reverse("catalog:files"), {"file": file_of(raw, name)})


@pytest.mark.long
@FEW
@given(damaged("tests"), st.booleans())
def test_cutting_tests(client, shop, raw, is_pasted):
    fields = {"text": raw.decode("latin-1")} if is_pasted else {"file": file_of(raw, "a.json")}
    tried(client, reverse("bench:files"), fields)


VALUES = (
    st.none()
    | st.booleans()
    | st.integers()
    | st.text(max_size=8)
    | st.sampled_from(
        ["1e400", "-0", "9" * 40, "9999-12-31T23:30:00", "0001-01-01", "2026-11-25", "kg", "stone"]
    )
)


@st.composite
def twisted(draw):
    """A sound test with some of its values replaced by others of any kind."""
    data = json.loads(TENDERLOIN)
    data["record"] = {
        "number": 7,
        "cutter": "Ines",
        "started_at": "2026-11-20T08:00:00",
        "notes": ["a"],
        "checks": [{"text": "x"}],
        "approved": {"at": "2026-11-21"},
    }
    for _ in range(draw(st.integers(1, 3))):
        at = data
        while True:
            key = draw(st.sampled_from(sorted(at) if isinstance(at, dict) else range(len(at))))
            if not (isinstance(at[key], dict | list) and at[key] and draw(st.booleans())):
                break
            at = at[key]
        at[key] = draw(VALUES)
        if not isinstance(data.get("outputs"), list) or not data["outputs"]:
            break
    return data


@pytest.mark.long
@FEW
@given(twisted())
def test_cutting_tests_with_any_values(client, shop, data):
    tried(client, reverse("bench:files"), {"text": json.dumps(data)})


@pytest.mark.long
@settings(max_examples=150)
@given(st.text(max_size=40) | st.from_regex(r"\(?[0-9]{2,4}\)?[ -~\x1d]{0,30}", fullmatch=True))
def test_scanned_labels(text):
    with suppress(BadInput):  # any other fault fails
        assert scan(text).gtin == "" or len(scan(text).gtin) == 14


@FEW
@given(st.binary(max_size=80) | st.fixed_dictionaries({"at": VALUES, "celsius": VALUES}))
def test_the_probe(client, db, said):
    raw = said if isinstance(said, bytes) else json.dumps(said).encode()
    answer = client.post(
        reverse("cooler:readings"),
        raw,
        content_type="application/json",
        headers={"Probe-Key": "test-probe"},
    )
    assert answer.status_code in (200, 422)
