"""The shipped data is whole, and loading it is idempotent."""

import re
from decimal import Decimal

import pytest

from cutting.errors import BadValue
from rooms.catalog import shipped
from rooms.catalog.actions import load_catalog
from rooms.catalog.models import Cut, Piece, PlanOutput

PIECES = shipped.pieces()


def test_six_pieces_of_three_species_are_shipped():
    assert len(PIECES) == 6
    assert {piece.fields["species"] for piece in PIECES} == {"beef", "pork", "lamb"}


@pytest.mark.parametrize("piece", PIECES, ids=lambda piece: piece.key)
def test_each_piece_is_whole(piece):
    """Item numbers: USDA IMPS, value from memory. Shares: common practice, no published source."""
    assert re.fullmatch(r"[0-9]{3}[A-Z]?", piece.fields["item_number"])
    assert piece.fields["cautions"]
    assert piece.plans
    for plan in piece.plans:
        shares = [output.share for output in plan.outputs]
        assert all(share is not None and 0 < share < 1 for share in shares)
        assert Decimal("0.97") <= sum(shares) <= 1
        assert {"main", "discard", "purge"} <= {output.role.value for output in plan.outputs}
        for output in plan.outputs:
            assert output.is_counted == (output.target is not None)
            assert (output.cut is None) == (output.role.value in ("discard", "purge"))


def test_every_cut_is_used_by_a_plan():
    used = {output.cut for piece in PIECES for plan in piece.plans for output in plan.outputs}
    assert set(shipped.cuts()) == used - {None}


@pytest.mark.django_db
def test_loading_twice_changes_nothing_and_an_edit_is_brought_back_in_line():
    first = load_catalog()
    assert first.added > 50
    again = load_catalog()
    assert (again.added, again.changed) == (0, 0)
    Piece.objects.filter(key="pork-loin").update(name="Loin")
    assert load_catalog().changed == 1
    assert (Piece.objects.count(), Cut.objects.count()) == (6, len(shipped.cuts()))
    assert PlanOutput.objects.get(name="Silver skin").share == Decimal("0.035")


@pytest.mark.parametrize(
    ("shares", "names", "says"), [(("0.7", "0.4"), ("a", "b"), "sum to 1.1"),
                                  (("0.1", "0.1"), ("A", "a "), "twice")]
)  # fmt: skip
def test_a_plan_that_gives_more_than_the_piece_or_one_name_twice_is_refused(shares, names, says):
    outputs = tuple(
        shipped._output({"name": name, "pile": "lean", "share": share}, {})
        for name, share in zip(names, shares, strict=True)
    )
    with pytest.raises(BadValue, match=says):
        shipped.ShippedPlan("p", "p", False, outputs)


def test_an_output_of_an_unknown_cut_is_refused():
    with pytest.raises(BadValue, match="no cut gold"):
        shipped._output({"name": "x", "pile": "lean", "cut": "gold"}, {})
