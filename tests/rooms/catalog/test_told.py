"""What ships for a shopper: every cut that is cooked has its grades, servings and story."""

import pytest
from django.urls import reverse

from rooms.catalog.models import Cut, Muscle
from rooms.catalog.queries.shipped import document
from tests.conftest import words_of

CUTS = document()["cuts"]
BARE = {"bone", "fat", "strap"}
HIDE = "pork-skin"


def test_every_cut_that_is_cooked_is_told_and_what_is_not_is_not():
    for key, cut in CUTS.items():
        if cut["muscle"] in BARE and key not in ("pork-tail", "pork-feet"):
            assert "grades" not in cut, key
            continue
        assert max(cut["grades"].values(), key=["fair", "good", "best"].index) != "fair", key
        assert cut["story"].endswith((".", "cooked")), key
        assert key == HIDE or 0.5 <= float(cut["serves"]) <= 4, key


def test_stories_claim_nothing_that_only_a_delivery_may():
    """Breed, feed, farm and freshness are the delivery's and the day's to say."""
    words = ("today", "this morning", "grass", "organic", "local", "natural", "farm", "here")
    for key, cut in CUTS.items():
        said = f" {cut.get('story', '')} ".casefold()
        assert not [word for word in words if f" {word} " in said], key


@pytest.mark.parametrize(
    ("better", "worse", "way"),
    [
        ("beef-sirloin-cap", "beef-sirloin-side", "pan"),
        ("beef-centre-filet", "beef-eye-roast", "grill"),
        ("beef-chuck-roast", "beef-ribeye-steak", "braise"),
        ("lamb-shoulder-rolled", "lamb-loin-rolled", "slow"),
    ],
)
def test_neighbours_differ_the_way_the_trade_says(better, worse, way):
    """Common practice, no published source."""
    order = ["", "fair", "good", "best"]
    rank = [order.index(CUTS[key]["grades"].get(way, "")) for key in (better, worse)]
    assert rank[0] > rank[1]


@pytest.mark.django_db
def test_a_shop_writes_its_own_notes_over_them(client, catalog):
    edit = reverse("catalog:edit_cut", args=["beef-flank-steak"])
    form = client.get(edit).context["form"]
    assert form.initial["grade_grill"] == "best"
    typed = {name: form[name].value() for name in form.fields}
    typed |= {"synonyms": "flank", "grade_grill": "good", "grade_slow": "fair", "serves": "3"}
    typed |= {"story": "Our own words.", "seen": client.get(edit).context["seen"]}
    typed = {name: value for name, value in typed.items() if value not in (None, False)}
    preview = client.post(reverse("catalog:preview_cut", args=["beef-flank-steak"]), typed)
    assert "Our own words." in words_of(preview)
    assert client.post(edit, typed).status_code == 302
    cut = Cut.objects.get(key="beef-flank-steak")
    assert (cut.grades["grill"], cut.grades["slow"], str(cut.serves)) == ("good", "fair", "3")
    answer = words_of(client.get(reverse("catalog:cut", args=[cut.key])))
    assert "the shop's own notes" in answer.replace("&#x27;", "'")
    assert "145 °F (62.8 °C)" in answer
    assert "a lb serves 3" in answer


@pytest.mark.django_db
def test_grades_go_out_in_a_table_and_come_in_again(client, catalog):
    table = client.get(reverse("catalog:export_csv", args=["cuts"])).content
    assert b"grill best | pan good" in table
    from django.core.files.uploadedfile import SimpleUploadedFile

    before = {cut.key: (cut.grades, cut.serves, cut.story) for cut in Cut.objects.all()}
    file = SimpleUploadedFile("cuts.csv", table.replace(b"grill best | pan good", b"grill fair", 1))
    client.post(reverse("catalog:files"), {"file": file})
    after = {cut.key: (cut.grades, cut.serves, cut.story) for cut in Cut.objects.all()}
    (changed,) = [key for key in before if before[key] != after[key]]
    assert after[changed][0]["grill"] == "fair"
    assert Muscle.objects.exists()
