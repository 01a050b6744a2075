"""Every code that is drawn is read again by a decoder that did not draw it; nothing runs over the edge."""

import io
from dataclasses import replace
from datetime import date
from decimal import Decimal

import pypdfium2
import pytest
import zxingcpp
from biip.gs1_messages import GS1Message
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from stdnum import ean

from cutting.labels.codes import StoreCode, check_digit
from cutting.labels.tray_label import SAFE_HANDLING, Product, TrayLabel, label_codes, lines_of
from cutting.quantities import UnitPrice, Weight
from drawings.icons import ICONS, icon_of
from drawings.label import (
    DOTS,
    ICON_SIDES,
    SIZES,
    Stock,
    carries_handling,
    duties_left,
    label_picture,
    second_picture,
    wrapped,
)
from drawings.lettering import text_width
from drawings.tag import CaseLines, TagLines, card_picture, case_picture, tag_picture
from rooms.common.paper.barcodes import case_code, left_to_qr, symbols_of
from rooms.common.paper.labels import KINDS, as_pdf, as_png, draw, drawn_as, picture_of

D = Decimal
GTIN = "200000012345" + check_digit("200000012345")
PIXELS = 10
"""A millimetre of a rendered PDF."""
LARGEST_PNG = 40 * 1024


def label(**more):
    product = Product(
        more.pop("name", "Flat iron steak"),
        "beef",
        UnitPrice.of(more.pop("price", "12.99"), "lb"),
        "Top blade",
        gtin=more.pop("gtin", GTIN),
        item="12345",
    )
    usual = {
        "product": product,
        "gross": Weight.of("1.28", "lb"),
        "tare": Weight.of("0.04", "lb"),
        "division": Weight.of("0.01", "lb"),
        "packed_on": date(2026, 11, 26),
        "sell_by": date(2026, 11, 29),
        "lot": "L9427",
        "serial": "70193",
        "country": "US",
        "shop_name": "Gull Quay Co-operative",
        "shop_place": "Gull Quay",
        "link": "https://shop.example",
    }
    return TrayLabel(**usual | more)


def rendered(pdf):
    page = pypdfium2.PdfDocument(pdf)[0]
    return page.render(scale=PIXELS * 25.4 / 72).to_pil().convert("L")


def read_back(image):
    return {one.format.name: one.text for one in zxingcpp.read_barcodes(image)}


KINDS_OF_CODE = [
    (StoreCode.PRICE_13, "EAN13"),
    (StoreCode.PRICE_12, "EAN13"),
    (StoreCode.WEIGHT_13, "EAN13"),
    (None, "DataBar"),
]


@pytest.mark.parametrize("stock", list(Stock))
@pytest.mark.parametrize(("code", "kind"), KINDS_OF_CODE)
def test_every_code_is_read_back_from_png_and_pdf(stock, code, kind):
    own = label(code=code)
    picture = picture_of(own, stock)
    png = as_png(picture)
    assert len(png) < LARGEST_PNG
    codes = {one.kind: one.content for one in label_codes(own)}
    for image in (Image.open(io.BytesIO(png)).convert("L"), rendered(as_pdf([picture]))):
        found = read_back(image)
        assert "qr" in picture.left_out or found["QRCode"] == codes["qr"]
        if "databar" in picture.left_out:
            assert (stock, "qr" in picture.left_out) == (Stock.SMALL, False)
            continue
        bars = next(text for name, text in found.items() if name.startswith(kind))
        if kind == "EAN13":
            digits = codes.get("ean13") or codes["upc12"]
            assert bars.zfill(13) == digits.zfill(13)
            assert ean.is_valid(bars)
        else:
            message = GS1Message.parse_hri(bars)
            values = {one.ai.ai: one for one in message.element_strings}
            assert values["01"].gtin.as_gtin_14() == GTIN.zfill(14)
            assert values["3202"].decimal == D("1.24")
            assert values["16"].date == date(2026, 11, 29)
            assert values["21"].value == "70193"


def test_what_the_bar_code_does_not_carry_is_left_to_the_qr():
    assert left_to_qr(label()) == ["13", "422", "10"]
    assert left_to_qr(label(gtin="")) == []


def test_a_case_has_its_code_128():
    symbol = case_code(f"(01){GTIN.zfill(14)}(3102)000124(10)L9427")
    image = Image.new("L", (round(symbol.width * 2) + 80, 160), 255)
    for x, y, width, height in symbol.bars:
        box = (40 + x * 2, 20 + y * 2, 40 + (x + width) * 2, 20 + (y + height) * 2)
        image.paste(0, tuple(round(one) for one in box))
    (found,) = zxingcpp.read_barcodes(image)
    assert found.text == f"(01){GTIN.zfill(14)}(3102)000124(10)L9427"


NAMES = st.text(
    alphabet=st.characters(min_codepoint=33, max_codepoint=0x4FF, categories=("Lu", "Ll", "Nd")),
    min_size=1,
    max_size=60,
)


@settings(max_examples=40, deadline=None)
@given(NAMES, st.sampled_from(list(Stock)), st.booleans(), st.booleans())
def test_nothing_runs_over_the_edge_or_over_a_code(name, stock, tenderized, frozen):
    own = label(name=name, tenderized=tenderized, frozen_before=frozen, code=StoreCode.PRICE_13)
    picture = picture_of(own, stock)
    size = SIZES[stock]
    for bar in picture.bars:
        assert bar.x >= 0
        assert bar.x + bar.width <= size.width + 1e-6
        assert bar.y + bar.height <= size.height + 1e-6
    drawn = [bar for bar in picture.bars if bar.width < size.width / 2 and bar.height < 20]
    for words in picture.words:
        assert words.y <= size.height - 1
        if words.anchor == "start":
            right = words.x + text_width(words.text, words.size)
            assert right <= size.width + 0.5
            top = words.y - words.size * 0.7
            for bar in drawn:
                is_beside = right <= bar.x + 0.5 or words.x >= bar.x + bar.width - 1e-6
                assert is_beside or words.y <= bar.y + 0.5 or top >= bar.y + bar.height - 1.5


def handling_on(picture):
    words = " ".join(one.text for one in picture.words)
    return all(text.split(".")[0] in words for text in SAFE_HANDLING[2:])


@pytest.mark.parametrize("more", [{}, {"tenderized": True, "frozen_before": True}])
def test_safe_handling_stands_on_the_label_or_on_one_beside_it(more):
    """9 CFR 317.2(l); value from memory."""
    own = label(code=StoreCode.PRICE_13, **more)
    lines = lines_of(own, ["Serves 2."])
    for stock in (Stock.MIDDLE, Stock.LARGE):
        first = label_picture(lines, symbols_of(own, stock), stock)
        left = duties_left(lines, first)
        if not left:
            assert handling_on(first)
            continue
        second = second_picture(lines, stock, left)
        assert second.left_out == ()
        assert handling_on(second)
    assert carries_handling(SAFE_HANDLING, Stock.MIDDLE)
    assert not carries_handling(SAFE_HANDLING, Stock.SMALL)


def test_what_a_rule_asks_for_goes_before_what_the_shop_adds():
    own = label(code=StoreCode.PRICE_13, ingredients=("beef", "salt"), allergens=("soy",))
    facts = [f"Serves {n}." for n in range(40)]
    lines = lines_of(own, facts)
    picture = label_picture(lines, symbols_of(own, Stock.LARGE), Stock.LARGE)
    assert {"ingredients", "allergens", "storage"}.isdisjoint(picture.left_out)
    assert facts[-1] in picture.left_out
    words = [one.text for one in picture.words]
    assert [one for one in words if one in facts] == [one for one in facts if one in words]
    assert all(words.index("Contains soy.") < words.index(one) for one in words if one in facts)


def test_the_four_pictures_of_safe_handling_are_squares_of_whole_dots():
    assert len(ICONS) == 4
    for icon in ICONS:
        assert icon.runs
        assert all((side * DOTS / icon.side).is_integer() for side in ICON_SIDES)
    with pytest.raises(ValueError, match="a square"):
        icon_of(("##", "#"))


@pytest.mark.parametrize("name", ["Пашина", "牛肩肉", "Côte à l'os & “œil”", "<b>x</b>"])
def test_any_script_is_drawn_by_every_pen(name):
    for kind in KINDS:
        drawn = drawn_as(label(name=name), kind)
        assert drawn.startswith({"svg": b"<svg", "png": b"\x89PNG", "pdf": b"%PDF"}[kind])
    assert "<b>" not in draw(picture_of(label(name=name)), "svg").decode()


def test_the_same_label_is_drawn_the_same():
    for kind in KINDS:
        assert drawn_as(label(), kind) == drawn_as(replace(label()), kind)


def test_words_are_wrapped_whole():
    lines = wrapped("keep raw meat and poultry separate from other foods", 3, 30)
    assert " ".join(lines) == "keep raw meat and poultry separate from other foods"
    assert all(text_width(line, 3) <= 30 or " " not in line for line in lines)


def test_a_tag_and_a_case_say_all_of_their_lines():
    tag = TagLines(
        "Full-cut sirloin steak", "several", "14.99", "a lb", "33.05 a kg", "from 27 Nov"
    )
    words = [one.text for one in tag_picture(tag).words]
    assert {"Full-cut sirloin steak", "14.99", "a lb", "33.05 a kg"} <= set(words)
    elements = f"(01){GTIN.zfill(14)}(3202)002460(13)261127(10){'L' * 20}(21)000001"
    lines = CaseLines(
        "Flat iron steak", "beef", "24.60 lb", "27 November 2026", "L" * 20, "000001", elements
    )
    picture = case_picture(lines, case_code(elements))
    assert elements in [one.text for one in picture.words]
    assert any("case 000001" in one.text and "…" not in one.text for one in picture.words)
    for one in picture.words:
        assert one.x + text_width(one.text, one.size) <= picture.width
    for kind in KINDS:
        assert draw(picture, kind)


def test_a_card_for_the_counter_tells_all_it_can_and_names_the_rest():
    tag = TagLines("Flat iron steak", "infraspinatus", "11.49", "a lb", "", "from 1 November 2026")
    card = card_picture(tag, ["A lb serves 2 to 3."])
    assert {"Flat iron steak", "11.49", "A lb serves 2 to 3."} <= {one.text for one in card.words}
    assert card.left_out == ()
    story = "A long story of the shoulder and of the knife that frees it from its gristle. " * 9
    full = card_picture(tag, [story, story, story, "Last."])
    assert full.left_out == (story,) * full.left_out.count(story)
    assert story in full.left_out
    assert "Last." in {one.text for one in full.words}
    for picture in (card, full):
        assert all(one.y <= picture.height for one in picture.words)
        assert len({one.x for one in picture.words if one.anchor == "start" and one.x < 5}) == 1
