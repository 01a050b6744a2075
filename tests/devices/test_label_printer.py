"""The simulated label printer: each label once, whatever is sent again, with its faults."""

import base64

import pytest
from aiohttp.test_utils import TestClient, TestServer

from devices import label_printer
from devices.label_printer import ROLL, LabelPrinter, Stopped, make_app
from tests.run_async import run_async

NAME = "0f8a1c52-1111-4222-8333-444455556666"
PNG, PDF = b"\x89PNG one", b"%PDF one"


def test_a_label_comes_out_once_however_often_it_is_sent(tmp_path):
    printer = LabelPrinter(tmp_path)
    assert printer.print(NAME, PNG, PDF)
    assert not printer.print(NAME, b"\x89PNG other", PDF)
    (out,) = tmp_path.glob("*.png")
    assert (out.read_bytes(), printer.left) == (PNG, ROLL - 1)


def test_labels_come_out_in_their_order(tmp_path):
    printer = LabelPrinter(tmp_path)
    for at in range(12):
        printer.print(f"{at:08x}-1111", PNG, PDF)
    names = [path.name[7:15] for path in sorted(tmp_path.glob("*.png"))]
    assert names == [f"{at:08x}" for at in range(12)]


def test_a_label_half_printed_when_the_power_fails_is_printed_whole(tmp_path, monkeypatch):
    printer = LabelPrinter(tmp_path)
    monkeypatch.setattr("pathlib.Path.rename", lambda *_: (_ for _ in ()).throw(OSError("power")))
    with pytest.raises(OSError, match="power"):
        printer.print(NAME, PNG, PDF)
    monkeypatch.undo()
    again = LabelPrinter(tmp_path)
    assert again.printed(NAME) is None
    assert again.print(NAME, PNG, PDF)
    assert again.count() == 1


@pytest.mark.parametrize(
    ("fault", "mend", "says"),
    [("jam", "clear", "jammed"), ("off", "on", "off line"), ("almost", "roll", "roll is empty")],
)
def test_a_fault_says_what_to_do_and_is_mended(tmp_path, fault, mend, says):
    printer = LabelPrinter(tmp_path)
    printer.touch(fault)
    if fault == "almost":
        for name in ("aaaaaaaa-1", "bbbbbbbb-1"):
            printer.print(name, PNG, PDF)
    with pytest.raises(Stopped, match=says):
        printer.print(NAME, PNG, PDF)
    printer.touch(mend)
    assert printer.print(NAME, PNG, PDF)


def test_over_the_line(tmp_path, monkeypatch):
    monkeypatch.setattr(label_printer, "SLOW_SECONDS", 0.0)
    body = {"png": base64.b64encode(PNG).decode(), "pdf": base64.b64encode(PDF).decode()}

    async def run():
        async with TestClient(TestServer(make_app(LabelPrinter(tmp_path)))) as client:
            assert (await client.get("/last.png")).status == 404
            first = await client.put(f"/labels/{NAME}", json=body)
            assert await first.json() == {"printed": True, "again": False}
            await client.post("/hand", data={"what": "slow"})
            again = await client.put(f"/labels/{NAME}", json=body)
            assert await again.json() == {"printed": True, "again": True}
            assert await (await client.get("/last.png")).read() == PNG
            for wrong in ({}, {"png": "?", "pdf": ""}, []):
                assert (await client.put(f"/labels/{NAME}", json=wrong)).status == 400
            assert (await client.put("/labels/..%2Fx", json=body)).status in (400, 404)
            await client.post("/hand", data={"what": "jam"})
            stopped = await client.put("/labels/cccccccc-1", json=body)
            assert (stopped.status, "jammed" in await stopped.text()) == (409, True)
            assert "jammed" in await (await client.get("/panel")).text()
            assert (await client.post("/hand", data={"what": "kick"})).status == 400
            strange = {"Origin": "http://elsewhere.example"}
            kicked = await client.post("/hand", data={"what": "roll"}, headers=strange)
            assert kicked.status == 403

    run_async(run())
