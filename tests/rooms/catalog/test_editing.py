"""The shop changes its catalog: typed, previewed, saved, refused, imported; and who did it."""

import copy
import csv
import io
import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from drawings.families import Family
from rooms.catalog.actions.edit import Editor, digest, import_document, save_piece, take_out
from rooms.catalog.actions.load_shipped import load_catalog
from rooms.catalog.models import Cut, Piece, Plan, PlanOutput, Step
from rooms.catalog.queries import shipped, tables
from rooms.catalog.queries.drawings import drawing_of
from rooms.catalog.queries.rows import EMPTY, document_of
from rooms.common.errors import BadInput
from tests.cases import some_often
from tests.conftest import words_of

pytestmark = pytest.mark.django_db
COMMAS = {name: "," * (len(columns) - 1) for name, columns in tables.TABLES.items()}
"""Empty cells behind the first of a row."""
AT = tables.TABLES["cuts"].index("is_cubed")
MAYBE = "," * AT + "maybe" + COMMAS["cuts"][AT:]


@pytest.fixture
def bram(client, shop):
    """Bram, signed in at the block."""
    client.post(reverse("staff:who"), {"person": shop["bram"].pk})
    return shop["bram"]


def form_of(page):
    """What a browser would send back from the form of a page."""
    data = {"seen": page.context["seen"]}
    forms = [page.context["form"], *(page.context.get("outputs") or [])]
    for form in forms:
        for bound in form:
            value = (
                bound.field.prepare_value(bound.initial)
                if hasattr(bound.field, "prepare_value")
                else bound.initial
            )
            several = getattr(bound.field.widget, "allow_multiple_selected", False)
            data[bound.html_name] = ([] if several else "") if value is None else value
    if page.context.get("outputs") is not None:
        management = page.context["outputs"].management_form
        data |= {bound.html_name: bound.initial for bound in management}
    return {
        name: ("on" if value is True else value)
        for name, value in data.items()
        if value is not False
    }


def state(key):
    """What the page of a piece says it rests on."""
    return {"state": digest(document_of(only=key)["pieces"][key])}


def get(client, name, *args):
    return client.get(reverse(f"catalog:{name}", args=args))


def post(client, name, *args, data):
    return client.post(reverse(f"catalog:{name}", args=args), data)


# --- by form ---


@pytest.mark.long
def test_saving_a_form_as_it_stands_changes_nothing(client, catalog):
    before = document_of()
    for name, *args in (
        ("edit", "beef-rib"),
        ("edit_step", "beef-rib", "cap"),
        ("edit_plan", "beef-rib", "mixed"),
        ("edit_plan", "lamb-leg", "seamed"),
        ("edit_step", "beef-top-sirloin", "split"),
        ("edit_cut", "beef-ranch-steak"),
        ("edit", "beef-tenderloin-side-off"),
    ):
        answer = post(client, name, *args, data=form_of(get(client, name, *args)))
        assert answer.status_code == 302, (name, args)
    assert document_of() == before


def test_a_changed_piece_shows_at_once_and_in_who_changed_what(client, bram):
    data = form_of(get(client, "edit", "beef-flank"))
    answer = post(
        client,
        "edit",
        "beef-flank",
        data=data | {"house_name": "Bar steak", "synonyms": "london, flank filet"},
    )
    assert answer.status_code == 302
    assert "Bar steak" in get(client, "guide", "beef-flank").content.decode()
    assert "Bar steak" in client.get(reverse("catalog:found"), {"q": "filet fla"}).content.decode()
    for address in (("changes", "beef-flank"), ("all_changes",)):
        said = get(client, *address).content.decode()
        assert "Bar steak" in said
        assert "Bram" in said


@pytest.mark.parametrize(
    ("typed", "says"),
    some_often(
        [
            ({"name": ""}, "US name"),
            ({"item_number": "12"}, "like 184, 116A"),
            ({"usual_weight": "0"}, "Usual weight"),
            ({"least_age_days": "400"}, "120"),
            ({"drawing": "shape:slab", "parts": "cap, wing, 20"}, "wing"),
            ({"drawing": "shape:slab", "parts": "cap, spinalis, north"}, "north"),
            ({"drawing": "own:a-fish"}, "a-fish"),
        ]
    ),
)
def test_a_wrong_value_is_named_and_nothing_typed_is_lost(client, catalog, typed, says):
    data = form_of(get(client, "edit", "beef-flank")) | {"looks": "Typed long and lost?"} | typed
    for name, status in (("edit", 422), ("preview", 200)):
        answer = post(client, name, "beef-flank", data=data)
        assert answer.status_code == status
        assert says in answer.content.decode()
    assert "Typed long and lost?" in post(client, "edit", "beef-flank", data=data).content.decode()
    assert Piece.objects.get(key="beef-flank").looks != "Typed long and lost?"


def test_who_comes_second_is_told_and_keeps_what_he_typed(client, catalog):
    first = form_of(get(client, "edit", "beef-flank"))
    assert post(client, "edit", "beef-flank", data=first | {"looks": "One"}).status_code == 302
    second = post(client, "edit", "beef-flank", data=first | {"looks": "Two"})
    assert second.status_code == 409
    said = second.content.decode()
    assert "Changed by somebody else" in said
    assert "Two" in said
    assert Piece.objects.get(key="beef-flank").looks == "One"
    again = post(client, "edit", "beef-flank", data=first | {"looks": "One"})
    assert again.status_code == 302  # the same, sent twice, changes nothing


def test_a_cut_changed_meanwhile_and_a_piece_that_is_not_there_are_told_plainly(client, catalog):
    cut = form_of(get(client, "edit_cut", "beef-stew"))
    assert post(client, "edit_cut", "beef-stew", data=cut | {"tray": "4P"}).status_code == 302
    second = post(client, "edit_cut", "beef-stew", data=cut | {"tray": "8P"})
    assert second.status_code == 409
    assert "8P" in second.content.decode()
    assert post(client, "edit_cut", "beef-stew", data=cut | {"muscle": "wing"}).status_code == 422
    gone = post(client, "drop", "no-such-piece", data={})
    assert gone.status_code == 422
    assert "is not in the catalog" in gone.content.decode()


def test_a_new_piece_with_a_simple_drawing_a_step_a_plan_and_a_cut(client, bram):
    cut = post(
        client,
        "new_cut",
        data={
            "name": "House pepper steak",
            "species": "beef",
            "muscle": "rectus-abdominis",
            "counter": "self",
        },
    )
    assert cut.status_code == 302, cut.context["form"].errors
    assert Cut.objects.get(key="house-house-pepper-steak").history.first().history_user == bram
    data = {
        "seen": "",
        "name": "House flank",
        "species": "beef",
        "primal": "beef-flank",
        "usual_unit": "lb",
        "drawing": "shape:slab",
        "landmarks": "Thick end: forward.",
        "parts": "flank, rectus-abdominis, 10\nfat, mixed-lean, 0",
        "left_end": "thick end",
    }
    assert post(client, "new_piece", data=data).status_code == 302
    key = "house-house-flank"
    guide = get(client, "guide", key).content.decode()
    assert "thick end" in guide
    step = {
        "title": "Skin",
        "find": "the skin",
        "do": "pull",
        "right": "bare",
        "mistake": "torn",
        "piles": ["discard"],
        "touches": ["part-1"],
        "check": "Skin off",
    }
    seen = get(client, "edit_step", key, "new").context["seen"]
    assert post(client, "edit_step", key, "new", data=step | {"seen": seen}).status_code == 302
    again = post(client, "edit_step", key, "new", data=step | {"seen": seen})
    assert again.status_code == 409  # the page is older than the step it has made
    assert Step.objects.filter(piece__key=key).count() == 1
    page = get(client, "edit_plan", key, "new")
    outputs = {
        "out-TOTAL_FORMS": "2",
        "out-INITIAL_FORMS": "0",
        "name": "Thin",
        "school": "plain",
        "out-0-name": "Pepper steak",
        "out-0-pile": "portions",
        "out-0-share": "82.5",
        "out-0-cut": "house-house-pepper-steak",
        "out-1-name": "Skin",
        "out-1-pile": "discard",
        "out-1-share": "20",
    }
    outputs["seen"] = page.context["seen"]
    too_much = post(client, "edit_plan", key, "new", data=outputs)
    assert too_much.status_code == 422
    assert "shares sum to 1.025" in too_much.content.decode()
    right = outputs | {"out-1-share": "17.5"}
    preview = post(client, "preview_plan", key, "new", data=right).content.decode()
    assert "Pepper steak" in preview
    assert not Plan.objects.filter(name="Thin").exists()
    assert post(client, "edit_plan", key, "new", data=right).status_code == 302
    answer = client.get(reverse("bench:open", args=[key]) + "?plan=own-thin").content.decode()
    assert "Thin" in answer


@pytest.mark.long
@pytest.mark.parametrize("family", Family)
def test_every_simple_drawing_can_be_chosen_and_steps_keep_only_what_it_shows(
    client, catalog, family
):
    data = form_of(get(client, "edit", "beef-flank"))
    change = {
        "drawing": f"shape:{family}",
        "left_end": "thick end",
        "parts": "flank, rectus-abdominis, 10\nflap, obliquus-internus, 60>120",
    }
    preview = post(client, "preview", "beef-flank", data=data | change).content.decode()
    assert "<svg" in preview
    assert post(client, "edit", "beef-flank", data=data | change).status_code == 302
    answer = client.get(reverse("catalog:guide", args=["beef-flank"]), {"step": "1"})
    assert "thick end" in answer.content.decode()
    piece = document_of(only="beef-flank")["pieces"]["beef-flank"]
    keys = drawing_of("beef-flank", piece["drawing"]).keys
    assert all(set(step["touches"]) <= keys for step in piece["steps"])
    assert load_catalog().changed == 0


def test_steps_move_and_leave_and_pieces_and_plans_go_and_come_back(client, bram):
    def keys():
        steps = Step.objects.filter(piece__key="beef-flank")
        return list(steps.values_list("key", flat=True))

    one, two, three = keys()
    post(client, "move_step", "beef-flank", two, data={"to": "up"} | state("beef-flank"))
    assert keys() == [two, one, three]
    post(client, "move_step", "beef-flank", two, data={"to": "out"} | state("beef-flank"))
    assert keys() == [one, three]
    post(client, "drop_plan", "beef-top-round", "roasts", data=state("beef-top-round"))
    assert "roasts" not in Plan.objects.filter(piece__key="beef-top-round").values_list(
        "key", flat=True
    )
    post(client, "drop", "beef-flank", data={})
    assert get(client, "guide", "beef-flank").status_code == 404
    assert "Flank" in get(client, "all_changes").content.decode()
    post(client, "drop", "beef-flank", data={"back": "1"})
    assert get(client, "guide", "beef-flank").status_code == 200


def test_the_preview_of_an_unsaved_step_lights_its_parts_and_writes_nothing(client, catalog):
    data = form_of(get(client, "edit_step", "beef-rib", "cap"))
    before = document_of(only="beef-rib")
    answer = post(
        client,
        "preview_step",
        "beef-rib",
        "cap",
        data=data | {"title": "Peel it", "touches": ["cap"]},
    )
    answer = answer.content.decode()
    assert "Peel it" in answer
    assert "has-lit" in answer
    assert document_of(only="beef-rib") == before


# --- by file ---


def upload(client, name, text):
    raw = text if isinstance(text, bytes) else text.encode()
    return client.post(reverse("catalog:files"), {"file": SimpleUploadedFile(name, raw)})


@pytest.mark.long
@pytest.mark.parametrize("table", tables.TABLES)
def test_every_table_comes_back_as_it_went_out(client, catalog, table):
    before = document_of()
    text = get(client, "export_csv", table).content.decode()
    answer = upload(client, f"{table}.csv", text)
    assert "nothing was changed" in answer.content.decode()
    assert document_of() == before


@pytest.mark.long
def test_the_whole_catalog_comes_back_and_one_changed_thing_is_one_change(client, bram):
    document = json.loads(get(client, "export_json").content)
    assert "nothing was changed" in words_of(upload(client, "c.json", json.dumps(document)))
    document["cuts"]["beef-stew"]["tray"] = "4P"
    document["pieces"]["beef-flank"]["steps"][0]["do"] = "pull, both faces"
    answer = words_of(upload(client, "c.json", json.dumps(document)))
    assert "0 added, 2 changed" in answer
    assert Cut.objects.get(key="beef-stew").history.first().history_user == bram
    assert load_catalog().changed == 0


@pytest.mark.long
@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("c.json", "{", "line 1"),
        ("c.json", b"\xff\xfe", "is not UTF-8"),
        ("c.json", "[" * 100_000, "nested too deep"),
        ("c.json", "[]", "the document"),
        ("c.json", '{"cuts": {"x": 3}}', "cuts.x"),
        ("c.json", '{"cuts": {"x": {"name": "\\ud800"}}}', "half a letter"),
        ("c.json", '{"cuts": {"a b": {}}}', "a b"),
        (
            "c.json",
            '{"pieces": {"p": {"name": "P", "species": "beef", "primal": "moon", "plans": []}}}',
            "moon",
        ),
        ("c.json", '{"n": %s}' % ("9" * 5000), "integer string conversion"),
        ("c.csv", "a,b\n1,2\n", "are of no table"),
        ("c.csv", "", "file is empty"),
        ("c.csv", "\n", "are of no table"),
        ("outputs.csv", ",".join(tables.TABLES["outputs"]) + "\nmoon" + COMMAS["outputs"], "moon"),
        (
            "outputs.csv",
            ",".join(tables.TABLES["outputs"]) + "\nbeef-rib,zz" + COMMAS["outputs"][1:],
            "zz",
        ),
        ("steps.csv", ",".join(tables.TABLES["steps"]) + "\nbeef-rib,x", "row 2 has not"),
        ("cuts.csv", ",".join(tables.TABLES["cuts"]) + "\nx" + MAYBE, "yes or no"),
    ],
)
def test_a_file_with_a_fault_changes_nothing_and_says_where(client, catalog, name, text, says):
    before = document_of()
    answer = upload(client, name, text)
    assert answer.status_code == 422
    assert says in answer.content.decode().replace("&#x27;", "'")
    assert document_of() == before


letters = st.characters(codec="utf-8", exclude_characters="|", exclude_categories=["Cs", "Cc"])
words = st.text(letters, min_size=1, max_size=40).map(str.strip).filter(bool)


@pytest.mark.long
@settings(max_examples=4, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(landmarks=st.lists(words, max_size=3), looks=words, name=words)
def test_any_words_come_back_from_a_table_and_from_json(shop, landmarks, looks, name):
    comes_back(landmarks, looks, name)


@pytest.mark.long
@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(landmarks=st.lists(words, max_size=3), looks=words, name=words)
def test_any_words_come_back_many_times_over(shop, landmarks, looks, name):
    comes_back(landmarks, looks, name)


def comes_back(landmarks, looks, name):
    piece = copy.deepcopy(shipped.document()["pieces"]["beef-flank"])
    piece |= {"landmarks": landmarks, "looks": looks, "name": name}
    now = document_of(only="beef-flank")["pieces"]["beef-flank"]
    save_piece("beef-flank", piece, Editor(None, digest(now)))
    written = document_of()
    assert written["pieces"]["beef-flank"].get("landmarks", []) == landmarks
    assert not import_document(json.loads(json.dumps(written)), None)
    assert not import_document(tables.read(tables.write("pieces", written).encode()), None)


def test_a_saved_piece_must_be_whole(catalog):
    piece = document_of(only="beef-flank")["pieces"]["beef-flank"]
    outputs = [{"name": "a", "pile": "lean", "cut": "gold"}]
    changed = {**piece, "plans": [{"key": "p", "name": "P", "outputs": outputs}]}
    with pytest.raises(BadInput, match="no cut 'gold'"):
        save_piece("beef-flank", changed, Editor(None, digest(piece)))


# --- the identity of an output ---


def plan_with(*outputs, key="beef-tenderloin"):
    """The tenderloin with a plan of the shop's own."""
    piece = document_of(only=key)["pieces"][key]
    plan = {
        "key": "own-x",
        "name": "X",
        "outputs": [
            output if isinstance(output, dict) else {"name": output, "pile": "portions"}
            for output in outputs
        ],
    }
    rest = [each for each in piece["plans"] if each["key"] != "own-x"]
    save_piece(key, {**piece, "plans": [*rest, plan]}, Editor(None, digest(piece)))
    return {row.name: row for row in PlanOutput.objects.filter(plan__key="own-x")}


@pytest.mark.long
@pytest.mark.parametrize(
    "names",
    [
        ("Steak, 1 in", "Steak 1 in"),
        ("肉", "骨"),
        ("Стейк", "Кость", "---"),
        ("Ä", "a"),
        ("x" * 60, "x" * 59 + "y"),
    ],
)
def test_names_that_look_alike_or_of_any_script_are_outputs_of_their_own(catalog, names):
    rows = plan_with(*names)
    assert set(rows) == set(names)
    assert len({row.key for row in rows.values()}) == len(names)
    written = json.loads(json.dumps(document_of()))
    assert not import_document(written, None)  # and come back as the same


def test_an_output_keeps_its_identity_through_new_and_swapped_names(catalog):
    first = plan_with("Filets", "Tips")
    keys = {name: row.key for name, row in first.items()}
    again = plan_with(
        {"key": keys["Filets"], "name": "Tips", "pile": "portions"},
        {"key": keys["Tips"], "name": "Filets", "pile": "portions"},
    )
    assert {name: row.pk for name, row in again.items()} == {
        "Tips": first["Filets"].pk,
        "Filets": first["Tips"].pk,
    }
    third = plan_with({"key": keys["Filets"], "name": "Heart", "pile": "portions"}, "Tips")
    assert third["Heart"].pk == first["Filets"].pk
    assert third["Tips"].pk not in {row.pk for row in first.values()}


def test_a_new_name_in_the_form_leaves_the_output_the_same(client, catalog):
    plan = Plan.objects.filter(piece__key="beef-tenderloin").first()
    row = plan.outputs.first()
    page = get(client, "edit_plan", "beef-tenderloin", plan.key)
    data = form_of(page) | {"out-0-name": "Filet of the heart"}
    assert post(client, "edit_plan", "beef-tenderloin", plan.key, data=data).status_code == 302
    row.refresh_from_db()
    assert (row.name, row.is_dropped) == ("Filet of the heart", False)


def test_a_role_survives_a_change_of_something_else(client, catalog):
    """This shop gives its trim away."""
    piece = document_of(only="beef-tenderloin")["pieces"]["beef-tenderloin"]
    lean = next(o for o in piece["plans"][0]["outputs"] if o["pile"] == "lean")
    before = digest(document_of(only="beef-tenderloin")["pieces"]["beef-tenderloin"])
    lean["role"] = "discard"
    save_piece("beef-tenderloin", piece, Editor(None, before))
    key = piece["plans"][0]["key"]
    data = form_of(get(client, "edit_plan", "beef-tenderloin", key)) | {"note": "only the note"}
    assert post(client, "edit_plan", "beef-tenderloin", key, data=data).status_code == 302
    row = PlanOutput.objects.get(plan__key=key, plan__piece__key="beef-tenderloin", pile="lean")
    assert row.role == "discard"
    assert row.plan.note == "only the note"


@pytest.mark.parametrize("to", ["", "sideways"])
def test_a_move_without_a_target_is_refused_and_takes_nothing_out(client, catalog, to):
    before = document_of(only="beef-tenderloin")
    step = before["pieces"]["beef-tenderloin"]["steps"][0]["key"]
    answer = post(client, "move_step", "beef-tenderloin", step, data={"to": to} if to else {})
    assert answer.status_code == 422
    assert document_of(only="beef-tenderloin") == before


@pytest.mark.long
def test_cells_of_an_export_cannot_run_and_come_back_unchanged(client, catalog):
    cut = Cut.objects.first()
    for name in ("=HYPERLINK(1)", "'=x", "''=x", "-5", "@a"):
        Cut.objects.filter(pk=cut.pk).update(house_name=name)
        text = get(client, "export_csv", "cuts").content.decode()
        assert f",{name}" not in text or name.startswith("'")
        assert not import_document(tables.read(text.encode()), None)
        cut.refresh_from_db()
        assert cut.house_name == name


@pytest.mark.long
def test_tables_of_an_earlier_version_are_still_read(catalog):
    written = document_of()
    text = tables.write("steps", written)
    head, _, body = text.partition("\n")
    old = head.replace("machine", "is_sawn") + "\n" + body.replace(",saw\n", ",yes\n")
    old = old.replace(",tenderizer\n", ",\n")
    import_document(tables.read(old.encode()), None)
    machines = set(Step.objects.exclude(machine="").values_list("machine", flat=True))
    assert machines == {"saw"}


def test_a_step_moved_or_a_plan_taken_out_from_an_older_page_is_told(client, catalog):
    page = get(client, "edit", "beef-tenderloin")
    older = {"state": page.context["state"]}
    steps = Step.objects.filter(piece__key="beef-tenderloin").order_by("position")
    third = steps[2].key
    for status in (302, 409):  # both mean the second place
        answer = post(client, "move_step", "beef-tenderloin", third, data={"to": "up"} | older)
        assert answer.status_code == status
        assert steps[1].key == third
    assert "Changed by somebody else" in words_of(answer)
    plan = Plan.objects.filter(piece__key="beef-tenderloin").first()
    answer = post(client, "drop_plan", "beef-tenderloin", plan.key, data=older)
    assert answer.status_code == 409
    again = {"state": answer.context["state"]}
    assert post(client, "drop_plan", "beef-tenderloin", plan.key, data=again).status_code == 302


def test_a_step_says_its_machine_and_who_keeps_the_young_from_it(client, catalog):
    piece = document_of(only="beef-flank")["pieces"]["beef-flank"]
    step = piece["steps"][0]["key"]
    typed = form_of(get(client, "edit_step", "beef-flank", step))
    data = {name: value for name, value in typed.items() if value != ""}
    for machine, source in (("slicer", "29 CFR 570.61"), ("tenderizer", "house rule"), ("", "")):
        data |= {
            "machine": machine,
            "do": "never use the slicer here",
            "seen": get(client, "edit_step", "beef-flank", step).context["seen"],
        }
        answer = post(client, "edit_step", "beef-flank", step, data=data)
        assert answer.status_code == 302, answer.context["form"].errors
        row = Step.objects.get(piece__key="beef-flank", key=step)
        assert (row.machine, row.machine_source) == (machine, source)


# --- products and steps stay paired ---


def plain(page):
    """The form of a plain plan, whose kind a browser shows though no document says it."""
    return form_of(page) | {"school": "plain"}


def test_a_product_without_its_step_is_refused_and_nothing_typed_is_lost(client, catalog):
    page = get(client, "edit_plan", "beef-flank", "whole")
    data = plain(page) | {"out-0-made_by": [], "note": "what was typed"}
    before = document_of(only="beef-flank")
    for name in ("edit_plan", "preview_plan"):
        answer = post(client, name, "beef-flank", "whole", data=data)
        assert "no step makes it; choose the step it is made by" in words_of(answer)
    assert answer.status_code == 200  # the preview says it beside the form
    refused = post(client, "edit_plan", "beef-flank", "whole", data=data)
    assert refused.status_code == 422
    assert "what was typed" in words_of(refused)
    assert document_of(only="beef-flank") == before


def test_a_step_that_loses_the_pile_of_its_product_is_refused(client, catalog):
    page = get(client, "edit_step", "beef-flank", "strips")
    data = form_of(page) | {"piles": ["lean"], "title": "Typed anew"}
    refused = post(client, "edit_step", "beef-flank", "strips", data=data)
    assert refused.status_code == 422
    assert "fills no portions" in words_of(refused)
    assert "Typed anew" in words_of(refused)


def test_an_output_taken_out_leaves_a_step_that_makes_nothing(client, catalog):
    page = get(client, "edit_plan", "beef-flank", "whole")
    refused = post(
        client, "edit_plan", "beef-flank", "whole", data=plain(page) | {"out-1-name": ""}
    )
    assert refused.status_code == 422
    assert "it makes secondary that are no output of the plan" in words_of(refused)


def test_a_plan_without_an_output_or_over_its_whole_is_refused(client, catalog):
    page = get(client, "edit_plan", "beef-flank", "whole")
    data = plain(page)
    over = post(client, "edit_plan", "beef-flank", "whole", data=data | {"out-0-share": "99"})
    assert over.status_code == 422
    assert "shares sum to" in words_of(over)
    empty = data | {f"out-{i}-name": "" for i in range(6)}
    answer = post(client, "edit_plan", "beef-flank", "whole", data=empty)
    assert answer.status_code == 422
    assert "at least 1 is right" in words_of(answer)


def test_what_was_unpaired_before_stops_no_other_edit(client, catalog):
    Plan.objects.get(piece__key="beef-flank").outputs.filter(name="Stir-fry").update(
        is_dropped=True
    )
    page = get(client, "edit_plan", "beef-flank", "whole")
    data = plain(page) | {"note": "only the note"}
    assert post(client, "edit_plan", "beef-flank", "whole", data=data).status_code == 302


def test_a_step_taken_out_with_its_product_named_to_it_is_refused(client, catalog):
    refused = post(
        client, "move_step", "beef-flank", "strips", data={"to": "out"} | state("beef-flank")
    )
    assert refused.status_code == 422
    assert "no step of this plan" in words_of(refused)


# --- where a product is cut, and whose name it has ---


def plan_form(client, **changes):
    """The form of the tenderloin's plan with something else typed, and its page."""
    page = get(client, "edit_plan", "beef-tenderloin", "centre-filets-7oz")
    return form_of(page) | changes


def save_plan(client, typed):
    address = reverse("catalog:edit_plan", args=["beef-tenderloin", "centre-filets-7oz"])
    return client.post(address, typed)


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ({"out-0-target": "20"}, "a slice 1.75 in thick weighs about 6.4 oz there, and 20 oz is"),
        pytest.param(
            {"out-0-thickness": "4 in"}, "another thickness, is right", marks=pytest.mark.long
        ),
        ({"out-0-cut": "beef-flat-iron"}, "infraspinatus does not lie in this piece"),
        pytest.param({"out-0-count": "many"}, "2 to 3 is right", marks=pytest.mark.long),
        pytest.param({"out-0-bones": "3 to 2"}, "“3 to 2” is not right", marks=pytest.mark.long),
        (
            {"out-2-name": "Thin slices", "out-2-thickness": "1 in", "out-2-place": "whole"},
            "Thin slices: the stretches of the other products leave nothing of it",
        ),
    ],
)
def test_what_shape_target_and_thickness_cannot_do_is_refused_with_numbers(
    client, catalog, typed, says
):
    before = PlanOutput.objects.get(plan__piece__key="beef-tenderloin", key="centre-filet")
    answer = save_plan(client, plan_form(client, **typed))
    assert answer.status_code == 422
    page = words_of(answer)
    assert says in page
    assert f'value="{next(iter(typed.values()))}"' in page  # nothing typed is lost
    now = PlanOutput.objects.get(pk=before.pk)
    assert (now.target_value, now.thickness, now.cut_id) == (
        before.target_value,
        before.thickness,
        before.cut_id,
    )


def test_a_fault_that_stood_before_is_told_and_stops_no_other_edit(client, catalog):
    row = PlanOutput.objects.filter(plan__piece__key="beef-tenderloin", key="centre-filet")
    row.update(target_value="20")
    page = get(client, "edit_plan", "beef-tenderloin", "centre-filets-7oz")
    assert "was not right before" in words_of(page)
    assert "20 oz is asked for" in words_of(page)
    other = plan_form(client, **{"out-0-target": "21", "out-0-name": "Filet of the center"})
    assert save_plan(client, other).status_code == 302
    assert row.get().name == "Filet of the center"
    another_kind = save_plan(client, plan_form(client, **{"out-0-cut": "beef-flat-iron"}))
    assert another_kind.status_code == 422


def file_of(change):
    """The shop's catalog as a file, after something was changed in it."""
    document = document_of()
    change(document)
    return document


def ask_too_much(document):
    plans = document["pieces"]["beef-tenderloin"]["plans"]
    plan = next(one for one in plans if one["key"] == "centre-filets-7oz")
    plan["outputs"][0]["target"] = {"value": "20", "unit": "oz"}


def take_a_name(document):
    document["cuts"]["beef-flap"]["other_name"] = "Bavette; flat-iron steak"


@pytest.mark.parametrize(
    ("change", "says"),
    [
        pytest.param(
            ask_too_much,
            "weighs about 6.4 oz there, and 20 oz is asked for",
            marks=pytest.mark.long,
        ),
        (take_a_name, "“flat-iron steak” is the name of Flat iron steak, another muscle"),
    ],
)
def test_a_file_is_held_against_shapes_and_names_as_a_form_is(catalog, change, says):
    before, document = document_of(), file_of(change)
    with pytest.raises(BadInput, match=says):
        import_document(document, None)
    assert document_of() == before
    PlanOutput.objects.filter(plan__piece__key="beef-tenderloin", key="centre-filet").update(
        target_value="20"
    )
    Cut.objects.filter(key="beef-flap").update(other_name="Bavette; flat-iron steak")
    import_document(file_of(change), None)  # it stood so before


def test_two_cuts_may_change_names_in_one_file(catalog):
    def change(document):
        one, other = (document["cuts"][key] for key in ("beef-flap", "beef-flat-iron"))
        for field in ("name", "other_name", "house_name"):
            one[field], other[field] = other.get(field, ""), one.get(field, "")

    import_document(file_of(change), None)
    assert Cut.objects.get(key="beef-flap").name == "Flat iron steak"


def test_a_plan_that_names_no_place_is_not_compared(client, catalog):
    rows = PlanOutput.objects.filter(plan__piece__key="beef-tenderloin")
    rows.update(part="", zone="", thickness="")
    page = get(client, "edit_plan", "beef-tenderloin", "centre-filets-7oz")
    assert "Not compared with the layout" in words_of(page)
    assert save_plan(client, plan_form(client, **{"out-0-target": "20"})).status_code == 302


def test_the_place_of_a_product_is_chosen_and_kept(client, catalog):
    typed = plan_form(client)
    assert typed["out-0-place"] == "whole/centre"
    assert (
        save_plan(client, typed | {"out-0-place": "whole", "out-0-count": "6"}).status_code == 302
    )
    row = PlanOutput.objects.get(plan__piece__key="beef-tenderloin", key="centre-filet")
    assert (row.part, row.zone, row.usual_count) == ("whole", "", "6")


def test_a_name_of_another_muscle_is_refused_as_a_name_and_shared_as_a_synonym(client, catalog):
    address = reverse("catalog:edit_cut", args=["beef-flap"])
    typed = form_of(client.get(address))
    refused = client.post(address, typed | {"house_name": "Flat iron steak"})
    assert refused.status_code == 422
    assert "is the name of Flat iron steak, another muscle (top blade)" in words_of(refused)
    assert 'value="Flat iron steak"' in words_of(refused)
    shared = typed | {"synonyms": "fajita, Flat iron steak"}
    assert client.post(address, shared).status_code == 302
    page = words_of(client.get(reverse("catalog:cut", args=["beef-flap"])))
    assert "“Flat iron steak” is also said of" in page
    assert "Flap" in words_of(client.get(reverse("catalog:cut", args=["beef-flat-iron"])))


@pytest.mark.long
def test_a_table_without_the_new_columns_leaves_them_as_they_are(catalog):
    """As a version before this one wrote it."""
    for name, later in (("outputs", {"part", "zone", "bones", "count"}), ("cuts", {"why", "done"})):
        rows = list(csv.reader(io.StringIO(tables.write(name, document_of()))))
        kept = [i for i, column in enumerate(rows[0]) if column not in later]
        out = io.StringIO()
        csv.writer(out).writerows([[row[i] for i in kept] for row in rows])
        before = document_of()
        import_document(tables.read(out.getvalue().encode()), None)
        assert document_of() == before


# --- plans that go on ---


@pytest.mark.parametrize(
    ("goes_on", "says"),
    [
        ("beef-flap/portions", ""),
        ("beef-hindquarter/by-seams", "comes back to itself"),
        ("beef-flap/no-such", "no plan “beef-flap/no-such”"),
        ("beef-tri-tip/steaks", ""),
    ],
)
def test_an_output_goes_on_into_a_plan_that_is_there_and_never_back(catalog, goes_on, says):
    document = document_of(only="beef-tri-tip")
    (piece,) = document["pieces"].values()
    piece["plans"][0]["outputs"][0]["goes_on"] = goes_on
    if says:
        with pytest.raises(BadInput, match=says):
            import_document(document, None)
        assert not PlanOutput.objects.filter(plan__piece__key="beef-tri-tip").exclude(goes_on="")
    else:
        import_document(document, None)
        assert document_of(only="beef-tri-tip")["pieces"]["beef-tri-tip"] == piece


def test_a_plan_that_is_gone_since_stops_no_edit_of_the_plan_that_went_on_into_it(client, catalog):
    take_out("beef-flap", None)
    piece = document_of(only="beef-hindquarter")["pieces"]["beef-hindquarter"]
    save_piece("beef-hindquarter", {**piece, "looks": "Ours"}, Editor(None, digest(piece)))
    assert Piece.objects.get(key="beef-hindquarter").looks == "Ours"
    flap = PlanOutput.objects.get(plan__piece__key="beef-hindquarter", name="Flap")
    assert flap.goes_on == "beef-flap/portions"  # and again, once the piece is back
    lost = {"beef-hindquarter": {**piece, "looks": "Ours"}}
    lost["beef-hindquarter"]["plans"][0]["outputs"][0]["goes_on"] = "beef-flap/other"
    with pytest.raises(BadInput, match="no plan “beef-flap/other”"):
        import_document({**EMPTY, "pieces": lost}, None)


def test_the_form_of_a_plan_keeps_and_changes_what_goes_on(client, catalog):
    address = reverse("catalog:edit_plan", args=["beef-hindquarter", "by-seams"])
    data = form_of(client.get(address)) | {
        "school": "plain"
    }  # what a browser sends of a first choice
    assert data["out-0-goes_on"] == "beef-short-loin/sawn"
    assert (
        client.post(address, data | {"out-0-goes_on": "beef-short-loin/boned"}).status_code == 302
    )
    loin = PlanOutput.objects.get(plan__piece__key="beef-hindquarter", name="Short loin")
    assert loin.goes_on == "beef-short-loin/boned"
    knuckle = PlanOutput.objects.get(plan__piece__key="beef-hindquarter", name="Knuckle")
    assert knuckle.goes_on == "beef-knuckle/basic"
    lost = client.post(address, data | {"out-0-goes_on": "pork-leg/roasts"})
    assert lost.status_code == 422
