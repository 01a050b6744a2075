"""The typeface on paper: letters of other scripts print, and nothing is read as a tag."""

import hashlib
import io
import json

import pypdf
import pytest
from reportlab.pdfgen.canvas import Canvas

from rooms.common.paper.rails import Face, Pen
from rooms.common.paper.typeface import FONTS, markup, runs, width_of

VENDORED = json.loads((FONTS / "vendor.json").read_text())


@pytest.mark.parametrize("entry", VENDORED, ids=lambda entry: entry["file"])
def test_the_faces_are_what_they_say_and_carry_their_licence(entry):
    path = FONTS / entry["file"]
    assert hashlib.sha256(path.read_bytes()).hexdigest() == entry["sha256"]
    assert len((path.parent / "LICENSE").read_text()) > 300


@pytest.mark.parametrize(
    ("text", "fonts"),
    [
        ("Côte 4.20 − 3 × 1", ["latin-400"]),
        ("Łódź", ["latin-ext-400", "latin-400", "latin-ext-400"]),
        ("Σολομός", ["DejaVuSans"]),
        ("Говядина", ["DejaVuSans"]),
        ("牛肉", ["STSong-Light"]),
        ("ヒレ", ["HeiseiKakuGo-W5"]),
        ("안심", ["HYGothic-Medium"]),
        ("", []),
    ],
)
def test_each_letter_comes_from_the_first_face_that_has_it(text, fonts):
    found = runs(text)
    assert [name for name, _ in found] == fonts
    assert "".join(piece for _, piece in found) == text


def test_what_is_printed_can_be_read_again():
    """Embedded, with its letters named: a reader of the file finds the words."""
    out = io.BytesIO()
    canvas = Canvas(out, invariant=1)
    words = ["Tenderloin, 6.17 lb", "Łódka", "Говядина", "7 → 8 ≠ 9"]
    for at, text in enumerate(words):
        Pen(canvas, 800).text((40, 40 + 20 * at), text, Face(bold=at % 2 == 1))
    canvas.save()
    page = pypdf.PdfReader(io.BytesIO(out.getvalue())).pages[0]
    printed = "".join(page.extract_text().split())
    assert all("".join(text.split()) in printed for text in words)
    fonts = [font.get_object() for font in page["/Resources"]["/Font"].values()]
    assert all("/FontFile2" in font["/FontDescriptor"] for font in fonts if "/ToUnicode" in font)


def test_a_name_is_no_tag_and_anchors_measure_all_its_faces():
    assert markup("<b>&") == '<font name="latin-400">&lt;b&gt;&amp;</font>'
    assert width_of("ab", 10) == width_of("a", 10) + width_of("b", 10)
    assert width_of("牛", 10) > 0
