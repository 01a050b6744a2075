"""`mindful-tally label`: example, schemas, and every fault with its path."""

import json
from decimal import Decimal

import pytest
from stdnum import ean

from mindful_tally.cli import main
from tests.formats.test_ways_day import changed, example, run, schema

LABEL = example("label-flat-iron")
D = Decimal


def test_the_example_gives_its_result_and_keeps_its_schemas(tmp_path, capsys):
    status, printed, _ = run("label", LABEL, tmp_path, capsys)
    assert status == 0
    schema("label").validate(LABEL)
    schema("label-result").validate(printed)
    assert printed == example("label-result-flat-iron")


def test_the_example_is_kept_by_hand():
    """0.5 oz is 0.03125 lb, up to 0.04; 1.28 − 0.04 = 1.24; 12.99 × 1.24 = 16.1076."""
    found = example("label-result-flat-iron")
    assert found["net"] == {"value": "1.24", "unit": "lb"}
    assert found["total"] == "16.11"
    assert ean.is_valid(found["codes"][0]["digits"])
    assert found["codes"][0]["digits"][8:12] == "1611"


@pytest.mark.parametrize(
    ("at", "value", "path", "says"),
    [
        ("product", None, "$.product", "object"),
        ("product.name", " ", "$.product.name", "a name is right"),
        ("product.price.amount", "0", "$.product.price.amount", "above 0"),
        ("product.gtin", "2000000123456", "$.product.gtin", "check digit"),
        ("product.item", "1234", "$.product.item", "five digits"),
        ("gross.value", "1.285", "$.gross", "multiple of 0.01 lb"),
        ("gross.value", "0.04", "$.gross", "more than the tare"),
        ("tare", {"value": "-1", "unit": "lb"}, "$.tare.value", "0 or more"),
        ("tare", {"value": "0.045", "unit": "lb"}, "$.tare", "multiple"),
        ("division.value", "0", "$.division.value", "above 0"),
        ("packed_on", "26.11.2026", "$.packed_on", "2026-11-26"),
        ("sell_by", "2026-11-25", "$.sell_by", "that day or later"),
        ("lot", "ж1", "$.lot", "82 characters"),
        ("serial", "x" * 21, "$.serial", "1 to 20"),
        ("country", "USA", "$.country", "two letters"),
        ("tenderized", "yes", "$.tenderized", "true or false"),
        ("ingredients", "salt", "$.ingredients", "list"),
        ("ingredients", ["salt", 3], "$.ingredients[1]", "text"),
        ("store_code", "price_14", "$.store_code", "price_12"),
        ("link", "http://shop.example", "$.link", "https://"),
        ("shop", {"name": "x"}, "$.shop.place", "is missing"),
        ("version", 2, "$.version", "1 is right"),
        ("currency", "usd", "$.currency", "three capitals"),
    ],
)
def test_a_fault_names_its_place_and_what_is_right(at, value, path, says, tmp_path, capsys):
    status, _, told = run("label", changed(LABEL, at, value), tmp_path, capsys)
    assert status == 2
    assert f"{path}:" in told
    assert says in told


def without(*names):
    """The example without some of what may be left out."""
    product = {key: one for key, one in LABEL["product"].items() if f"product.{key}" not in names}
    return {key: one for key, one in LABEL.items() if key not in names} | {"product": product}


def test_what_may_be_left_out_is(tmp_path, capsys):
    bare = without(
        "shop", "lot", "serial", "country", "tenderized", "ingredients", "frozen_before", "link",
        "store_code", "product.muscle", "product.gtin",
    )  # fmt: skip
    status, printed, _ = run("label", bare, tmp_path, capsys)
    assert status == 0
    assert printed["codes"] == []
    schema("label").validate(bare)
    schema("label-result").validate(printed)
    status, _, told = run("label", without("product.gtin", "product.item"), tmp_path, capsys)
    assert (status, "a gtin, or an item" in told) == (2, True)
    status, _, told = run("label", without("product.item"), tmp_path, capsys)
    assert (status, "$.store_code" in told) == (2, True)


def test_a_total_that_four_digits_do_not_hold_is_told_and_no_fault(tmp_path, capsys):
    dear = changed(LABEL, "product.price.amount", "99.00")
    status, printed, _ = run("label", dear, tmp_path, capsys)
    assert status == 0
    assert printed["total"] == "122.76"
    assert printed["codes"][0]["kind"] == "none"
    schema("label-result").validate(printed)


def test_it_is_drawn_into_files(tmp_path, capsys):
    source = tmp_path / "label.json"
    source.write_text(json.dumps(LABEL))
    png, pdf = tmp_path / "label.png", tmp_path / "label.pdf"
    assert main(["label", str(source), "--png", str(png), "--pdf", str(pdf)]) == 0
    assert json.loads(capsys.readouterr().out) == example("label-result-flat-iron")
    assert png.read_bytes().startswith(b"\x89PNG")
    assert pdf.read_bytes().startswith(b"%PDF")
    assert main(["label", str(source), "--png", str(tmp_path / "no" / "x.png")]) == 2
    assert "a file that can be written" in capsys.readouterr().err
