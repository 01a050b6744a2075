"""`mindful-tally blend`: example, schemas, and every fault with its path."""

from decimal import Decimal

import pytest

from tests.formats.test_ways_day import changed, example, run, schema

D = Decimal
BLEND = example("blend-two-batches")


def test_the_example_gives_its_result_and_keeps_its_schemas(tmp_path, capsys):
    status, printed, _ = run("blend", BLEND, tmp_path, capsys)
    assert status == 0
    schema("blend").validate(BLEND)
    schema("blend-result").validate(printed)
    assert printed == example("blend-result-two-batches")


def test_the_example_is_kept_by_hand():
    """Worked by hand from what is printed: weights, the fat of each batch, what is left."""
    tubs = {one["name"]: one for one in BLEND["tubs"]}
    found = example("blend-result-two-batches")
    for asked, one in zip(BLEND["batches"], found["batches"], strict=True):
        take = {row["tub"]: D(row["weight"]["value"]) for row in one["take"]}
        assert abs(sum(take.values()) - D(asked["weight"]["value"])) < D("1e-15")
        fat = sum(own * (1 - D(tubs[name]["lean"])) for name, own in take.items())
        assert abs(fat / sum(take.values()) - D(one["fat"])) < D("1e-15")
        cost = sum(own * D(tubs[name]["cost"]["amount"]) for name, own in take.items())
        assert abs(cost - D(one["cost"])) < D("1e-15")
    assert "Clod, today" not in {row["tub"] for row in found["left"]}
    kilos = next(row for row in found["left"] if row["tub"] == "Hard fat")["weight"]
    assert kilos["unit"] == "kg"


def test_units_may_differ_and_the_answer_is_in_those_of_the_batch(tmp_path, capsys):
    kilos = changed(BLEND, "batches.1.weight", {"value": "1.81436948", "unit": "kg"})
    _, printed, _ = run("blend", kilos, tmp_path, capsys)
    assert printed["batches"][1]["take"][0]["weight"]["unit"] == "kg"
    assert abs(D(printed["cost"]) - D(example("blend-result-two-batches")["cost"])) < D("1e-9")


@pytest.mark.parametrize(
    ("at", "value", "path", "says"),
    [
        ("tubs", [], "$.tubs", "at least one"),
        ("batches", [], "$.batches", "at least one"),
        ("tubs.1.name", "chuck, thursday", "$.tubs[1].name", "twice"),
        ("tubs.0.lean", "1.2", "$.tubs[0].lean", "at most 1"),
        ("tubs.0.kind", "bone", "$.tubs[0].kind", "lean, ends, hard_fat"),
        ("tubs.0.weight.value", "0", "$.tubs[0].weight.value", "above 0"),
        ("tubs.0.must", "yes", "$.tubs[0].must", "true or false"),
        ("batches.0.rule", "mince", "$.batches[0].rule", "ground_beef"),
        ("batches.0.fat", None, "$.batches[0].fat", "object"),
        ("batches.0.fat.least", "0.4", "$.batches[0].fat.least", "at most 0.16"),
        ("batches.0.chance", None, "$.batches[0].chance", "is missing"),
        ("batches.0.limit", None, "$.batches[0].limit", "is missing"),
        ("batches.0.chance", "0.6", "$.batches[0].chance", "at most 0.5"),
        ("batches.0.weight.value", "99", "$.batches[0].weight", "are missing"),
        (
            "batches.0.fat",
            {"least": "0.01", "most": "0.02"},
            "$.batches[0].fat",
            "0.1232 to 0.1858",
        ),
        ("tubs.2.species", "pork", "$.tubs[2].must", "may go into no batch"),
        ("version", 2, "$.version", "1"),
    ],
)
def test_a_fault_is_told_with_its_path(at, value, path, says, tmp_path, capsys):
    status, out, err = run("blend", changed(BLEND, at, value), tmp_path, capsys)
    assert (status, out) == (2, "")
    assert path in err
    assert says in err
