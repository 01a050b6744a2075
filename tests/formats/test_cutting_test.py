"""The document and the command line: what is read, what is refused, what is printed."""

import copy
import json
from decimal import Decimal
from pathlib import Path

import pytest
from jsonschema import Draft202012Validator

from cutting.costing.sheet import compute
from cutting.errors import BadDocument
from formats.reading import read_document
from formats.result import plain, write_result
from mindful_tally.cli import LARGEST_FILE, main

FORMATS = Path(__file__).parents[2] / "docs" / "formats"
SCHEMA = Draft202012Validator(json.loads((FORMATS / "cutting-test.schema.json").read_text()))
RESULT_SCHEMA = Draft202012Validator(
    json.loads((FORMATS / "cutting-test-result.schema.json").read_text())
)
EXAMPLES = sorted((FORMATS / "examples").glob("cutting-test-*.json"))
WORKED = json.loads((FORMATS / "examples" / "cutting-test-tenderloin.json").read_text())


def changed(path, value):
    """The worked example with one thing changed; value `...` takes it out."""
    data = copy.deepcopy(WORKED)
    *way, last = path
    here = data
    for step in way:
        here = here[step]
    if value is ...:
        del here[last]
    else:
        here[last] = value
    return data


def run(tmp_path, capsys, content):
    file = tmp_path / "test.json"
    file.write_bytes(content if isinstance(content, bytes) else json.dumps(content).encode())
    status = main(["compute", str(file)])
    return status, *capsys.readouterr()


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_every_example_fits_the_schema_and_computes(path, capsys):
    data = json.loads(path.read_text())
    assert list(SCHEMA.iter_errors(data)) == []
    assert main(["compute", str(path)]) == 0
    printed = json.loads(capsys.readouterr().out)
    assert list(RESULT_SCHEMA.iter_errors(printed)) == []
    expected = path.parent / path.name.replace("cutting-test-", "result-")
    assert printed == json.loads(expected.read_text())


def test_the_worked_example_prints_the_trades_figures(capsys):
    """Common practice, no published source: 46.21, 37.29, 14.29, 6.22, a gain of 0.01."""
    assert main(["compute", str(FORMATS / "examples" / "cutting-test-tenderloin.json")]) == 0
    printed = json.loads(capsys.readouterr().out)
    credit = printed["costing"]["credit"]
    assert printed["cost"] == "46.2133"
    assert credit["net_cost"] == "37.2934"
    assert credit["cost_per_portion"].startswith("6.21556666666")
    assert credit["cost_per_unit"].startswith("14.288659003")
    assert printed["balance"]["unaccounted"] == "-0.01"
    assert printed["balance"]["in_balance"] is True
    assert printed["margin"] is None


BEYOND_A_SCHEMA = {"$.piece.discount", "$.outputs[1].name"}
"""What costs the piece more than nothing, and a name that stands twice."""


@pytest.mark.parametrize(
    ("path", "value", "at", "says"),
    [
        (["format"], "other", "$.format", "mindful-tally.cutting-test"),
        (["format"], ..., "$.format", "missing"),
        (["version"], 2, "$.version", "1 is right"),
        (["version"], True, "$.version", "1 is right"),
        (["version"], "1", "$.version", "1 is right"),
        (["id"], "not-a-uuid", "$.id", "UUID"),
        (["id"], ..., "$.id", "missing"),
        (["currency"], "usd", "$.currency", "capitals"),
        (["piece"], ..., "$.piece", "missing"),
        (["piece"], [], "$.piece", "a list"),
        (["piece", "name"], "", "$.piece.name", "empty"),
        (["piece", "name"], "a\u0000b", "$.piece.name", "unprintable"),
        (["piece", "name"], "x" * 201, "$.piece.name", "201"),
        (["piece", "weight"], ..., "$.piece.weight", "missing"),
        (["piece", "weight"], "6.17 lb", "$.piece.weight", "object"),
        (["piece", "weight", "value"], 6.17, "$.piece.weight.value", "a plain decimal in quotes"),
        (["piece", "weight", "value"], "6,17", "$.piece.weight.value", "plain decimal"),
        (["piece", "weight", "value"], "0", "$.piece.weight.value", "above 0"),
        (["piece", "weight", "value"], "-6.17", "$.piece.weight.value", "above 0"),
        (["piece", "weight", "value"], "1e2", "$.piece.weight.value", "plain decimal"),
        (["piece", "weight", "unit"], "stone", "$.piece.weight.unit", "g, kg, oz or lb"),
        (["piece", "weight", "unit"], ["lb"], "$.piece.weight.unit", "g, kg, oz or lb"),
        (["piece", "price", "amount"], "0", "$.piece.price.amount", "above 0"),
        (["piece", "price", "amount"], None, "$.piece.price.amount", "a plain decimal in quotes"),
        (["piece", "freight"], "-1", "$.piece.freight", "0 or more"),
        (["piece", "discount"], "99", "$.piece.discount", "at most 46.2133"),
        (
            ["piece", "opened_weight"],
            {"value": "0", "unit": "lb"},
            "$.piece.opened_weight.value",
            "above 0",
        ),
        (["scale_division"], ..., "$.scale_division", "missing"),
        (["scale_division", "value"], "0.00", "$.scale_division.value", "above 0"),
        (["sawn"], "no", "$.sawn", "true or false"),
        (["labour_rate_per_hour"], "0", "$.labour_rate_per_hour", "above 0"),
        (["record"], "notes", "$.record", "object"),
        (["outputs"], ..., "$.outputs", "missing"),
        (["outputs"], {}, "$.outputs", "list"),
        (["outputs", 0], "trim", "$.outputs[0]", "object"),
        (["outputs", 1, "name"], "TRIM ", "$.outputs[1].name", "already the name of $.outputs[0]"),
        (["outputs", 0, "role"], "by-product", "$.outputs[0].role", "main, secondary"),
        (["outputs", 0, "weighings"], ..., "$.outputs[0].weighings", "missing"),
        (["outputs", 0, "weighings", 0], "2.21", "$.outputs[0].weighings[0]", "object"),
        (
            ["outputs", 0, "weighings", 0, "value"],
            "0.00",
            "$.outputs[0].weighings[0].value",
            "above 0",
        ),
        (
            ["outputs", 0, "weighings", 0, "division"],
            1,
            "$.outputs[0].weighings[0].division",
            "object",
        ),
        (["outputs", 0, "weighings", 0, "readings"], 3, "$.outputs[0].weighings[0].readings", "2"),
        (["outputs", 2, "count"], 0, "$.outputs[2].count", "from 1"),
        (["outputs", 2, "count"], True, "$.outputs[2].count", "from 1"),
        (["outputs", 2, "count"], "6", "$.outputs[2].count", "from 1"),
        (["outputs", 2, "count"], 10**31, "$.outputs[2].count", "huge"),
        (["outputs", 0, "credit", "amount"], "-0.01", "$.outputs[0].credit.amount", "0 or more"),
        (
            ["outputs", 2, "retail"],
            {"amount": "0", "per": "lb"},
            "$.outputs[2].retail.amount",
            "above 0",
        ),
        (["outputs", 2, "minutes"], "-1", "$.outputs[2].minutes", "0 or more"),
        (["outputs", 0, "in_case"], 1, "$.outputs[0].in_case", "true or false"),
    ],
)
def test_one_fault_is_one_line_with_path_wrong_and_right(tmp_path, capsys, path, value, at, says):
    data = changed(path, value)
    if at not in BEYOND_A_SCHEMA:
        assert not SCHEMA.is_valid(data), "the schema refuses what the program refuses"
    status, out, err = run(tmp_path, capsys, data)
    assert (status, out) == (2, "")
    line = err.splitlines()
    assert len(line) == 1
    assert line[0].startswith(f"{at}: ")
    assert says in line[0]


def test_every_fault_is_told_at_once(tmp_path, capsys):
    data = changed(["piece", "weight", "value"], "x")
    data["outputs"][0]["role"] = "?"
    data["outputs"][2]["count"] = -1
    status, _, err = run(tmp_path, capsys, data)
    assert status == 2
    assert [line.split(": ")[0] for line in err.splitlines()] == [
        "$.piece.weight.value",
        "$.outputs[0].role",
        "$.outputs[2].count",
    ]


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "not JSON"),
        (b"{", "line 1, column 2"),
        (b"[1]", "a list"),
        (b"null", "null"),
        (b"[" * 100_000, "nested too deep"),
        (b'{"a":' * 50_000 + b"1" + b"}" * 50_000, "deep"),
        (b'{"format": NaN}', "not a number"),
        (b'{"a": 1, "a": 2}', "twice"),
        (b"1" * 5000, "$"),
        (json.dumps(WORKED).encode("utf-16"), "not UTF-8"),
        (json.dumps(WORKED).replace("filets", "filé").encode("latin-1"), "$"),
        (b'{"format": "\xff"}', "byte 12"),
        (b"\x00\x01", "not JSON"),
        (b" " * (LARGEST_FILE + 1), "huge"),
        (b'{"format": "\\ud800"}', "$.format"),
    ],
    ids=lambda value: repr(value)[:24],
)
def test_hostile_files_are_refused_in_plain_lines(tmp_path, capsys, content, says):
    status, out, err = run(tmp_path, capsys, content)
    if status == 0:  # "filé" in latin-1 cannot be told from a good file only when it is escaped
        pytest.fail(f"accepted: {out[:80]}")
    assert (status, out) == (2, "")
    assert says in err
    assert "Traceback" not in err
    assert all(line.isprintable() and line.startswith("$") for line in err.splitlines())


def test_a_byte_order_mark_is_no_fault(tmp_path, capsys):
    content = b"\xef\xbb\xbf" + json.dumps(WORKED).encode()
    assert run(tmp_path, capsys, content)[0] == 0


def test_a_missing_file_is_told(capsys):
    assert main(["compute", "/nowhere/x.json"]) == 2
    assert "No such file" in capsys.readouterr().err


def test_a_repeated_weighing_key_counts_once_and_a_reused_key_is_a_fault():
    weighing = WORKED["outputs"][2]["weighings"][0] | {"key": "k1"}
    data = changed(["outputs", 2, "weighings"], [weighing, dict(weighing)])
    assert compute(read_document(data).test).figures.main == Decimal("2.61")
    data["outputs"][2]["weighings"][1]["value"] = "2.62"
    with pytest.raises(BadDocument, match=r"weighings\[1\]\.key: .*another weighing"):
        read_document(data)


def test_unknown_extra_fields_are_ignored():
    data = changed(["piece", "colour"], {"deep": [1]})
    data["outputs"][0]["weighings"][0]["at"] = "2026-11-24T10:00:00"
    assert compute(read_document(data).test).figures.cost == Decimal("46.2133")


def test_mixed_units_meet_in_the_unit_of_the_piece():
    data = changed(["outputs", 2, "weighings"], [{"value": "41.76", "unit": "oz"}])
    data["outputs"][1]["weighings"] = [{"value": "1", "unit": "kg"}]
    found = write_result(compute(read_document(data).test), "USD")
    assert found["unit"] == "lb"
    assert found["outputs"][2]["weight"] == "2.61"
    assert found["outputs"][1]["weight"].startswith("2.2046226218487")


@pytest.mark.parametrize(
    ("value", "text"),
    [("1E+2", "100"), ("0.10", "0.1"), ("-0.00", "0"), ("1E-7", "0.0000001"), ("12", "12")],
)
def test_figures_are_printed_plain(value, text):
    assert plain(Decimal(value)) == text
