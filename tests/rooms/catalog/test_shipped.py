"""The shipped catalog is whole: names, muscles, piles, shares, drawings, item numbers."""

import math
import re
from decimal import Decimal
from itertools import combinations
from types import SimpleNamespace

import pytest
from hypothesis import event, given, settings
from hypothesis import strategies as st
from shapely import Polygon
from shapely.ops import unary_union

from cutting.ways.chain import comes_back
from drawings.families import LOOKS, Family
from drawings.seam_lettering import NARROW, WIDE, lay_out
from drawings.seams import Kind
from rooms.catalog.actions.edit import goes_on_in
from rooms.catalog.models import ON_THE_BLOCK, Pile
from rooms.catalog.queries import checking, shipped
from rooms.catalog.queries.animals import sides
from rooms.catalog.queries.drawings import SeamView, drawing_of, drawings
from rooms.catalog.queries.drawn import drawn_faults
from rooms.catalog.templatetags.seams import seam_shapes
from rooms.pricing.queries.giving import links
from tests.cases import some_often

CATALOG = shipped.document()
PIECES, CUTS, MUSCLES = CATALOG["pieces"], CATALOG["cuts"], CATALOG["muscles"]
EACH_PIECE = pytest.mark.parametrize("key", PIECES)


def test_the_shipped_files_have_no_fault():
    assert checking.faults(CATALOG) == []


@pytest.mark.parametrize(
    ("number", "names"),
    [  # USDA IMPS 100, 200 and 400 series, values from memory
        ("107", {"beef-rib", "beef-rib-to-bone"}),  # 103 has plate and blade, 109 is roast-ready
        ("112A", {"beef-ribeye"}),
        ("114", {"beef-shoulder-clod"}),
        ("116A", {"beef-chuck-roll"}),
        ("116E", {"beef-under-blade"}),
        ("155", {"beef-hindquarter"}),
        ("167A", {"beef-knuckle"}),
        ("168", {"beef-top-round"}),
        ("171B", {"beef-bottom-round"}),
        ("171C", {"beef-eye-round"}),
        ("174", {"beef-short-loin"}),
        ("180", {"beef-strip-loin"}),
        ("184", {"beef-top-sirloin"}),
        ("185A", {"beef-flap"}),
        ("185C", {"beef-tri-tip"}),
        ("189", {"beef-tenderloin-full"}),
        ("189A", {"beef-tenderloin"}),
        ("190", {"beef-tenderloin-side-off"}),
        ("190A", {"beef-tenderloin-skinned"}),
        ("193", {"beef-flank"}),
        ("204", {"lamb-rack"}),
        ("206", {"lamb-shoulder-pair"}),
        ("232", {"lamb-loin"}),
        ("233A", {"lamb-leg"}),
        ("400", {"pork-side"}),
        ("401", {"pork-leg"}),
        ("403", {"pork-shoulder"}),
        ("408", {"pork-belly"}),
        ("409", {"pork-belly-skinless"}),
        ("410", {"pork-loin-bone-in"}),
        ("413", {"pork-loin"}),
        ("415", {"pork-tenderloin"}),
        ("416", {"pork-spare-ribs"}),
        ("422", {"pork-back-ribs"}),
    ],
)
def test_each_item_number_stands_on_its_piece(number, names):
    assert {key for key, piece in PIECES.items() if piece.get("item_number") == number} == names


def test_every_number_is_of_its_animals_series_and_says_where_it_is_from():
    """IMPS: beef 100 and 1100, lamb 200 and 1200, pork 400 and 1400. Value from memory."""
    series = {"beef": "1", "lamb": "2", "pork": "4"}
    for key, row in {**PIECES, **CUTS}.items():
        number = row.get("item_number", "")
        wanted = series[row["species"]]
        assert re.fullmatch(rf"(1?{wanted}[0-9]{{2}}[A-Z]?)?", number), key
    assert all(
        "memory" in p["item_number_source"] or "no USDA" in p["item_number_source"]
        for p in PIECES.values()
    )


@EACH_PIECE
def test_a_piece_is_whole(key):
    """Shares: common practice, no published source."""
    piece = PIECES[key]
    assert piece["landmarks"]
    assert piece["tools"]
    assert piece["cautions"]
    assert piece["looks"]
    keys = [plan["key"] for plan in piece["plans"]]
    assert len(keys) == len(set(keys)) >= 1
    for plan in piece["plans"]:
        shares = [Decimal(output["share"]) for output in plan["outputs"]]
        assert Decimal("0.97") <= sum(shares) <= 1, plan["key"]
        for output in plan["outputs"]:
            waste = output["pile"] in (Pile.DISCARD, Pile.PURGE, Pile.SUET)
            assert ("cut" in output) is not waste, output["name"]
            assert bool(output.get("counted")) is ("target" in output), output["name"]


@EACH_PIECE
def test_every_step_names_piles_its_plans_have_and_every_plan_has_steps(key):
    piece = PIECES[key]
    for plan in piece["plans"]:
        steps = [s for s in piece["steps"] if plan["key"] in s.get("plans", [plan["key"]])]
        assert len(steps) >= 2, plan["key"]
        given = {output["pile"] for output in plan["outputs"]} - {Pile.PURGE}
        named = {pile for step in steps for pile in step["piles"]} - {ON_THE_BLOCK}
        assert named == given, (plan["key"], named ^ given)
        if plan.get("sawn"):
            sawn = [step for step in steps if step.get("machine") == "saw"]
            assert any(step.get("caution") for step in sawn), plan["key"]
    for step in piece["steps"]:
        assert all(step[what] for what in ("title", "find", "do", "right", "mistake")), step["key"]


@EACH_PIECE
def test_the_drawing_shows_the_muscles_of_the_cuts_and_no_region_lies_on_another(key):
    piece = PIECES[key]
    drawing = drawing_of(key, piece["drawing"])
    given = {
        CUTS[output["cut"]]["muscle"]
        for plan in piece["plans"]
        for output in plan["outputs"]
        if "cut" in output
    }
    single = {m for m in given if MUSCLES[m].get("kind", "muscle") == "muscle"}
    assert single <= drawing.muscles, single - drawing.muscles
    assert drawing.muscles <= set(MUSCLES)
    assert drawing.ends
    lit = {key for step in piece["steps"] for key in step["touches"]}
    assert lit & {line.key for line in drawing.lines}
    meat = [
        (region.key, unary_union([Polygon(c.points).buffer(0) for c in region.curves]))
        for region in drawing.regions
        if region.kind is Kind.MUSCLE
    ]
    for (one, a), (other, b) in combinations(meat, 2):
        assert a.intersection(b).area < 0.12 * min(a.area, b.area), (one, other)


@EACH_PIECE
def test_the_drawing_shows_what_the_steps_say(key):
    piece = PIECES[key]
    steps = [SimpleNamespace(**{"machine": "", **step}) for step in piece["steps"]]
    assert drawn_faults(key, drawing_of(key, piece["drawing"]), steps) == []


@pytest.mark.parametrize(
    ("key", "change", "says"),
    [
        ("beef-hindquarter", {"find": "the kneecap"}, ""),
        ("beef-rump", {"find": "the kneecap"}, "names what is not drawn: kneecap"),
        ("beef-rump", {"find": "the kneecap, not seen here"}, ""),
        ("beef-rump", {"do": "across its own grain", "touches": ["split"]}, "grain of nothing"),
        ("pork-side", {"do": "part them", "touches": ["leg-off"]}, "does not say that leg-off is"),
        ("pork-side", {"machine": "saw", "touches": ["leg-off"]}, ""),
    ],
)
def test_a_step_that_says_what_is_not_drawn_is_told(key, change, says):
    step = {"key": "step", "title": "", "find": "", "do": "", "machine": "", "touches": []}
    told = drawn_faults(
        key, drawing_of(key, PIECES[key]["drawing"]), [SimpleNamespace(**{**step, **change})]
    )
    assert (says in told[0]) if says else told == []


def test_the_same_muscles_lie_alike_in_rump_and_top_sirloin():
    """Docs/decisions/0040: one leg, so the same ends, cap, gland and fibers."""
    rump, sirloin = drawings()["beef-rump"], drawings()["beef-top-sirloin"]
    assert rump.ends == sirloin.ends
    one, other = ({region.key: region for region in each.regions} for each in (rump, sirloin))
    for key in ("cap", "gland"):
        assert (one[key].outlines, one[key].grain) == (other[key].outlines, other[key].grain)
    assert one["eye"].grain == other["centre-eye"].grain
    assert one["side"].grain == other["centre-side"].grain


ALL_DRAWINGS = {
    **drawings(),
    **sides(),
    **{key: drawing_of(key, piece["drawing"]) for key, piece in PIECES.items()},
}


@pytest.mark.parametrize("key", some_often(ALL_DRAWINGS))
@pytest.mark.parametrize(
    "glass",
    [
        pytest.param(WIDE, id="wide"),
        pytest.param(NARROW, id="narrow", marks=pytest.mark.long),
    ],
)
def test_every_name_is_there_once_in_the_frame_and_on_no_other(key, glass):
    drawing = ALL_DRAWINGS[key]
    numbers = {line.key: i for i, line in enumerate(drawing.lines, start=1)}
    found = lay_out(drawing, glass, numbers=numbers)
    named = [p.text for p in found.plates] + [one.text for one in found.labels]
    named += [text for _, text in found.key]
    wanted = [
        part.label
        for part in drawing.parts
        if part.label and getattr(part, "kind", None) is not Kind.GROUND
    ]
    assert sorted(named) == sorted(wanted)
    size = glass.size
    boxes = [(p.left, p.top, p.left + p.width, p.top + p.height) for p in found.plates]
    boxes += [(o.x - o.width / 2, o.y - size, o.x + o.width / 2, o.y) for o in found.labels]
    for left, top, right, bottom in boxes:
        assert -1 <= left < right <= glass.width + 1
        assert 0 <= top < bottom <= found.height
    for a, b in combinations(boxes, 2):
        over = min(a[2], b[2]) - max(a[0], b[0]), min(a[3], b[3]) - max(a[1], b[1])
        assert min(over) <= 1, (a, b)
    badges = [*found.letters, *found.numbers]
    for one, other in combinations(badges, 2):
        assert math.hypot(one.x - other.x, one.y - other.y) > 1.9 * found.radius, (one, other)
    for badge in badges:
        assert 0.9 * found.radius <= badge.x <= glass.width - 0.9 * found.radius
        assert not any(
            abs(p.x - badge.x) < p.width / 2 + 0.5 * found.radius
            and abs(p.y - badge.y) < p.height / 2 + 0.5 * found.radius
            for p in found.plates
        ), badge


@EACH_PIECE
def test_every_product_has_a_step_and_every_steps_product_is_an_output(key):
    piece = PIECES[key]
    assert checking.pairing(piece) == []
    assert all(any(o.get("made_by") for o in plan["outputs"]) for plan in piece["plans"])


def share_of(piece, plan, *names):
    """What a plan gives of these outputs, of everything that is sold ("sold"), or of trim and fat
    ("waste"), in percent."""
    outputs = next(p for p in PIECES[piece]["plans"] if p["key"] == plan)["outputs"]
    products = (Pile.PORTIONS, Pile.SECONDARY)
    found = [
        Decimal(o["share"])
        for o in outputs
        if o["name"] in names
        or ("sold" in names and (o["pile"] in products or o.get("in_case")))
        or ("waste" in names and o["pile"] not in products)
    ]
    assert found
    return sum(found) * 100


WEIGHED = [
    ("beef-top-sirloin", "halves", ["Center steak", "Cap steak"], 77),
    ("beef-tenderloin-full", "centre-filets-7oz", ["Center filet"], 42),
    ("beef-tenderloin-full", "centre-filets-7oz", ["Tips"], 22),
    ("beef-tenderloin-full", "centre-filets-7oz", ["waste"], 36),
    ("beef-knuckle", "basic", ["sold"], 99),
    ("beef-knuckle", "seamed-steaks", ["sold"], 99),
    ("beef-bottom-round", "roasts", ["sold"], 95),
    ("beef-bottom-round", "western", ["sold"], 95),
    ("beef-shoulder-clod", "basic", ["sold"], 87),
    ("beef-shoulder-clod", "merchandised", ["sold"], 89),
    ("beef-rib", "mixed", ["Three-bone roast"], 34),
    ("beef-rib", "mixed", ["Thick bone-in steak"], 12),
    ("beef-rib", "mixed", ["Kebab and stir-fry"], 5),
    ("beef-rib", "mixed", ["Rib filet"], 12),
]


@pytest.mark.parametrize(("piece", "plan", "names", "percent"), WEIGHED)
def test_a_share_is_within_two_points_of_what_was_weighed(piece, plan, names, percent):
    """Common practice, no published source."""
    assert abs(share_of(piece, plan, *names) - percent) <= 2


def test_a_plans_note_agrees_with_its_shares():
    told = 0
    for key, piece in PIECES.items():
        for plan in piece["plans"]:
            note = plan.get("note", "")
            steaks = re.search(r"About ([0-9]+) % of the piece as steaks", note)
            sold = re.search(r"([0-9]+)(?: to ([0-9]+))? % goes to the case", note)
            if steaks:
                told += 1
                given = share_of(key, plan["key"], "Center steak", "Cap steak")
                assert abs(given - int(steaks[1])) <= 2, (key, plan["key"])
            if sold:
                told += 1
                least, most = int(sold[1]), int(sold[2] or sold[1])
                assert least - 1 <= share_of(key, plan["key"], "sold") <= most + 1, (key, plan)
            assert bool(re.search(r"[0-9] %", note)) is bool(steaks or sold), (key, plan["key"])
    assert told >= 6


def steps(piece, plan):
    found = PIECES[piece]["steps"]
    return [step["key"] for step in found if plan in step.get("plans", [plan])]


@pytest.mark.parametrize(
    ("piece", "plan", "order"),
    [
        ("beef-rib-to-bone", "cap-off", "outer-cap mark-chine backstrap ribs fingers again square"),
        ("beef-rib", "mixed", "hard-fat three-bones thick-steak outer-fat cap"),
        ("beef-rib", "apart", "cap cap-roll complexus tail back-ribs filets"),
        ("beef-tenderloin", "centre-filets-7oz", "fat chain tail filets head"),
        (
            "pork-loin-bone-in",
            "back-ribs",
            "fat-off tenderloin sirloin back-ribs vertebra membrane",
        ),
        ("pork-loin-bone-in", "country-style", "fat-off tenderloin sirloin country back-ribs"),
        ("beef-shoulder-clod", "merchandised", "gristle inside-membrane top-clod ranch"),
        ("beef-chuck-roll", "seam", "face hump split eye-steaks middle flat eye-roast"),
        ("beef-top-sirloin", "mixed", "side-muscles gland full-first cap cap-steaks portion"),
        ("beef-knuckle", "mixed", "fat straight-first open-inside centre centre-steaks"),
        ("lamb-shoulder-pair", "rolled", "neck from-the-pair sheet shank open gland roll"),
    ],
)
def test_steps_come_in_the_order_of_the_trade(piece, plan, order):
    """Common practice, no published source."""
    wanted = order.split()
    assert [key for key in steps(piece, plan) if key in wanted] == wanted


def test_what_was_named_wrongly_is_named_right():
    """Common practice, no published source."""
    assert CUTS["lamb-fore-shank"]["muscle"] == "fore-shank-muscles"
    assert "D-rump" in PIECES["beef-top-sirloin"]["synonyms"]
    assert not any("D-rump" in str(v) for k, v in PIECES["beef-rump"].items() if "source" not in k)
    assert "flank" not in PIECES["beef-tri-tip"]["place"].split("not")[0]
    ribeye = {part["key"]: part.get("muscle") for part in PIECES["beef-ribeye"]["drawing"]["parts"]}
    assert ribeye["lip"] == "iliocostalis"
    assert "rhomboideus" not in drawings()["beef-under-blade"].muscles
    assert CUTS["beef-under-blade-steak"]["least_age_days"] == 14
    for braised in ("beef-pot-roast", "beef-boneless-short-ribs", "beef-chuck-eye-steak"):
        assert "least_age_days" not in CUTS[braised]
    mince = [
        output
        for plan in PIECES["beef-rib-to-bone"]["plans"]
        for output in plan["outputs"]
        if "Outer cap, to mince" in output["name"]
    ]
    assert {output["cut"] for output in mince} == {"beef-ground"}
    whole = [o for p in PIECES["beef-short-loin"]["plans"] for o in p["outputs"]]
    assert {o["cut"] for o in whole if o["name"] == "Strip loin"} == {"beef-strip-whole"}


def test_a_step_at_the_saw_has_its_caution_and_its_dust_wiped():
    for key, piece in PIECES.items():
        for step in piece["steps"]:
            if step.get("machine") == "saw":
                assert "Saw" in step["caution"], (key, step["key"])
                assert "ust" in step.get("check", ""), (key, step["key"])


def test_where_the_trade_disagrees_a_piece_has_both_schools():
    for key, piece in PIECES.items():
        ways = {}
        for step in piece["steps"]:
            if step.get("school"):
                rule, choice = step["school"].split("/")
                ways.setdefault(rule, set()).add(choice)
        assert all(len(choices) == 2 for choices in ways.values()), (key, ways)


def test_every_muscle_is_used_and_every_cut_is_given_by_a_plan():
    given = {
        output.get("cut")
        for piece in PIECES.values()
        for plan in piece["plans"]
        for output in plan["outputs"]
    }
    assert set(CUTS) <= given
    drawn = {muscle for drawing in ALL_DRAWINGS.values() for muscle in drawing.muscles}
    parts = {key for key, muscle in MUSCLES.items() if muscle.get("kind") == "part"}
    assert set(MUSCLES) - parts <= drawn | {cut["muscle"] for cut in CUTS.values()}
    assert all(MUSCLES[key]["note"] for key in parts)


def test_the_same_four_muscles_lie_round_the_leg_bone_of_every_animal():
    """Common practice, no published source."""
    four = {"semimembranosus", "biceps-femoris", "semitendinosus"}
    assert four < drawings()["section-leg"].muscles
    for species in ("beef", "pork", "lamb"):
        assert four <= {cut["muscle"] for cut in CUTS.values() if cut["species"] == species}


@pytest.mark.parametrize("species", ["beef", "pork", "lamb"])
def test_the_animals_side_has_an_area_for_each_of_its_primals(species):
    primals = {k for k, p in CATALOG["primals"].items() if p["species"] == species}
    areas = {region.key for region in sides()[species].regions if region.kind is Kind.AREA}
    assert areas == primals
    assert {p["primal"] for p in PIECES.values() if p["species"] == species} <= primals


def test_a_plan_goes_on_into_a_plan_of_a_piece_of_its_animal_and_none_comes_back():
    links = goes_on_in(CATALOG)
    assert {key for key, others in links.items() if others} >= {"beef-hindquarter/by-seams"}
    for key, others in links.items():
        for other in others:
            piece, _, plan = other.partition("/")
            assert plan in [one["key"] for one in PIECES[piece]["plans"]], other
            assert PIECES[piece]["species"] == PIECES[key.partition("/")[0]]["species"]
    assert comes_back(links) == ()


def test_every_area_of_an_animal_has_a_piece():
    areas = {region.key for side in sides().values() for region in side.regions if region.label}
    assert areas == {piece["primal"] for piece in PIECES.values()}


def test_the_hand_made_drawings_and_the_families_are_in_use():
    used = [piece["drawing"] for piece in PIECES.values()]
    assert {
        "beef-rib",
        "beef-chuck-roll",
        "beef-shoulder-clod",
        "beef-top-sirloin",
        "beef-tenderloin",
        "beef-knuckle",
        "pork-leg",
        "lamb-leg",
        "pork-shoulder",
        "pork-side",
        "lamb-shoulder",
        "lamb-shoulder-pair",
        "beef-hindquarter",
        "beef-short-loin",
        "beef-rib-to-bone",
        "beef-rump",
        "beef-top-round",
        "beef-bottom-round",
        "beef-under-blade",
        "pork-loin-bone-in",
        "pork-belly",
        "pork-spare-ribs",
        "lamb-rack",
    } <= {one for one in used if isinstance(one, str)}
    assert {Family(one["family"]) for one in used if "family" in one} >= set(LOOKS) - {Family.JOINT}


def test_linked_products_name_cuts_and_pieces_that_are_there():
    for link in links().values():
        assert set(link["pieces"]) <= set(PIECES)
        assert {side["cut"] for side in (*link["givers"], *link["takers"])} <= set(CUTS)


def spoiled(change):
    document = {
        **CATALOG,
        "pieces": {k: dict(v) for k, v in PIECES.items()},
        "cuts": {k: dict(v) for k, v in CUTS.items()},
    }
    change(document)
    return [str(fault) for fault in checking.faults(document)]


def _two_plans(document, **output):
    piece = document["pieces"]["beef-flank"]
    piece["plans"] = [
        {
            **piece["plans"][0],
            "outputs": [{"name": "A", "pile": "lean", "share": "0.7"}, {"pile": "lean", **output}],
        }
    ]


def _put(document, table, key, **fields):
    document[table][key].update(fields)


@pytest.mark.long
@pytest.mark.parametrize(
    ("change", "says"),
    [
        (lambda d: _two_plans(d, name="B", share="0.4"), "shares sum to 1.1"),
        (lambda d: _two_plans(d, name="a "), "there twice"),
        (lambda d: _two_plans(d, name="B", cut="gold"), "no cut 'gold'"),
        (lambda d: _put(d, "cuts", "beef-stew", muscle="wing"), "'wing' is no muscle"),
        (lambda d: d["cuts"].update(new=CUTS["beef-stew"]), "cuts.new: this key is a page's own"),
        (lambda d: d["pieces"].update(find=PIECES["beef-rib"]), "pieces.find"),
        (lambda d: _put(d, "cuts", "beef-stew", item_number="12"), "like 184, 116A"),
        (lambda d: _put(d, "pieces", "beef-rib", drawing="a-fish"), "no drawing 'a-fish'"),
        (lambda d: _put(d, "pieces", "beef-rib", primal="moon"), "'moon' is no primal"),
        (lambda d: _put(d, "pieces", "beef-rib", drawing={"family": "ball", "parts": []}), "ball"),
        (
            lambda d: _put(
                d, "pieces", "beef-rib", drawing={"of": "beef-rib", "without": ["nose"]}
            ),
            "nose",
        ),
        (
            lambda d: _put(
                d,
                "pieces",
                "beef-flank",
                drawing={**PIECES["beef-flank"]["drawing"], "ends": {"left": 5}},
            ),
            "5; string is right",
        ),
        (
            lambda d: _put(
                d,
                "pieces",
                "beef-flank",
                drawing={
                    **PIECES["beef-flank"]["drawing"],
                    "parts": [
                        {"key": "a", "grain": "north", "muscle": "spinalis", "box": "0 1 0 1"}
                    ],
                },
            ),
            "'north' is no angle",
        ),
        (lambda d: d["pieces"]["beef-rib"].pop("plans"), "plans is missing"),
        (
            lambda d: _put(
                d,
                "pieces",
                "beef-rib",
                steps=[{**PIECES["beef-rib"]["steps"][0], "touches": ["nose"]}],
            ),
            "nose",
        ),
        (
            lambda d: _put(
                d,
                "pieces",
                "beef-rib",
                steps=[{**PIECES["beef-rib"]["steps"][0], "piles": ["sock"]}],
            ),
            '"sock"; portions, ',
        ),
    ],
)
def test_a_fault_is_named_with_its_place_and_what_is_right(change, says):
    assert says in " ".join(spoiled(change))


# --- a drawing that has no fault can be drawn ---

WILD = {
    "grain": ["north", "nan", "1e400", ">", "-90>-80", "60>120", "inf"],
    "tone": [0, 5],
    "box": ["", "0 1 0 0.5 0.4 1", "0 1 nan 1", "0 1 0 inf", "0 1", "1 0 0 1", "0 1.4 0 1"],
    "slot": ["strip", "tail", "above-left", "bone", "nose"],
    "muscle": ["wing", "spinalis"],
    "kind": ["fat", "bone", "ghost"],
    "label": ["", "x" * 60, "<b>&", "x" * 61],
    "thick": ["right", "up"],
    "taper": [0, 0.9, 1.5, "x"],
    "bones": [0, 13, 99, 2.5],
    "ends": [{}, {"left": "head", "top": "up"}, {"north": "n"}, {"left": 5}],
    "view": ["", 5],
    "cuts": [[{"key": "cut", "at": at}] for at in (0, 0.5, -9, None, "x")],
    "seams": [[{"key": "seam", "along": 0.4, "from": start}] for start in (0.3, 1, 9)],
}
OF_A_PART = ("grain", "tone", "box", "slot", "muscle", "kind", "label")


@st.composite
def strange_drawings(draw):
    """A right drawing of any family with a few fields changed, some for good, some for bad."""
    count = draw(st.integers(1, 3))
    family = draw(st.sampled_from([*Family]))
    drawing = {
        "family": str(family),
        "parts": [
            {
                "key": f"p{i}",
                "muscle": "spinalis",
                "box": f"0 1 {i / count} {(i + 1) / count}",
                **({"slot": "strip"} if family is Family.LOIN else {}),
            }
            for i in range(count)
        ],
    }
    for name in draw(st.lists(st.sampled_from(sorted(WILD)), max_size=3)):
        where = draw(st.sampled_from(drawing["parts"])) if name in OF_A_PART else drawing
        where[name] = draw(st.sampled_from(WILD[name]))
    return drawing


@pytest.mark.long
@given(strange_drawings())
@settings(max_examples=25)
def test_whatever_has_no_fault_can_be_drawn_on_a_page(drawing):
    is_drawn_or_at_fault(drawing)


@pytest.mark.long
@given(strange_drawings())
@settings(max_examples=1500)
def test_whatever_has_no_fault_can_be_drawn_on_a_page_many_times_over(drawing):
    is_drawn_or_at_fault(drawing)


def is_drawn_or_at_fault(drawing):
    piece = {"name": "P", "species": "beef", "primal": "beef-rib", "plans": [], "drawing": drawing}
    found = checking.faults({**CATALOG, "cuts": {}, "pieces": {"p": piece}})
    event("faults" if found else "drawn")
    if found:
        assert all(fault.path.startswith("pieces.p") for fault in found)
        return
    view = SeamView(drawing_of("p", drawing), frozenset({"p0"}), {"cut": 1})
    assert view.drawing.shapes
    assert len(view.widths) == 2
    assert "nan" not in seam_shapes(view)
