"""The room of the layout: its pages, what they refuse, the strip at true scale."""

import io
import re
import uuid
from decimal import Decimal
from urllib.parse import urlencode

import pypdf
import pytest
from django.urls import reverse

from cutting.layout.aims import Aim, lay_out_for
from cutting.layout.bones import PORTERHOUSE, T_BONE, reach
from cutting.layout.marks import inch_words
from cutting.quantities import Unit
from rooms.catalog.models import Piece, PlanOutput
from rooms.catalog.queries.shapes import part_of, shape_of, shapes
from rooms.layout.forms import read
from rooms.layout.models import Measured
from rooms.layout.queries.first import usual_weight
from rooms.layout.queries.pooling import pooled
from tests.cases import some_often
from tests.conftest import decide, words_of

pytestmark = pytest.mark.django_db
D = Decimal
RIBEYE = {
    "weight": "14.5",
    "unit": "lb",
    "length": "15 1/2",
    "near": "1/4",
    "name-0": "Rib-eye steak",
    "use-0": "on",
    "price-0": "19.99",
    "light-0": "13.5",
    "heavy-0": "14.5",
    "thin-0": "3/4",
    "thick-0": "1 1/2",
}


def page(client, key="beef-ribeye", **asked):
    return client.get(reverse("layout:piece", args=[key]), {**RIBEYE, **asked} if asked else {})


def test_every_piece_with_a_shape_begins_with_a_layout_of_its_own_plan(client, shop):
    assert set(shapes()) <= set(Piece.objects.values_list("key", flat=True))
    for key in ("beef-ribeye", "beef-rib", "pork-tenderloin"):
        answer = page(client, key)
        assert answer.status_code == 200, key
        view = answer.context["view"]
        assert view.layout.slices, key
        assert view.is_likely, key
    assert client.get(reverse("layout:piece", args=["beef-hindquarter"])).status_code == 404
    assert "Rib-eye" in words_of(client.get(reverse("layout:front")))


def test_the_page_and_the_core_say_the_same(client, shop):
    answer = page(client, weight="14.5")
    view, text = answer.context["view"], words_of(answer)
    many = view.layout.portions["Rib-eye steak"]
    assert f"<dt>Rib-eye steak</dt><dd>{many}</dd>" in text
    assert view.marks in text
    data = view.script_data
    ends = [0, *view.layout.marks, view.layout.task.last]
    cents = sum(
        data["cents"][0][end] - data["cents"][0][start]
        for part, start, end in zip(view.layout.parts, ends, ends[1:], strict=False)
        if part.product is not None
    )
    assert cents / 100 == pytest.approx(float(view.layout.money), abs=0.01)
    assert data["words"][view.layout.marks[0]] == view.view.cuts[0].inches


@pytest.mark.parametrize(
    ("asked", "says"),
    some_often(
        [
            ({"weight": "x"}, "Weight as it lies: “x” is not a plain number"),
            ({"length": "long"}, "Length: “long” is no length; inches such as 3/4"),
            ({"length": "999"}, "longer than any piece"),
            ({"use-0": ""}, "none is ticked"),
            ({"heavy-0": ""}, "a least and a most belong together"),
            ({"heavy-0": "9"}, "It is below the least"),
            ({"price-0": ""}, "what a unit of it sells for is right"),
            ({"light-0": "300", "heavy-0": "400"}, "Nothing fits"),
            ({"near": "40"}, "Nothing fits"),
            ({"most-0": "0"}, "Rib-eye steak, At most"),
            ({"zone-from-0": "5", "zone-to-0": "4"}, "To: It is not behind where it begins"),
            ({"zone-from-0": "5"}, "To: It is empty"),
            ({"rest": "-1"}, "Worth: -1 is not right here"),
        ]
    ),
)
def test_what_cannot_be_laid_out_says_why_and_keeps_what_was_typed(client, shop, asked, says):
    answer = page(client, **asked)
    text = words_of(answer).replace("&#x27;", "'")
    assert answer.status_code == 422
    assert says in text
    assert 'value="15 1/2"' in text or "length" in asked


def test_measures_that_cannot_belong_together_are_told_with_what_they_imply(client, shop):
    text = words_of(page(client, width="4", height="2"))
    assert re.search(r"it would be \d\.\d\d g/cm³; lean meat is 1.04 to 1.07", text)


def test_a_kilo_shop_lays_out_in_millimetres_and_grams(client, shop):
    decide(unit=Unit.KG)
    answer = page(client)
    text = words_of(answer)
    assert "Marks from the chuck end, mm" in text
    assert "price a kg" in text
    assert answer.context["view"].layout.task.step == 1


def test_the_strip_is_at_true_scale_over_as_many_pages_as_it_needs(client, shop):
    """15 1/2 in do not fit on a letter: the first mark stands at its distance, 72 points an inch."""
    answer = client.get(reverse("layout:strip", args=["beef-ribeye"]), RIBEYE)
    assert answer["Content-Type"] == "application/pdf"
    pdf = pypdf.PdfReader(io.BytesIO(b"".join(answer) if answer.streaming else answer.content))
    assert len(pdf.pages) == 2
    drawn = pdf.pages[0].get_contents().get_data().decode("latin-1")
    lines = [
        tuple(map(float, found))
        for found in re.findall(r"([\d.]+) ([\d.]+) m ([\d.]+) ([\d.]+) l", drawn)
    ]
    bar = next(b - a for a, y, b, z in lines if y == z)
    assert bar == pytest.approx(4 * 72, abs=0.02)
    layout = page(client, weight="14.5").context["view"].layout
    left = min(a for a, *_ in lines)
    upright = {round(a - left, 2) for a, y, b, z in lines if a == b and z - y > 60}
    on_first = [float(layout.task.at(m)) / 25.4 * 72 for m in layout.marks]
    assert {round(at, 2) for at in on_first if at < 700} <= {round(x, 2) for x in upright} | {
        round(x + d, 2) for x in upright for d in (-0.01, 0.01)
    }
    assert "strip 1 of 2" in pdf.pages[0].extract_text()


def test_small_sums_are_worked_out_and_refused(client, shop):
    address = reverse("layout:small")
    text = words_of(client.get(address, {"of": "kebab", "weight": "2", "edge": "1", "cubes": "5"}))
    assert "<dt>skewers</dt><dd>10</dd>" in text
    opened = client.get(address, {"of": "butterfly", "face": "3 1/2", "thick": "3/4"})
    assert "<dt>cut it</dt><dd>1 1/2</dd>" in words_of(opened)
    assert "<dt>opened it is wide</dt><dd>7</dd>" in words_of(opened)
    wrong = client.get(
        address,
        {"of": "tie", "weight": "4", "length": "1", "width": "4", "height": "4", "apart": "2"},
    )
    assert wrong.status_code == 422
    assert "Apart: 50.8 mm; at most the joint" in words_of(wrong)


def measured(client, key, **asked):
    """Post what a ruler said of a rib-eye."""
    query = urlencode({**RIBEYE, "width": "8", "height": "4 3/8", **asked})
    address = reverse("layout:piece", args=["beef-ribeye"])
    return client.post(f"{address}?{query}", {"key": key})


def test_what_a_ruler_said_is_kept_once_and_shapes_the_next_piece(client, shop):
    address = reverse("layout:piece", args=["beef-ribeye"])
    assert "an assumption" in words_of(client.get(address))
    before = client.get(address, {k: v for k, v in RIBEYE.items() if k != "length"})
    key = str(uuid.uuid4())
    for _ in range(2):
        assert measured(client, key, length="18").status_code == 302
    assert Measured.objects.get().by.username == "bram"
    after = client.get(address, {k: v for k, v in RIBEYE.items() if k != "length"})
    assert "Its shape by 1 piece measured here" in words_of(after)
    lengths = [a.context["view"].layout.task.profile.length for a in (before, after)]
    assert lengths[1] > lengths[0] * 11 / 10


def test_one_slip_of_the_ruler_does_not_bend_the_shape(client, shop):
    for length in ("16", "16 1/4", "15 3/4", "18 1/2"):
        measured(client, str(uuid.uuid4()), length=length)
    piece = Piece.objects.get(key="beef-ribeye")
    plain = shape_of("beef-ribeye", "")
    found = pooled(piece, plain, usual_weight(piece))
    assert found.measured == 4
    assert Decimal("0.98") < found.shape.length / plain.length < Decimal("1.02")


@pytest.mark.parametrize(
    ("asked", "says"),
    [
        ({"width": "", "height": "4"}, "Widest: not measured"),
        ({"width": "3", "height": "2"}, "they would make"),
    ],
)
def test_measures_that_cannot_be_are_not_kept(client, shop, asked, says):
    answer = measured(client, str(uuid.uuid4()), **asked)
    assert answer.status_code == 422
    assert says in words_of(answer)
    assert not Measured.objects.exists()


def test_gristle_is_no_face_and_the_rest_brings_its_worth(client, shop):
    plain = page(client, weight="14.5").context["view"].layout
    mark = plain.marks[4] * plain.task.step / Decimal("25.4")
    around = {
        "zone-from-0": f"{mark - Decimal('0.2'):.2f}",
        "zone-to-0": f"{mark + Decimal('0.2'):.2f}",
    }
    found = page(client, **around, rest="4.99").context["view"].layout
    zone = found.task.zones[0]
    assert not [m for m in found.marks if zone.start < found.task.at(m) < zone.end]
    gaps = [part for part in found.parts if part.product is None]
    assert all(part.value > 0 for part in gaps)
    away = page(client, **around, **{"zone-rule-0": "no_product"}).context["view"].layout
    assert all(
        away.task.at(part.end) <= zone.start or away.task.at(part.start) >= zone.end
        for part in away.slices
    )


def test_cuts_moved_by_hand_are_printed_where_they_stand(client, shop):
    layout = page(client, weight="14.5").context["view"].layout
    marks = [layout.marks[0] + 3, *layout.marks[1:]]
    address = reverse("layout:strip", args=["beef-ribeye"])
    answer = client.get(address, {**RIBEYE, "marks": ",".join(map(str, marks))})
    text = pypdf.PdfReader(io.BytesIO(answer.content)).pages[0].extract_text()
    assert f"1: {inch_words(layout.task.at(marks[0]))}" in text
    for wrong in ("1,2", "x", ",".join(map(str, reversed(marks)))):
        refused = client.get(address, {**RIBEYE, "marks": wrong})
        assert refused.status_code == 422
        assert "arks" in words_of(refused)


def sirloin(part, target, across="1", **more):
    """A top sirloin of 15 lb at 3/4 in: what its part gives of one cut."""
    piece = Piece.objects.get(key="beef-top-sirloin")
    share = shape_of(piece.key, part).share
    low, high = D(target) - D("0.9"), D(target) + D("0.9")
    asked = {
        "part": part,
        "weight": f"{15 * share:.2f}",
        "unit": "lb",
        "near": "1/4",
        "aim": "money",
        "name-0": "steak",
        "use-0": "on",
        "price-0": "13.99",
        "light-0": f"{low}",
        "heavy-0": f"{high}",
        "thin-0": "11/16",
        "thick-0": "13/16",
        "across-0": across,
        **more,
    }
    return lay_out_for(read(asked, piece).task[1], Aim.MONEY).portions["steak"]


def test_a_top_sirloin_of_15_lb_gives_about_18_centre_and_6_cap_steaks(shop):
    """Common practice, no published source: at 3/4 in, the centre halved where its face is more
    than the target; of the cap two small faces make one steak, butterflied."""
    assert sirloin("centre", "8.3", "1,2") in (17, 18, 19)
    assert sirloin("cap", "5.6", opens="on") in (5, 6)


def test_a_flat_iron_gives_three_of_180_g_from_each_half(shop):
    """Common practice, no published source."""
    piece = Piece.objects.get(key="beef-shoulder-clod")
    asked = {
        "part": "flat-iron",
        "weight": "1.13",
        "unit": "kg",
        "name-0": "Flat iron",
        "use-0": "on",
        "price-0": "15.99",
        "light-0": "6.0",
        "heavy-0": "6.7",
        "across-0": "2",
    }
    layout = lay_out_for(read(asked, piece).task[1], Aim.MONEY)
    assert layout.portions == {"Flat iron": 6}


def test_porterhouse_ends_where_the_tenderloin_is_narrower_than_its_standard(client, shop):
    """USDA IMPS 1173 and 1174, by the tenderloin's usual taper."""
    view = page(client, "beef-short-loin").context["view"]
    task = view.layout.task
    ends = {one.name: one.end for one in task.products}
    shape = shape_of("beef-short-loin", "")
    assert ends["Porterhouse"] < ends["T-bone"]
    for name, wide in (("Porterhouse", PORTERHOUSE), ("T-bone", T_BONE)):
        at = ends[name] / task.profile.length
        assert abs(at - reach(shape.tender, wide)) < D("0.01"), name
    for part in view.layout.slices:
        assert task.at(part.end) <= (task.products[part.product].end or task.profile.length)


def test_a_rib_is_composed_between_its_bones_with_the_next_two_ways(client, shop):
    answer = page(client, "beef-rib")
    view = answer.context["view"]
    assert [one.key for one in view.others] == ["2", "3"]
    assert set(view.layout.marks) <= {
        int(c / view.layout.task.step) for c in view.layout.task.bone_cuts
    }
    beside = client.get(reverse("layout:piece", args=["beef-rib"]), {"beside": "2"})
    assert "Second best" in words_of(beside)
    assert "cap whole" in words_of(answer)


@pytest.mark.long
@pytest.mark.parametrize("key", sorted(shapes()))
def test_every_part_of_every_piece_is_laid_out_with_its_own_plan(client, shop, key):
    for shape in shapes()[key]:
        address = reverse("layout:piece", args=[key])
        answer = client.get(address, {"part": shape.key} if shape.key else {})
        words = words_of(answer)
        assert answer.status_code == 200 or "none is ticked" in words, (shape.key, words[-900:])
        assert "Cut by these marks" in words or answer.status_code == 422


@pytest.mark.long
@pytest.mark.parametrize("key", ["beef-ribeye", "beef-short-loin", "beef-rib", "pork-loin-bone-in"])
def test_begun_at_the_other_end_it_brings_the_same_and_is_marked_from_there(client, shop, key):
    address = reverse("layout:piece", args=[key])
    plain, other = (
        client.get(address, asked) for asked in ({"kerf": "0"}, {"turned": "on", "kerf": "0"})
    )
    one, two = (answer.context["view"].layout for answer in (plain, other))
    assert one.portions == two.portions
    assert one.money == two.money
    assert f"Marks from the {shape_of(key, '').ends[1]}" in words_of(other)


@pytest.mark.parametrize(
    ("asked", "says"),
    [
        ({"bones-0": "9"}, "Nothing fits: no slice of"),
        ({"bones": "1"}, "Bones:"),
        ({"least-0": "5", "most-0": "2"}, "At most: It is below the least"),
        ({"least-0": "3", "bones-0": "3"}, "at most 2 fit, so 2 or fewer is right"),
    ],
)
def test_bones_and_counts_that_cannot_be_say_which_and_what_would_be(client, shop, asked, says):
    plan = {"weight": "20", "unit": "lb", "name-0": "Rib roast", "use-0": "on", "price-0": "15.99"}
    answer = page(
        client, "beef-rib", **{**dict.fromkeys(RIBEYE, ""), **plan, "bones-0": "3", **asked}
    )
    assert answer.status_code == 422
    assert says in words_of(answer)


def test_every_piece_that_is_portioned_has_a_shape(shop):
    """A target or a thickness of a plan asks for a place for the knife."""
    portioned = PlanOutput.objects.filter(cut__isnull=False).exclude(
        target_value=None, thickness=""
    )
    for output in portioned.select_related("plan__piece", "cut"):
        assert part_of(output.plan.piece.key, output.part) is not None, output


def test_what_a_plan_cuts_elsewhere_is_no_left_over(client, shop):
    """Eye steaks come off the rib end; the rest of that side goes into the roll."""
    answer = page_of(client, "beef-chuck-roll", plan="straight", part="eye")
    view = answer.context["view"]
    assert view.layout.portions["Chuck-eye steak"] in (2, 3)
    left, other = (float(text.split()[0]) for text in (view.left, view.elsewhere))
    assert other > 30 > left
    assert abs(left + other - float(view.layout.rest_weight) * 16) < 0.2
    assert "Not cut here" in words_of(answer)
    whole = page_of(client, "beef-ribeye", plan="steaks-one-inch")
    assert whole.context["view"].elsewhere == ""


def page_of(client, key, **asked):
    return client.get(reverse("layout:piece", args=[key]), asked)


def test_a_layout_opens_with_the_part_that_its_plan_cuts_first(client, shop):
    answer = page_of(client, "beef-shoulder-clod", plan="basic")
    assert answer.context["shape"].key == "clod"
    assert answer.context["is_compared"]


def test_a_shops_own_plan_without_places_still_opens_and_says_so(client, shop):
    PlanOutput.objects.filter(plan__piece__key="beef-short-loin").update(part="", zone="")
    one = PlanOutput.objects.get(
        plan__piece__key="beef-short-loin", plan__key="mixed", name="T-bone"
    )
    PlanOutput.objects.filter(pk=one.pk).update(part="whole", zone="t-bone")
    answer = page_of(client, "beef-short-loin", plan="sawn")
    assert answer.status_code == 200
    assert "Not compared with its plan" in words_of(answer)
    names = {row["name"].value(): row["start"].value() for row in answer.context["rows"]}
    assert names["T-bone"]  # its stretch is that of the same cut in the other plan
    assert names["Porterhouse"] in ("", "1/4")


@pytest.mark.parametrize(
    ("change", "at"), some_often([({"length": "18"}, "18"), ({"weight": "20"}, None)])
)
def test_stretches_follow_the_length_that_was_measured_and_leave_what_was_typed(
    client, shop, change, at
):
    first = page_of(client, "beef-ribeye", plan="roast-and-steaks")
    form = {"plan": "roast-and-steaks"}
    for bound in [*first.context["form"], *(f for row in first.context["rows"] for f in row)]:
        value = bound.value()
        if value not in (None, False, ""):
            form[bound.html_name] = "on" if value is True else value
    steak = next(r for r in first.context["rows"] if r["name"].value() == "Rib-eye steak")
    number = steak.prefix.rpartition("-")[2] if steak.prefix else "1"
    typed = page_of(client, "beef-ribeye", **(form | change))
    rows = {row["name"].value(): row for row in typed.context["rows"]}
    assert rows["Rib-eye steak"]["end"].value() != steak["end"].value()
    assert typed.context["view"].layout.portions["Rib-eye roast"] >= 1
    own = page_of(client, "beef-ribeye", **(form | change | {f"end-{number}": "12"}))
    kept = {row["name"].value(): row["end"].value() for row in own.context["rows"]}
    assert kept["Rib-eye steak"] == "12"


def test_a_whole_piece_of_a_plan_leads_to_its_own_layout(client, shop):
    """What lies here is 82 % of a short loin, and 46 % of the loin is its strip: 20 / 0.82 × 0.46."""
    asked = {"plan": "boned", "weight": "20", "unit": "lb"}
    page = client.get(reverse("layout:piece", args=["beef-short-loin"]), asked)
    one = next(each for each in page.context["cut_on"] if each.name == "Strip loin")
    assert str(one.weight) == "11.22 lb"
    inner = client.get(one.address)
    assert inner.status_code == 200
    assert inner.context["plan"].key == "steaks"
    assert inner.context["form"]["weight"].value() == "11.22"
    Piece.objects.filter(key="beef-strip-loin").update(is_dropped=True)
    page = client.get(reverse("layout:piece", args=["beef-short-loin"]), asked)
    assert [each.name for each in page.context["cut_on"]] == ["Tenderloin"]
