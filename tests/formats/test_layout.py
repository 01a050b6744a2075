"""`mindful-tally layout`: the examples, their schemas, and every fault with its path."""

import copy
import json
from decimal import Decimal
from pathlib import Path

import pytest
from jsonschema import Draft202012Validator

from mindful_tally.cli import main

FORMATS = Path(__file__).parents[2] / "docs" / "formats"
SCHEMA = Draft202012Validator(json.loads((FORMATS / "layout.schema.json").read_text()))
RESULT = Draft202012Validator(json.loads((FORMATS / "layout-result.schema.json").read_text()))


def example(name):
    return json.loads((FORMATS / "examples" / f"layout-{name}.json").read_text())


EXAMPLE, RIB = example("top-sirloin"), example("rib")


def run(tmp_path, capsys, data):
    path = tmp_path / "piece.json"
    path.write_text(json.dumps(data))
    status = main(["layout", str(path)])
    answer = capsys.readouterr()
    return status, json.loads(answer.out) if status == 0 else answer.out, answer.err


def changed(at, value, data=EXAMPLE):
    """A copy with one value elsewhere; None takes it out."""
    data = copy.deepcopy(data)
    holder = data
    *path, last = at.split(".")
    for key in path:
        holder = holder[int(key) if key.isdecimal() else key]
    if value is None:
        holder.pop(last)
    else:
        holder[int(last) if last.isdecimal() else last] = value
    return data


@pytest.mark.parametrize("name", ["top-sirloin", "rib"])
def test_the_examples_give_their_results_and_keep_their_schemas(name, tmp_path, capsys):
    status, printed, _ = run(tmp_path, capsys, example(name))
    assert status == 0
    SCHEMA.validate(example(name))
    RESULT.validate(printed)
    assert printed == example(f"result-{name}")
    parts = [Decimal(part["weight"]["value"]) for part in printed["parts"]]
    whole = sum(parts) + Decimal(printed["kerf_weight"]["value"])
    assert abs(whole - Decimal(example(name)["piece"]["weight"]["value"])) < Decimal("1e-20")
    money = sum(Decimal(part["value"]) for part in printed["parts"])
    assert abs(money - Decimal(printed["money"])) < Decimal("1e-20")
    assert [part["to"] for part in printed["parts"][:-1]] == printed["marks"]


def test_a_piece_with_bones_is_cut_between_them_and_has_no_plain_rule(tmp_path, capsys):
    _, printed, _ = run(tmp_path, capsys, RIB)
    assert printed["plain_rule"] is None
    assert {mark["value"] for mark in printed["marks"]} <= {
        cut["value"] for cut in RIB["piece"]["bones"]["cuts"]
    }


def test_units_may_differ_and_the_same_piece_in_millimetres_is_the_same(tmp_path, capsys):
    metric = json.loads(json.dumps(EXAMPLE), object_hook=_in_mm)
    here, there = run(tmp_path, capsys, EXAMPLE)[1], run(tmp_path, capsys, metric)[1]
    assert here["counts"] == there["counts"]
    assert here["money"] == there["money"]
    assert there["marks"][0] == {"value": "6.35", "unit": "mm"}


def _in_mm(one):
    if one.get("unit") == "in":
        return {"value": f"{Decimal(one['value']) * Decimal('25.4'):f}", "unit": "mm"}
    return one


def mm(value):
    return {"value": value, "unit": "mm"}


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (changed("format", "other"), "$.format: 'other' is not right here"),
        (changed("version", True), "$.version: true; 1 is right"),
        (changed("currency", "usd"), "$.currency"),
        (changed("currency", "U1D"), "$.currency"),
        (changed("piece.weight", None), "$.piece.weight: is missing"),
        (changed("piece.section", "round"), "$.piece.section"),
        (changed("piece.stations.1.at", mm("0")), "$.piece.stations[1].at"),
        (changed("piece.stations.0.at", mm("1")), "$.piece.stations[0].at"),
        (changed("piece.stations.1.width", mm("0")), "$.piece.stations[1].width"),
        (changed("piece.stations.1.width", {"value": "2", "unit": "ft"}), "mm, cm, in is right"),
        (changed("step", mm("0.1")), "$.step: 0.1 mm makes 3048 places"),
        (changed("step", mm("0")), "$.step.value"),
        (changed("kerf", mm("2")), "$.kerf: 2 mm; a multiple of the step"),
        (changed("face", {}), "$.face: has neither near nor far"),
        (changed("face.near", mm("400")), "$.face: 400"),
        (changed("zones.0.to", mm("1")), "$.zones[0].to: 1 mm; more than"),
        (changed("zones.0.to", mm("999")), "$.zones[0].to: 999 mm; within the piece"),
        (changed("zones.0.rule", "avoid"), "$.zones[0].rule"),
        (changed("products", []), "$.products: 0; 1 to 8"),
        (
            changed("products.1.name", "Steak, 8 oz"),
            "$.products[1].name: 'Steak, 8 oz' stands there",
        ),
        (changed("products.1.thickness", None), "$.products[1]: has no limit"),
        (changed("products.1.price", None), "$.products[1].price: neither price nor each"),
        (changed("products.1.each", "9.99"), "$.products[1].price: price and each"),
        (
            changed("products.1.aim", {"value": "1", "unit": "lb"}),
            "$.products[1].aim: without each",
        ),
        (changed("products.1.price.amount", "0"), "$.products[1].price.amount"),
        (changed("products.1.most", 0), "$.products[1].most: 0"),
        (changed("products.1.most", 1.5), "$.products[1].most"),
        (changed("products.1.least", 3), "$.products[1].least: 3; at most 1"),
        (changed("products.1.bones", 2), "$.products[1].bones: the piece names none"),
        (changed("products.1.from", mm("9999")), "$.products[1]"),
        (changed("rest.amount", "-1"), "$.rest.amount"),
        (changed("piece.bones.count", 6, RIB), "$.piece.bones.cuts: 6 places; 5 are right"),
        (changed("piece.bones.cuts.0", mm("44"), RIB), "$.piece.bones.cuts[0]: 44 mm; a multiple"),
        (changed("products.0.bones", 8, RIB), ""),
    ],
)
def test_a_fault_is_told_by_its_path_and_nothing_is_printed(tmp_path, capsys, data, says):
    status, out, err = run(tmp_path, capsys, data)
    if not says:  # other products still fit
        assert status == 0
        return
    assert (status, out) == (2, "")
    assert says in err


def test_a_limit_that_no_slice_meets_is_told_with_the_nearest(tmp_path, capsys):
    heavy = {"least": {"value": "20", "unit": "lb"}, "most": {"value": "30", "unit": "lb"}}
    data = changed("products", [{**EXAMPLE["products"][0], "weight": heavy}])
    status, out, err = run(tmp_path, capsys, data)
    assert (status, out) == (2, "")
    assert "$.products[0].weight: no slice of Steak, 8 oz meets it; " in err
    many = changed("products.0.least", 40)
    assert "at most 14 fit" in run(tmp_path, capsys, many)[2]
