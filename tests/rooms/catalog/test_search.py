"""Every name people type is found, joined, split, misspelled; the best first."""

import tomllib
from pathlib import Path

import pytest
from django.urls import reverse
from hypothesis import given
from hypothesis import strategies as st

from rooms.catalog.models import Cut, Muscle, Piece
from rooms.catalog.queries.finding import MODELS, catalog_index, find, find_cuts
from rooms.catalog.queries.search import Index, words_of

pytestmark = pytest.mark.django_db

NAMES = {  # common practice, no published source
    "new york": "beef-strip-steak",
    "delmonico": "beef-ribeye-steak",
    "denver": "beef-under-blade-steak",
    "sierra": "beef-splenius",
    "picanha": "beef-sirloin-cap",
    "coulotte": "beef-sirloin-cap",
    "tomahawk": "beef-rib-steak",
    "cowboy": "beef-rib-steak",
    "wing rib": "beef-rib-roast",
    "standing rib": "beef-rib-roast",
    "mock tender": "supraspinatus",
    "chuck tender": "supraspinatus",
    "bistro": "beef-petite-tender",
    "oyster blade": "beef-top-blade-roast",
    "feather blade": "beef-top-blade-roast",
    "spider": "obturatorius",
    "petite sirloin": "beef-tip-steak",
    "ball tip": "beef-tip-steak",
    "pepper steak": "beef-stir-fry",
    "scallop": "pork-scallop",
    "scaloppine": "pork-scallop",
    "schnitzel": "pork-cutlet",
    "fajita": "beef-flap",
    "satay": "beef-stir-fry",
    "porchetta": "pork-roll-up",
    "kalbi": "beef-boneless-short-ribs",
    "flanken": "beef-boneless-short-ribs",
    "money muscle": "pork-neck-muscle",
    "ham eye": "pork-leg-eye",
    "outside picnic": "pork-picnic-roast",
    "cushion": "pork-picnic-roast",
    "jowl": "pork-jowl",
    "pork short rib": "pork-shoulder-ribs",
    "riblets": "pork-rib-tips",
    "fly-cut": "pork-loin-chop",
    "backstrap": "backstrap",
    "paddywhack": "backstrap",
    "feather bones": "feather-bones",
    "aitch bone": "aitch-bone",
    "suet": "suet",
    "cod fat": "cod-fat",
    "kidney fat": "suet",
    "tallow": "tallow",
    "lard": "lard",
    "scrag": "scrag",
    "silverskin": "silver-skin",
    "hook end": "hook-end",
    "pillow": "pork-collar",
    "tiger": "pork-collar",
    "boston butt": "pork-butt",
    "picnic": "pork-picnic",
    "elephant ear": "pork-scallop",
    "fly swatter": "pork-scallop",
    "iowa tenderloin": "pork-scallop",
    "irish loin": "pork-loin-chop",
    "brisket griller": "pork-brisket",
    "bistro filet": "beef-petite-tender",
    "scotch tender": "supraspinatus",
    "karubi": "beef-boneless-short-ribs",
    "dinner steak": "beef-sirloin-centre",
    "pismo": "beef-tenderloin-full",
    "wing roast": "beef-loin-roast",
    "paddle bone": "blade-bone",
    "hanger": "beef-hanger",
    "oxtail": "beef-oxtail",
    "inside skirt": "beef-inside-skirt",
    "outside skirt": "beef-outside-skirt",
    "plate": "beef-plate",
    "packer brisket": "beef-brisket",
    "beef shank": "beef-shank",
}
WRITTEN = {  # joined, split, with a hyphen, the other spelling, one mistake
    "ribeye": "beef-ribeye",
    "rib eye": "beef-ribeye",
    "rib-eye": "beef-ribeye",
    "Rib Eye steak": "beef-ribeye-steak",
    "ribeye steak": "beef-ribeye-steak",
    "tritip": "beef-tri-tip",
    "tri tip": "beef-tri-tip",
    "tri-tip": "beef-tri-tip",
    "t bone": "beef-t-bone",
    "tbone": "beef-t-bone",
    "flatiron": "beef-flat-iron",
    "center filet": "beef-centre-filet",
    "centre filet": "beef-centre-filet",
    "silver skin": "silver-skin",
    "striploin": "beef-strip-loin",
    "picahna": "beef-sirloin-cap",
    "tenderlion": "beef-tenderloin-full",
    "pork briskit": "pork-brisket",
    "porterhose": "beef-porterhouse",
    "steak ranch": "beef-ranch-steak",
}


SPELLINGS = tomllib.loads((Path(__file__).parent / "spellings.toml").read_text(encoding="utf-8"))


def first_of(typed):
    """Keys of the first of each kind."""
    found = find(typed)
    return (
        []
        if found is None
        else [
            some[0].key for some in (found.pieces, found.cuts, found.muscles, found.parts) if some
        ]
    )


@pytest.mark.parametrize(("typed", "key"), (NAMES | WRITTEN).items())
def test_what_people_type_is_the_first_of_its_kind(catalog, typed, key):
    assert key in first_of(typed)


def test_six_hundred_spellings_find_what_they_mean_first(catalog):
    """Of the index alone: the page's own queries are tested with the names above."""
    index = catalog_index()
    keys = {
        (kind, row.pk): row.key for kind, model in MODELS.items() for row in model.objects.all()
    }

    def firsts(typed):
        found = index.find(typed)
        return [
            keys[next(one for one in found if one[0] == kind)] for kind in {k for k, _ in found}
        ]

    first = {typed: firsts(typed) for some in SPELLINGS.values() for typed in some}
    wrong = {
        typed: (key, first[typed])
        for key, spellings in SPELLINGS.items()
        for typed in spellings
        if key not in first[typed]
    }
    assert wrong == {}
    assert len(first) > 590


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ("Chops", ["chop"]),
        ("BELLIES", ["belly"]),
        ("boneless", ["boneless"]),
        ("pig’s feet", ["pig", "feet"]),
        ("Fillets, centre", ["filet", "center"]),
        ("rib", ["rib"]),
        ("Schnitzel für Öl", ["schnitzel", "fur", "ol"]),
    ],
)
def test_one_spelling_and_one_number_of_each_word(typed, words):
    assert words_of(typed) == words


@pytest.mark.parametrize(
    ("typed", "found"),
    [
        ("chop", [1, 2, 3]),
        ("pork chop", [2, 1]),  # the name that says it, then the animal it is of
        ("lamb chop", [3]),
        ("pork", [2]),
        ("bnls loin", [4]),
        ("beef loin bnls", []),
    ],
)
def test_the_animal_is_its_name_or_what_it_is_of_and_short_words_count_last(typed, found):
    index = Index()
    for number, (name, animal) in enumerate(
        [
            ("Chop", "pork"),
            ("Pork chop", "pork"),
            ("Lean chop", "lamb"),
            ("Loin, boneless", "pork"),
        ],
        start=1,
    ):
        index.add(("cut", number), [name], animal=animal)
    assert [number for _, number in index.find(typed)] == found


def test_an_exact_name_comes_before_longer_ones_and_a_name_before_a_synonym(catalog):
    cuts = [cut.key for cut in find("t-bone").cuts]
    assert cuts[0] == "beef-t-bone"
    assert find("flank").pieces[0].key == "beef-flank"
    assert find("shank").cuts[0].name.lower().endswith("shank")


@pytest.mark.parametrize(
    ("typed", "order"),
    [
        ("chop", ["Pork chop", "Chopped steak", "Pork porkchops"]),
        ("eye", ["Chuck eye", "Eyelet"]),
        ("rib eye", ["Rib eye steak", "Ribeyelet"]),
        ("ribs", ["Back ribs", "Cribset"]),
    ],
)
def test_an_exact_word_beats_letters_inside_another_and_a_mistyped_one(typed, order):
    index = Index()
    for number, name in enumerate(reversed([*order, "Ghop", "Tibs"])):
        index.add(("cut", number), [name])
    names = dict(enumerate(reversed([*order, "Ghop", "Tibs"])))
    found = [names[number] for _, number in index.find(typed)]
    assert found == [name for name in order if name in found]
    assert found[0] == order[0]


def test_a_name_that_two_muscles_have_is_told_on_both_pages(client, catalog):
    for key, other in (
        ("beef-splenius", "Tip center steak"),
        ("beef-tip-centre-steak", "Crossed flat"),
    ):
        page = client.get(reverse("catalog:cut", args=[key])).content.decode()
        assert "“sierra” is also said of" in page
        assert other in page
    muscles = [muscle.key for muscle in find("spider").muscles]
    assert muscles[:2] == ["obturatorius", "scalenus"]


def test_words_of_the_guides_find_their_piece(catalog):
    assert "beef-shoulder-clod" in {piece.key for piece in find("hidden seam").pieces}
    part = Muscle.objects.get(key="backstrap")
    assert part.kind == "part"


def test_a_part_says_what_it_is_and_leads_to_the_guides_that_name_it(client, catalog):
    page = client.get(reverse("catalog:muscle", args=["feather-bones"])).content.decode()
    assert "upright bones" in page
    assert reverse("catalog:guide", args=["beef-short-loin"]) in page
    assert "Cuts of it" not in page
    answer = client.get(reverse("catalog:found"), {"q": "paddywhack"}).content.decode()
    assert "never gets tender" in answer


def test_a_change_is_found_at_once_and_what_is_out_of_use_no_longer(catalog):
    assert find("gull quay special") is None or find("gull quay special").is_empty
    cut = Cut.objects.get(key="beef-flap")
    cut.house_name = "Gull Quay special"
    cut.save()
    assert [one.key for one in find("gullquay special").cuts] == ["beef-flap"]
    piece = Piece.objects.get(key="beef-flap")
    piece.is_dropped = True
    piece.save()
    assert "beef-flap" not in {one.key for one in find("flap").pieces}


def test_at_the_block_the_same_search_finds_a_cut_of_the_animal(catalog):
    assert [cut.key for cut in find_cuts("stirfry", "pork", 8)] == ["pork-stir-fry"]
    assert find_cuts("x", "pork", 8) is None


def test_the_index_is_kept_until_the_catalog_changes(catalog, django_assert_num_queries):
    catalog_index()
    with django_assert_num_queries(1):
        catalog_index()


letters = st.text("abcdefgh ", min_size=1, max_size=12)


@pytest.mark.long
@given(st.lists(letters, min_size=1, max_size=6), st.data())
def test_any_name_is_found_by_itself_joined_split_and_with_one_letter_changed(names, data):
    index = Index()
    for i, name in enumerate(names):
        index.add(("piece", i), [name])
    at = data.draw(st.integers(0, len(names) - 1))
    joined = "".join(words_of(names[at]))
    if not joined:
        assert index.find(names[at]) == []
        return
    cut = data.draw(st.integers(0, len(joined)))
    for typed in (names[at], joined, f"{joined[:cut]}-{joined[cut:]}"):
        first = index.find(typed)[0]
        assert "".join(words_of(names[first[1]])) == joined
    if len(joined) > 4:
        wrong = joined[:2] + "z" + joined[3:]
        assert ("piece", at) in index.find(wrong)
