"""`mindful-tally price`: the example, its schema, and every fault with its path."""

import copy
import json
from decimal import Decimal
from pathlib import Path

import pytest
from jsonschema import Draft202012Validator

from mindful_tally.cli import main

FORMATS = Path(__file__).parents[2] / "docs" / "formats"
EXAMPLE = json.loads((FORMATS / "examples" / "price-clod.json").read_text())
SCHEMA = Draft202012Validator(json.loads((FORMATS / "pricing.schema.json").read_text()))


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
    lean = next(row for row in printed["outputs"] if row["name"] == "Lean trim")
    assert (lean["price"], lean["locked"]) == ("6.49", True)
    assert abs(Decimal(printed["before_endings"]["gp_percent"]) - 42) < Decimal("1e-20")


def test_each_alone_needs_no_ladder_and_markup_is_margin(tmp_path, capsys):
    alone = price(tmp_path, capsys, {"target": "1", "by": "markup", "way": "each",
                                     "school": "flat"})[1]  # fmt: skip
    assert (alone["factor"], alone["target_percent"]) == (None, "50")
    for row in alone["outputs"]:
        assert abs(Decimal(row["exact"]) - Decimal(row["cost"]) * 2) < Decimal("1e-24")
        assert Decimal(row["price"]) == round(Decimal(row["exact"]), 2)


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"target": "1"}, "$.pricing.target: 100.0 %; less than 100 % of sales"),
        ({"target": 0.4}, "$.pricing.target: float is not text"),
        ({"by": "sales"}, "$.pricing.by: 'sales' is not right here; margin or markup"),
        ({"way": []}, "$.pricing.way: a list; piece or each"),
        ({"school": "none"}, "flat, credit, sales_value or replacement"),
        ({"endings": [{"endings": ["1.00"]}]}, "$.pricing.endings[0]: 1.00; endings from 0"),
        ({"endings": [{"under": "5", "endings": ["0"]}]}, "$.pricing.endings: no open last band"),
        ({"endings": "x"}, "$.pricing.endings: 'x' is not right here; a list"),
        ({"floor": "1.2"}, "$.pricing.floor: 1.2 is too much"),
        ({"products": [{"name": "Moon"}]}, "$.pricing.products[0].name: 'Moon'"),
        ({"products": [{"name": "Stew"}, {"name": "stew"}]}, "each product once"),
        ({"products": [{"name": "Stew", "lock": {"amount": "0", "per": "lb"}}]},
         "$.pricing.products[0].lock.amount: 0 is too little"),
        ({"products": [{"name": "Stew", "adders": [{"price": "1"}]}]},
         "adders[0].name: is missing"),
    ],
)  # fmt: skip
def test_every_fault_is_told_with_its_path(tmp_path, capsys, changes, says):
    status, out, err = price(tmp_path, capsys, **changes)
    assert (status, out) == (2, "")
    assert says in err, err


def test_a_document_without_pricing_says_so(tmp_path, capsys):
    path = tmp_path / "bare.json"
    path.write_text(json.dumps({k: v for k, v in EXAMPLE.items() if k != "pricing"}))
    assert main(["price", str(path)]) == 2
    assert "$.pricing: is missing" in capsys.readouterr().err
