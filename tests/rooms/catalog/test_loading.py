"""Loading is idempotent, and the shop's own edits survive an update of the shipped data."""

import copy
from decimal import Decimal

import pytest

from cutting.errors import BadDocument
from rooms.catalog.actions.edit import Editor, digest, save_cut, save_piece, take_out
from rooms.catalog.actions.load_shipped import load_catalog
from rooms.catalog.models import Cut, Piece, Plan, PlanOutput, Step
from rooms.catalog.queries import shipped
from rooms.catalog.queries.rows import MODELS, cut_document, document_of, output_keys

pytestmark = [pytest.mark.django_db, pytest.mark.long]


@pytest.fixture
def empty(db):
    for model in reversed(MODELS):
        model.everything.all().delete()


@pytest.fixture
def small(empty):
    """A catalog of two pieces, as it might ship."""
    whole = shipped.document()
    pieces = {key: copy.deepcopy(whole["pieces"][key]) for key in ("beef-flank", "beef-tri-tip")}
    return {**whole, "pieces": pieces, "cuts": copy.deepcopy(whole["cuts"])}


def edited(key, **fields):
    piece = document_of(only=key)["pieces"][key]
    save_piece(key, {**piece, **fields}, Editor(None, digest(piece)))


def test_the_whole_catalog_loads_and_a_second_time_changes_nothing(empty):
    first = load_catalog()
    assert first.added > 900
    again = load_catalog()
    assert (again.added, again.changed, again.kept) == (0, 0, 0)
    assert Piece.objects.count() == len(shipped.document()["pieces"])
    silver = PlanOutput.objects.filter(plan__piece__key="beef-tenderloin", name="Silver skin")
    assert silver.first().share == Decimal("0.035")


def test_what_is_loaded_comes_out_as_the_same_document(catalog):
    now = document_of()
    assert load_catalog(now).changed == 0
    for key, piece in now["pieces"].items():
        was = shipped.document()["pieces"][key]
        assert [step["do"] for step in piece["steps"]] == [step["do"] for step in was["steps"]]
        for plan, shipped_plan in zip(piece["plans"], was["plans"], strict=True):
            keys = output_keys(shipped_plan["outputs"])
            assert plan["outputs"] == [
                {"key": own, **output}
                for own, output in zip(keys, shipped_plan["outputs"], strict=True)
            ]


def test_a_shops_edit_survives_an_update_and_the_rest_of_the_row_follows_it(small):
    load_catalog(small)
    edited("beef-flank", looks="Our way.", house_name="Bar steak")
    small["pieces"]["beef-flank"] |= {"looks": "Their new way.", "place": "A better place."}
    found = load_catalog(small)
    piece = Piece.objects.get(key="beef-flank")
    assert (piece.looks, piece.house_name) == ("Our way.", "Bar steak")
    assert piece.place == "A better place."
    assert (found.changed, found.kept) == (1, 1)
    assert load_catalog(small).changed == 0
    assert "bar steak" in piece.search


def test_an_edit_put_back_by_hand_follows_updates_again(small):
    load_catalog(small)
    was = small["pieces"]["beef-flank"]["looks"]
    edited("beef-flank", looks="Our way.")
    edited("beef-flank", looks=was)
    small["pieces"]["beef-flank"]["looks"] = "New."
    load_catalog(small)
    assert Piece.objects.get(key="beef-flank").looks == "New."


def test_rows_an_update_no_longer_ships_go_out_of_use_save_those_the_shop_changed(small):
    load_catalog(small)
    steps = small["pieces"]["beef-flank"]["steps"]
    edited("beef-flank", steps=[{**steps[0], "do": "as we do it"}, *steps[1:]])
    small["pieces"]["beef-flank"]["steps"] = steps[2:]
    del small["pieces"]["beef-tri-tip"]
    load_catalog(small)
    assert not Piece.objects.filter(key="beef-tri-tip").exists()
    assert Piece.everything.filter(key="beef-tri-tip").exists()
    left = set(Step.objects.filter(piece__key="beef-flank").values_list("key", flat=True))
    assert left == {steps[0]["key"], *(step["key"] for step in steps[2:])}
    small["pieces"]["beef-tri-tip"] = copy.deepcopy(shipped.document()["pieces"]["beef-tri-tip"])
    load_catalog(small)
    assert Piece.objects.filter(key="beef-tri-tip").exists()


def test_what_the_shop_made_or_took_out_stays_so(small):
    load_catalog(small)
    own = {**small["pieces"]["beef-flank"], "name": "House flank"}
    save_piece("house-flank", own, Editor(None))
    take_out("beef-tri-tip", None)
    before = document_of(only="beef-flank")["pieces"]["beef-flank"]
    plans = [
        *before["plans"],
        {
            "key": "own-thin",
            "name": "Thin",
            "outputs": [{"name": "Thin", "pile": "portions", "cut": "beef-flank-steak"}],
        },
    ]
    edited("beef-flank", plans=plans)
    load_catalog(small)
    assert Piece.objects.filter(key="house-flank").exists()
    assert not Piece.objects.filter(key="beef-tri-tip").exists()
    assert Plan.objects.filter(piece__key="beef-flank", key="own-thin").exists()


def test_rows_from_before_there_were_updates_are_adopted_as_they_ship(small):
    load_catalog(small)
    Piece.everything.filter(key="beef-flank").update(shipped={}, looks="")
    load_catalog(small)
    piece = Piece.objects.get(key="beef-flank")
    assert piece.looks == small["pieces"]["beef-flank"]["looks"]
    assert piece.shipped["looks"] == piece.looks


def test_files_with_faults_load_nothing(small):
    small["pieces"]["beef-flank"]["plans"][0]["outputs"][0]["cut"] = "gold"
    small["cuts"]["beef-stew"]["muscle"] = "wing"
    with pytest.raises(BadDocument, match="gold") as bad:
        load_catalog(small)
    assert "wing" in str(bad.value)
    assert not Piece.everything.exists()


def test_a_changed_muscle_of_a_cut_is_kept_with_who_and_when(shop):
    row = Cut.objects.select_related("muscle").get(key="beef-ranch-steak")
    cut = cut_document(row)
    save_cut(row.key, {**cut, "muscle": "rectus-femoris"}, Editor(shop["bram"].pk, digest(cut)))
    newest = Cut.objects.get(pk=row.pk).history.first()
    assert newest.history_user == shop["bram"]
    assert newest.history_change_reason == "edited"
    assert newest.prev_record.muscle_id != newest.muscle_id


@pytest.mark.django_db
def test_a_shop_from_before_plans_had_places_gets_them_and_keeps_its_own(catalog):
    """An output whose thickness the shop changed, and a plan that is all its own."""
    new = ("part", "zone", "bones", "usual_count")
    for row in PlanOutput.objects.filter(plan__piece__key="beef-tenderloin"):
        row.shipped = {name: value for name, value in row.shipped.items() if name not in new}
        row.part = row.zone = row.bones = row.usual_count = ""
        if row.key == "centre-filet":
            row.thickness, row.shipped["thickness"] = "2 in", ""
        row.save()
    plan = Plan.objects.create(
        piece=Piece.objects.get(key="beef-tenderloin"), key="own-thin", name="Thin, ours"
    )
    mine = PlanOutput.objects.create(
        plan=plan, key="minute", position=0, name="Minute steak", pile="portions", role="main"
    )
    assert load_catalog().changed
    filet = PlanOutput.objects.get(
        plan__key="centre-filets-7oz", key="centre-filet", plan__piece__key="beef-tenderloin"
    )
    assert (filet.part, filet.zone, filet.thickness) == ("whole", "centre", "2 in")
    mine.refresh_from_db()
    assert (mine.part, mine.is_dropped) == ("", False)
    assert not load_catalog()


def test_a_shops_own_step_lets_go_of_what_its_drawing_no_longer_shows(catalog):
    step = Step.objects.filter(piece__key="beef-knuckle", key="straight")
    step.update(touches=["straight", "centre"], title="Ours, straight across")
    assert load_catalog().changed == 1
    now = step.get()
    assert (now.touches, now.title) == (["centre"], "Ours, straight across")
    assert now.history.first().history_change_reason == "shipped"
    assert not load_catalog()
