"""`mindful-tally price`: the example, its schema, and every fault with its path."""

import copy
import json
import re
from decimal import Decimal
from pathlib import Path

import pytest
from jsonschema import Draft202012Validator

from mindful_tally.cli import main

FORMATS = Path(__file__).parents[2] / "docs" / "formats"
EXAMPLE = json.loads((FORMATS / "examples" / "price-clod.json").read_text())
SCHEMA = Draft202012Validator(json.loads((FORMATS / "pricing.schema.json").read_text()))
RESULT = Draft202012Validator(json.loads((FORMATS / "price-result.schema.json").read_text()))


def price(tmp_path, capsys, pricing=None, **changes):
    data = copy.deepcopy(EXAMPLE)
    data["pricing"].update(changes)
    if pricing is not None:
        data["pricing"] = pricing
    path = tmp_path / "test.json"
    path.write_text(json.dumps(data))
    status = main(["price", str(path)])
    answer = capsys.readouterr()
    return status, json.loads(answer.out) if status == 0 else answer.out, answer.err


def test_the_example_gives_its_result_and_keeps_its_schema(capsys):
    assert main(["price", str(FORMATS / "examples" / "price-clod.json")]) == 0
    printed = json.loads(capsys.readouterr().out)
    assert printed == json.loads((FORMATS / "examples" / "price-result-clod.json").read_text())
    SCHEMA.validate(EXAMPLE)
    RESULT.validate(printed)
    lean = next(row for row in printed["outputs"] if row["name"] == "Lean trim")
    assert (lean["price"], lean["locked"]) == ("6.49", True)


def test_without_steps_the_piece_meets_its_target_exactly(tmp_path, capsys):
    bare = {"products": [{"name": "Lean trim", "lock": {"amount": "6.49", "per": "lb"}}]}
    printed = price(tmp_path, capsys, bare | {"target": "0.42", "school": "flat"})[1]
    assert abs(Decimal(printed["before_endings"]["gp_percent"]) - 42) < Decimal("1e-20")


def test_each_alone_needs_no_ladder_and_markup_is_margin(tmp_path, capsys):
    alone = price(
        tmp_path, capsys, {"target": "1", "by": "markup", "way": "each", "school": "flat"}
    )[1]
    assert (alone["factor"], alone["target_percent"]) == (None, "50")
    for row in alone["outputs"]:
        assert abs(Decimal(row["exact"]) - Decimal(row["cost"]) * 2) < Decimal("1e-24")
        assert Decimal(row["price"]) == round(Decimal(row["exact"]), 2)


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"target": "1"}, "$.pricing.target: 100.0 %; less than 100 % of sales"),
        ({"target": 0.4}, "$.pricing.target: 0.4 is not right here; a plain decimal in quotes"),
        ({"by": "sales"}, "$.pricing.by: 'sales' is not right here; margin or markup"),
        ({"way": []}, "$.pricing.way: a list; piece or each"),
        ({"school": "none"}, "flat, credit, sales_value or replacement"),
        (
            {"endings": [{"endings": ["1.00"]}]},
            "$.pricing.endings[0].endings: 1.00; endings from 0",
        ),
        ({"endings": [{"under": "5", "endings": ["0"]}]}, "$.pricing.endings: no open last band"),
        ({"endings": "x"}, "$.pricing.endings: 'x' is not right here; a list"),
        ({"floor": "1.2"}, "$.pricing.floor: 1.2 is too much"),
        ({"products": [{"name": "Moon"}]}, "$.pricing.products[0].name: 'Moon'"),
        ({"products": [{"name": "Stew"}, {"name": "stew"}]}, "each product once"),
        (
            {"products": [{"name": "Stew", "lock": {"amount": "0", "per": "lb"}}]},
            "$.pricing.products[0].lock.amount: 0 is too little",
        ),
        (
            {"products": [{"name": "Stew", "adders": [{"price": "1"}]}]},
            "adders[0].name: is missing",
        ),
    ],
)
def test_every_fault_is_told_with_its_path(tmp_path, capsys, changes, says):
    status, out, err = price(tmp_path, capsys, **changes)
    assert (status, out) == (2, "")
    assert says in err, err


def test_a_document_without_pricing_says_so(tmp_path, capsys):
    path = tmp_path / "bare.json"
    path.write_text(json.dumps({k: v for k, v in EXAMPLE.items() if k != "pricing"}))
    assert main(["price", str(path)]) == 2
    assert "$.pricing: is missing" in capsys.readouterr().err


def names():
    """Outputs of the example that go to the case."""
    return [output["name"] for output in EXAMPLE["outputs"] if output.get("retail")]


def own(name, **wishes):
    return {"products": [{"name": name, **wishes}]}


def row_of(printed, name):
    return next(row for row in printed["outputs"] if row["name"] == name)


def test_a_products_own_target_is_read_as_the_document_speaks(tmp_path, capsys):
    first = names()[0]
    pricing = {
        "target": "1",
        "by": "markup",
        "way": "each",
        "school": "flat",
        **own(first, target="1.25"),
    }
    printed = price(tmp_path, capsys, pricing)[1]
    row = row_of(printed, first)
    assert abs(Decimal(row["exact"]) - Decimal(row["cost"]) * Decimal("2.25")) < Decimal("1e-24")


def test_sales_value_shares_follow_the_ladder_where_no_last_price_is_known(tmp_path, capsys):
    data = copy.deepcopy(EXAMPLE)
    products = []
    for output in data["outputs"]:
        if output.pop("retail", None):
            rung = {"amount": "8.00", "per": "lb"}
            products.append({"name": output["name"], "rung": rung, "floor": "0.30"})
    data["pricing"] = {"target": "0.42", "products": products}
    path = tmp_path / "ladder.json"
    path.write_text(json.dumps(data))
    assert main(["price", str(path)]) == 0
    printed = json.loads(capsys.readouterr().out)
    costs = {Decimal(row["cost"]) for row in printed["outputs"]}
    assert len({round(cost, 20) for cost in costs}) == 1  # equal rungs, equal costs
    assert all(Decimal(row["gp_percent"]) >= 30 for row in printed["outputs"])


def test_a_missing_rung_is_told_and_gets_no_price(tmp_path, capsys):
    data = copy.deepcopy(EXAMPLE)
    bare = next(output for output in data["outputs"] if output["name"] == names()[0])
    del bare["retail"]
    data["pricing"] = {"target": "0.42", "school": "flat"}
    path = tmp_path / "bare.json"
    path.write_text(json.dumps(data))
    assert main(["price", str(path)]) == 0
    printed = json.loads(capsys.readouterr().out)
    assert row_of(printed, bare["name"])["price"] is None
    assert f"No ladder for {bare['name']}" in printed["troubles"][0]


@pytest.mark.parametrize("way", ["piece", "each"])
def test_minutes_of_a_step_need_a_wage_and_both_ways_count_them(tmp_path, capsys, way):
    step = {"name": "tie", "minutes": "6", "material": "0.10"}
    pricing = {"target": "0.42", "way": way, "school": "flat", **own(names()[0], adders=[step])}
    priced = price(tmp_path, capsys, pricing)[1]
    row = row_of(priced, names()[0])
    wage = Decimal(EXAMPLE["labour_rate_per_hour"])
    assert Decimal(row["loaded_cost"]) - Decimal(row["cost"]) == wage / 10 + Decimal("0.10")
    if way == "each":
        assert abs(Decimal(row["gp_percent"]) - 42) < Decimal("0.2")  # to the cent
    data = copy.deepcopy(EXAMPLE) | {"pricing": pricing}
    del data["labour_rate_per_hour"]
    path = tmp_path / "wageless.json"
    path.write_text(json.dumps(data))
    assert main(["price", str(path)]) == 0
    printed = json.loads(capsys.readouterr().out)
    row = row_of(printed, names()[0])
    assert (row["loaded_cost"], row["gp_percent"], printed["cost"], printed["whole"]) == (None,) * 4
    assert "have no wage" in printed["troubles"][0]
    RESULT.validate(printed)


def test_out_of_reach_is_a_factor_of_nothing_never_less(tmp_path, capsys):
    dear = own(names()[0], lock={"amount": "900.00", "per": "lb"})
    printed = price(tmp_path, capsys, {"target": "0.10", **dear})[1]
    assert printed["factor"] == "0"
    assert "alone pass the target" in printed["troubles"][0]
    assert all(Decimal(row["exact"]) >= 0 for row in printed["outputs"] if row["exact"])


def test_a_lock_or_a_rung_per_kg_leaves_what_labour_is_per(tmp_path, capsys):
    first = names()[0]
    for wish in ("lock", "rung"):
        given = own(first, labour="0.20", **{wish: {"amount": "30.00", "per": "kg"}})
        row = row_of(
            price(tmp_path, capsys, {"target": "0.42", "school": "flat", **given})[1], first
        )
        assert row["per"] == "lb"
        assert Decimal(row["loaded_cost"]) - Decimal(row["cost"]) == Decimal("0.20")
    given = own(first, per="kg", labour="0.20")
    assert row_of(price(tmp_path, capsys, {"target": "0.42", **given})[1], first)["per"] == "kg"


BAD = [
    {"target": "1"},
    {"target": 0.4},
    {"target": "-1"},
    {"by": "sales"},
    {"way": []},
    {"school": "none"},
    {"endings": "x"},
    {"endings": []},
    {"endings": [{"endings": ["1.00"]}]},
    {"endings": [{"endings": []}]},
    {"endings": [{"under": "5"}]},
    {"endings": [7]},
    {"endings": [{"under": "0", "endings": ["0"]}, {"endings": ["0"]}]},
    {"endings": [{"under": "5", "endings": ["0"]}]},
    {"endings": [{"endings": ["0"]}, {"endings": ["0"]}]},
    {"direction": "sideways"},
    {"floor": "1"},
    {"floor": "1.2"},
    {"tax": "1"},
    {"products": {}},
    {"products": ["Stew"]},
    {"products": [{}]},
    {"target": "1" * 30},
    {"products": [{"name": "x" * 201}]},
    *(
        own("Lean trim", **wish)
        for wish in (
            {"rung": {"amount": "0", "per": "lb"}},
            {"lock": {"amount": "0", "per": "lb"}},
            {"lock": {"amount": "5", "per": "stone"}},
            {"lock": "5"},
            {"target": "1"},
            {"floor": "1"},
            {"shrink": "1"},
            {"shrink": "-0.1"},
            {"labour": "x"},
            {"per": "pound"},
            {"adders": [{"price": "1"}]},
            {"adders": ["tie"]},
            {"adders": {}},
            {"adders": [{"name": "tie", "pick_up": "1.5"}]},
        )
    ),
]


@pytest.mark.parametrize("changes", BAD, ids=str)
def test_the_schema_refuses_what_the_program_refuses_and_each_fault_is_told_once(
    tmp_path, capsys, changes
):
    data = copy.deepcopy(EXAMPLE)
    data["pricing"].update(changes)
    assert not SCHEMA.is_valid(data), changes
    status, _, err = price(tmp_path, capsys, **changes)
    lines = err.splitlines()
    assert status == 2
    assert len(lines) == 1, lines
    assert re.match(r"\$\.pricing(\.[a-z_]+(\[[0-9]+\])?)*: ", lines[0]), lines[0]
