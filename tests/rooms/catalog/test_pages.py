"""The catalog's pages: what they show, how few queries they take, what they answer when wrong."""

import json

import pytest
from django.urls import reverse

from rooms.catalog.actions.edit import take_out
from rooms.catalog.models import Piece
from rooms.catalog.queries import shipped
from rooms.catalog.queries.finding import find
from tests.conftest import decide, words_of

pytestmark = pytest.mark.django_db
MOST = 10  # two of them: who asks, the shop's settings
LARGEST_DRAWING = 60 * 1024


def page(client, name, *args, **query):
    return client.get(reverse(f"catalog:{name}", args=args), query)


PAGES = [
    ("animals", (), {}),
    ("animals", (), {"animal": "pork", "primal": "pork-loin"}),
    ("same_map", (), {}),
    ("cuts", (), {}),
    ("cut", ("beef-ranch-steak",), {}),
    ("muscle", ("biceps-femoris",), {}),
    ("find", (), {"q": "round"}),
    ("new_piece", (), {}),
    ("guide", ("beef-chuck-roll",), {}),
    ("guide", ("beef-rib",), {"plan": "mixed", "step": "4"}),
    ("guide", ("lamb-leg",), {}),
    ("steps", ("pork-leg",), {"step": "2"}),
    ("handout", ("beef-top-sirloin",), {}),
    ("files", (), {}),
    ("all_changes", (), {}),
    ("changes", ("beef-rib",), {}),
    ("edit", ("beef-rib",), {}),
    ("edit_step", ("beef-rib", "cap"), {}),
    ("edit_plan", ("beef-rib", "apart"), {}),
    ("edit_cut", ("beef-ranch-steak",), {}),
    ("new_cut", (), {}),
    ("export_json", (), {}),
    ("export_csv", ("cuts",), {}),
]


@pytest.mark.long
def test_every_page_at_full_size_takes_few_queries(client, catalog, django_assert_max_num_queries):
    for name, args, query in PAGES:
        with django_assert_max_num_queries(MOST):
            answer = page(client, name, *args, **query)
        assert answer.status_code == 200, name


@pytest.mark.parametrize(
    ("typed", "pieces", "cuts"),
    [  # synonyms, house names, accents, item numbers, Latin, Commonwealth names, several words
        ("fillet", {"beef-tenderloin", "pork-tenderloin"}, {"beef-centre-filet"}),
        ("184", {"beef-top-sirloin"}, {"beef-sirloin-cap"}),
        ("TOPSIDE", {"beef-top-round"}, set()),
        ("rectus femoris", set(), {"beef-tip-centre-steak"}),
        ("scotch", {"beef-ribeye", "beef-rib-to-bone"}, set()),
        ("flat iron", set(), {"beef-flat-iron"}),
        ("lamb ra", {"lamb-rack"}, set()),
        ("bavette", {"beef-flap"}, {"beef-flap"}),
        ("filét", set(), {"beef-centre-filet"}),
        ("filet mignon", set(), {"beef-centre-filet"}),
    ],
)
def test_the_search_finds_by_every_name(
    client, catalog, typed, pieces, cuts, django_assert_max_num_queries
):
    find(typed)  # the names are kept from here on
    with django_assert_max_num_queries(6):  # who asks, the settings, whether the names changed
        answer = client.get(reverse("catalog:found"), {"q": typed})
    found = find(typed)
    assert pieces <= {piece.key for piece in found.pieces}
    assert cuts <= {cut.key for cut in found.cuts}
    text = answer.content.decode()
    assert all(reverse("catalog:guide", args=[key]) in text for key in pieces)


@pytest.mark.parametrize("typed", ["zzz", "100%", "_", "'", "a b c d e f g h", "\\", "İ", "  x "])
def test_a_search_without_a_hit_says_so_and_signs_are_only_signs(client, catalog, typed):
    answer = client.get(reverse("catalog:find"), {"q": typed})
    assert answer.status_code == 200
    found = find(typed)
    assert found is None or found.is_empty or "%" not in typed


def test_names_come_in_the_shops_order(client, catalog):
    us = page(client, "guide", "beef-top-round").content.decode()
    assert "<h1>Top round" in us
    decide(names_first="commonwealth")
    answer = page(client, "guide", "beef-top-round").content.decode()
    assert "<h1>Topside" in answer
    assert "Top round" in answer
    Piece.objects.filter(key="beef-top-round").update(house_name="Nana's roast")
    assert "<h1>Nana&#x27;s roast" in page(client, "guide", "beef-top-round").content.decode()


def test_a_step_lights_what_it_touches_and_says_everything(client, catalog):
    answer = page(client, "steps", "beef-top-sirloin", plan="portioned", step="4").content.decode()
    steps = shipped.document()["pieces"]["beef-top-sirloin"]["steps"]
    step = [one for one in steps if "portioned" in one.get("plans", ["portioned"])][3]
    for what in ("title", "find", "do", "right", "mistake"):
        assert step[what] in answer
    assert "has-lit" in answer
    assert answer.count(' lit"') > 2 * len(step["touches"])


@pytest.mark.parametrize("step", ["0", "99", "x", "-1", "²", "1e3", "99999999999999999999"])
def test_a_step_that_is_not_there_shows_the_whole_piece(client, catalog, step):
    answer = page(client, "guide", "beef-flank", step=step, plan="no-such-plan")
    assert answer.status_code == 200
    assert "Start with step 1" in answer.content.decode()


@pytest.mark.long
@pytest.mark.parametrize("every", [6, pytest.param(1, marks=pytest.mark.long)])
def test_drawings_are_small_enough_for_a_slow_tablet(client, catalog, every):
    largest = {}
    for piece in Piece.objects.all()[::every]:
        body = page(client, "steps", piece.key, step="1").content.decode()
        drawn = body[body.index('<svg class="seam-shapes"') : body.index('<div class="steps">')]
        largest[piece.key] = len(drawn.encode())
    assert max(largest.values()) < LARGEST_DRAWING, largest
    for species in ("beef", "pork", "lamb"):
        assert len(page(client, "animals", animal=species).content) < LARGEST_DRAWING


@pytest.mark.parametrize(
    ("name", "args"),
    [
        ("guide", ("no-such",)),
        ("cut", ("no-such",)),
        ("muscle", ("no-such",)),
        ("edit", ("no-such",)),
        ("edit_step", ("beef-rib", "no-such")),
        ("edit_plan", ("beef-rib", "no-such")),
        ("export_csv", ("muscle",)),
        ("handout", ("no-such",)),
        ("edit_cut", ("no-such",)),
    ],
)
def test_what_is_not_there_is_not_found(client, catalog, name, args):
    assert page(client, name, *args).status_code == 404


def test_doubts_stand_in_the_small_print(client, catalog):
    answer = page(client, "guide", "lamb-shoulder-pair").content.decode()
    assert "206 or 207" in answer
    assert "value from memory" in answer
    assert "common practice, no published source" in answer


def test_the_json_export_is_the_catalog_and_the_schema_knows_it(client, catalog):
    answer = page(client, "export_json")
    assert "attachment" in answer["Content-Disposition"]
    assert set(json.loads(answer.content)["pieces"]) == set(shipped.document()["pieces"])


def test_the_animal_map_leads_to_the_pieces_of_the_touched_primal(client, catalog):
    answer = page(client, "animals", animal="pork", primal="pork-loin").content.decode()
    listed = answer[answer.index('class="by-primal"') :]
    assert "Pork tenderloin" in listed
    assert "Pork belly" not in listed
    assert answer.count('aria-current="true"') >= 1
    everything = page(client, "animals", animal="pork").content.decode()
    assert all(name in everything for name in ("Pork belly", "Spare ribs", "Pork leg"))
    for odd in ({"animal": "cow"}, {"animal": "beef", "primal": "pork-loin"}):
        assert "Top sirloin butt" in page(client, "animals", **odd).content.decode()


def test_the_same_four_are_shown_three_times_with_what_they_give_on_each(client, catalog):
    answer = page(client, "same_map").content.decode()
    leg = answer[: answer.index("</table>")].replace("&nbsp;", " ").replace("\xa0", " ")
    for species in ("beef", "pork", "lamb"):
        assert f'aria-label="Across the middle of the leg, {species}"' in leg
    for muscle in ("semimembranosus", "semitendinosus", "biceps", "quadriceps"):
        assert muscle in leg


def test_a_cut_says_its_muscle_its_pieces_and_its_cautions(client, catalog):
    answer = page(client, "cut", "beef-cube-steak").content.decode()
    assert "cooked through like ground meat" in answer
    assert "Knuckle" in answer
    muscle = page(client, "muscle", "rectus-femoris").content.decode()
    assert "rectus femoris" in muscle
    assert "Knuckle, peeled" in muscle


def test_the_handout_has_every_step_with_its_box_and_its_caution(client, catalog):
    answer = words_of(page(client, "handout", "lamb-shoulder", plan="tunnel"))
    steps = shipped.document()["pieces"]["lamb-shoulder"]["steps"]
    for step in steps:
        mine = "tunnel" in step.get("plans", ["tunnel"])
        assert (step["do"] in answer) is mine, step["key"]
        if mine and "check" in step:
            assert f"☐ {step['check']}" in answer
    assert "never to grind" in answer


def test_a_piece_without_plan_drawing_or_steps_still_has_its_pages(client, catalog):
    """What an import may leave a piece with."""
    Piece.objects.create(key="house-bare", name="Bare", species="beef", position=99)
    for name in ("guide", "steps", "handout", "edit", "changes"):
        answer = page(client, name, "house-bare")
        assert answer.status_code == 200, name
    assert "no drawing yet" in page(client, "guide", "house-bare").content.decode()
    assert client.get(reverse("bench:open", args=["house-bare"])).status_code == 200


def test_what_starts_with_the_words_comes_first_and_the_rest_is_counted(client, catalog):
    found = find("rib")
    names = [piece.shown_name.lower() for piece in found.pieces]
    assert names[0].startswith("rib")
    firsts = [name.startswith("rib") for name in names]
    assert firsts == sorted(firsts, reverse=True)
    shown = len(found.pieces) + len(found.cuts) + len(found.muscles)
    assert found.more > 0
    assert f"{found.more} more" in page(client, "found", q="rib").content.decode()
    assert shown <= 24


def test_a_piece_out_of_use_is_found_nowhere_and_its_test_keeps_it(client, opened, shop):
    rows = opened("pork-loin")
    take_out("pork-loin", shop["bram"].pk)
    assert "Pork loin, boneless" not in page(client, "animals", animal="pork").content.decode()
    assert all(piece.key != "pork-loin" for piece in find("pork loin").pieces)
    assert client.get(reverse("bench:open", args=["pork-loin"])).status_code == 404
    bench = client.get(reverse("bench:test", args=[rows.test.pk])).content.decode()
    assert "Pork loin, boneless" in bench
    assert "Back fat" in bench


def test_only_the_lines_of_the_chosen_plan_are_drawn(client, catalog):
    pages = {
        plan: client.get(reverse("catalog:guide", args=["beef-short-loin"]), {"plan": plan})
        for plan in ("sawn", "boned", "mixed")
    }
    drawn = {
        plan: ("porterhouse: tenderloin" in words, "strip off lengthwise" in words)
        for plan, page in pages.items()
        for words in [page.content.decode()]
    }
    assert drawn == {"sawn": (True, False), "boned": (False, True), "mixed": (True, True)}
