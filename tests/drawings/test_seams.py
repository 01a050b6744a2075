"""Outlines, fibres, families and lettering of the seam drawings; checked against shapely."""

import math
from itertools import combinations, pairwise

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from shapely import LineString, Point, Polygon, box

from cutting.errors import BadValue
from drawings.families import Along, Family, FamilyPart, Spec, draw
from drawings.lettering import text_width
from drawings.seam_lettering import NARROW, WIDE, Frame, lay_out
from drawings.seams import Drawing, Kind, LineKind, Region, SeamLine
from drawings.shapes import (
    Grain,
    area,
    brief,
    centre,
    crossings,
    curve,
    distance,
    fibres,
    inside,
    middle_of,
    read_points,
    spot,
)


@st.composite
def outlines(draw):
    """Round pieces with bumps: no line crosses itself."""
    count = draw(st.integers(5, 12))
    rx, ry = draw(st.floats(40, 300)), draw(st.floats(40, 200))
    points = []
    for i in range(count):
        out = draw(st.floats(0.7, 1.2))
        turn = 2 * math.pi * i / count
        corner = draw(st.sampled_from(["", "", "!"]))
        x, y = 400 + rx * out * math.cos(turn), 300 + ry * out * math.sin(turn)
        points.append(f"{x:.1f},{y:.1f}{corner}")
    return " ".join(points)


@given(outlines())
def test_area_centre_inside_distance_and_crossings_agree_with_shapely(text):
    line = curve(text, closed=True)
    shape = Polygon(line.points)
    assert math.isclose(area(line.points), shape.area, rel_tol=1e-9)
    if shape.is_valid:
        assert math.dist(centre(line.points), (shape.centroid.x, shape.centroid.y)) < 1e-6
    for x, y in ((400.0, 300.0), (410.3, 355.7), (900.0, 0.0)):
        if shape.boundary.distance(Point(x, y)) > 1e-6:
            assert inside(line.points, x, y) is shape.contains(Point(x, y))
        assert math.isclose(distance(line.points, x, y), shape.boundary.distance(Point(x, y)))
    met = crossings(line.points, 401.37)
    upright = shape.boundary.intersection(LineString([(401.37, -999), (401.37, 999)]))
    assert len(met) == len(getattr(upright, "geoms", [upright]))


@given(outlines())
def test_an_outline_goes_through_its_points_and_its_path_ends_where_it_began(text):
    line = curve(text, closed=True)
    assert line.path.startswith("M")
    assert line.path.endswith("Z")
    for x, y, _ in read_points(text):
        assert min(math.dist((x, y), point) for point in line.points) < 1e-6


@pytest.mark.long
@given(outlines(), st.integers(-90, 90), st.integers(-60, 60))
def test_every_fibre_lies_inside_and_along_the_grain(text, start, turn):
    line = curve(text, closed=True)
    grain = Grain(start, start + turn)
    shape = Polygon(line.points)
    assume(shape.is_valid)  # of an outline that crosses itself shapely knows no inside
    left, right, _, _ = line.box
    found = fibres(line, grain)
    assert found
    for x, y, dx, dy in found:
        assert shape.buffer(0.5).contains(Point(x, y))
        assert shape.buffer(0.5).contains(Point(x + dx, y + dy))
        wanted = grain.at((x + dx / 2 - left) / (right - left))
        off = math.atan2(dy, dx) - wanted
        assert abs(math.sin(off)) < 1e-6


@given(outlines(), st.floats(10, 120), st.floats(10, 60))
@settings(max_examples=30)
def test_a_spot_has_room_for_its_box_and_a_middle_is_inside(text, width, height):
    line = curve(text, closed=True)
    shape = Polygon(line.points).buffer(0)
    found = spot(line.points, width, height)
    if found is not None:
        x, y = found
        place = box(x - width / 2, y - height / 2, x + width / 2, y + height / 2)
        assert place.difference(shape).area < 0.02 * place.area
    assert shape.contains(Point(middle_of(line.points)))


@pytest.mark.parametrize(
    ("text", "says"),
    [("", "few"), ("1,2", "few"), ("1,2 3", "'3' is no point"), ("a,b c,d", "a,b")],
)
def test_a_wrong_outline_is_named(text, says):
    with pytest.raises(BadValue, match=says):
        curve(text, closed=True)


@pytest.mark.parametrize(
    ("number", "text"), [(12.04, "12"), (0.26, "0.3"), (-3.95, "-4"), (7, "7")]
)
def test_numbers_are_brief(number, text):
    assert brief(number) == brief(float(text))


# --- families ---


@st.composite
def specs(draw):
    """Bands of a family from top to bottom, none on another."""
    family = draw(st.sampled_from([f for f in Family if f is not Family.LOIN]))
    edges = sorted(draw(st.lists(st.integers(1, 19), min_size=1, max_size=4, unique=True)))
    marks = [0, *edges, 20]
    parts = [
        FamilyPart(
            f"p{i}",
            f"muscle {i}",
            "m",
            f"0 1 {a / 20 + 0.01} {b / 20}",
            grain=str(draw(st.integers(-90, 90))),
        )
        for i, (a, b) in enumerate(pairwise(marks))
        if b > a
    ]
    lines = [Along("cut", draw(st.floats(0.1, 0.9)), 0.5, -0.1, 1.1, label="cut here")]
    thick, bones = draw(st.sampled_from(["left", "right"])), draw(st.integers(0, 13))
    return Spec(family, "side", parts, lines, {"left": "head", "right": "tail"}, thick, bones=bones)


@pytest.mark.long
@given(specs(), st.sampled_from([WIDE, NARROW, Frame(310.0, 13.0)]), st.integers(0, 4))
@settings(max_examples=60)
def test_a_family_keeps_its_parts_apart_and_every_name_once_on_none_other(spec, glass, lit):
    drawing = draw("piece", spec)
    meat = [Polygon(r.largest.points).buffer(0) for r in drawing.regions if r.kind is Kind.MUSCLE]
    for one, other in combinations(meat, 2):
        assert one.intersection(other).area < 0.05 * min(one.area, other.area)
    ground = Polygon(drawing.regions[0].largest.points).buffer(2)
    assert all(shape.difference(ground).area < 0.02 * shape.area for shape in meat)
    found = lay_out(drawing, glass, {f"p{lit}"}, {"cut": 1})
    named = [p.text for p in found.plates] + [x.text for x in found.labels]
    named += [text for _, text in found.key]
    assert sorted(named) == sorted(part.label for part in drawing.parts if part.label)
    boxes = [box(p.left, p.top, p.left + p.width, p.top + p.height) for p in found.plates]
    boxes += [
        box(x.x - x.width / 2, x.y - glass.size, x.x + x.width / 2, x.y) for x in found.labels
    ]
    for one, other in combinations(boxes, 2):
        assert one.intersection(other).area < 2
    frame = box(-1, -1, glass.width + 1, found.height + 1)
    assert all(frame.contains(one) for one in boxes)
    assert all(p.is_lit is (p.text == f"muscle {lit}") for p in found.plates)


def test_a_loin_shows_its_face_and_itself_from_above():
    spec = Spec(
        Family.LOIN,
        "face",
        [
            FamilyPart("bone", slot="bone", label="bone"),
            FamilyPart("eye", "eye", "m", slot="strip"),
            FamilyPart("filet", "filet", "n", slot="tenderloin"),
            FamilyPart("end", "end", "m", slot="above-right"),
        ],
        [Along("chops", 0.4, 0.4, 0, 1)],
    )
    drawing = draw("loin", spec)
    eye = next(r for r in drawing.regions if r.key == "eye")
    assert len(eye.outlines) == 2
    assert drawing.muscles == {"m", "n"}
    assert drawing.keys >= {"bone", "eye", "filet", "end", "chops"}


@pytest.mark.parametrize(
    ("spec", "says"),
    [
        (Spec(Family.ROLL, "v", []), "no parts"),
        (Spec(Family.ROLL, "v", [FamilyPart("a", muscle="m", box="0 1 1 0")]), "part a"),
        (Spec(Family.ROLL, "v", [FamilyPart("a", muscle="m", box="0 1")]), "like 0 0.5 0 1"),
        (Spec(Family.ROLL, "v", [FamilyPart("a", box="0 1 0 1")]), "no muscle"),
        (
            Spec(Family.ROLL, "v", [FamilyPart("a", muscle="m", box="0 1 0 1", grain="x")]),
            "no angle",
        ),
        (Spec(Family.LOIN, "v", [FamilyPart("a", muscle="m", slot="nose")]), "slot 'nose'"),
        (Spec(Family.SLAB, "v", [FamilyPart("a", muscle="m", box="0 1 0 1")] * 2), "twice"),
    ],
)
def test_a_wrong_part_is_named(spec, says):
    with pytest.raises(BadValue, match=says):
        draw("piece", spec)


def test_a_drawing_names_only_its_four_sides():
    region = Region("a", Kind.FAT, ("0,0 9,0 9,9",))
    with pytest.raises(BadValue, match="north"):
        Drawing("d", "v", 10, 10, (region,), ends={"north": "head"})


end_names = st.text("abc def (hip end)", min_size=1, max_size=60)


@given(
    st.fixed_dictionaries({"left": end_names, "right": end_names, "bottom": end_names}),
    st.sampled_from([WIDE, NARROW, Frame(270.0, 11.0)]),
)
def test_the_name_of_an_end_stays_at_its_side_and_on_none_other(ends, glass):
    region = Region("a", Kind.FAT, ("0,0 300,0 300,90",))
    found = lay_out(Drawing("d", "v", 300, 90, (region,), ends=ends), glass)
    assert [(one.anchor, one.x) for one in found.ends] == [
        ("start", 0.0),
        ("end", glass.width),
        ("middle", glass.width / 2),
    ]
    boxes = []
    for one in found.ends:
        wide = text_width(one.text, glass.size)
        left = one.x - wide * {"start": 0, "middle": 0.5, "end": 1}[one.anchor]
        boxes.append(box(left, one.y - glass.size, left + wide, one.y))
    frame = box(-1, 90 * found.scale, glass.width + 1, found.height)
    assert all(frame.contains(one) for one in boxes)
    assert all(one.intersection(other).area == 0 for one, other in combinations(boxes, 2))


def test_at_the_block_only_what_is_lit_is_named_outside():
    tiny = [
        Region(
            f"r{i}",
            Kind.FAT,
            (f"{i * 60},40 {i * 60 + 20},40 {i * 60 + 20},60",),
            label=f"small thing {i}",
        )
        for i in range(1, 6)
    ]
    lines = (SeamLine("cut", LineKind.CUT, "5,5 5,90", "cut here"),)
    drawing = Drawing("d", "v", 400, 100, tuple(tiny), lines)
    all_of_it, glance = (lay_out(drawing, NARROW, {"r2"}, only_lit=only) for only in (False, True))
    assert len(all_of_it.key) + len(all_of_it.labels) == 6
    assert [text for _, text in glance.key] + [one.text for one in glance.labels] == [
        "small thing 2"
    ]
