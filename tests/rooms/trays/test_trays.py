"""Trays from the scale to what became of them, their labels, the printer's queue."""

import uuid
from datetime import timedelta
from decimal import Decimal
from itertools import count

import pytest
import zxingcpp
from biip.gs1_messages import GS1Message
from django.urls import reverse
from django.utils import timezone
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from PIL import Image

from cutting.grinding.nutrition import NUTRIENTS
from cutting.labels.tray_life import Life
from cutting.quantities import Unit, Weight, working
from rooms.bench.actions.finishing import reopen
from rooms.bench.actions.weighings import take_back, take_weight
from rooms.bench.models import Output, ScaleCheck
from rooms.bench.queries.rows import load
from rooms.common.db.seen import state_of
from rooms.common.errors import BadInput, Refused
from rooms.cooler.models import Bag
from rooms.cooler.queries.codes import letters_of
from rooms.grinder.actions.batch import CameOut, finish_batch
from rooms.grinder.actions.tubs import left_of, take_back_entry
from rooms.grinder.models import Batch, GrinderRules, NutritionFacts, TubIn
from rooms.pricebook.actions.prices import NewPrice, Origin, set_prices
from rooms.pricebook.models import Price, Product, TraySize
from rooms.trays.actions.house import change_label_rules
from rooms.trays.actions.life import becomes, not_so, to_tub
from rooms.trays.actions.pack import Packing, measure_tare, pack_tray
from rooms.trays.actions.printing import print_waiting
from rooms.trays.models import PrintJob, Tray, TrayEvent
from rooms.trays.queries.labelling import codes_in_words, label_rules, picture_of
from rooms.trays.queries.sources import source_of
from tests.cases import some_often
from tests.conftest import capture, person, words_of
from tests.rooms.grinder.helpers import blend, grind, tub

pytestmark = pytest.mark.django_db
D = Decimal
KEY = uuid.uuid4
NO_LOT = {"source": "none", "reason": "the bag was gone"}
SHORT = (Phase.explicit, Phase.reuse, Phase.generate, Phase.target)


def lb(text):
    return Weight(D(text), Unit.LB)


def packed(product, size, gross="1.28", **more):
    key = more.pop("key", None) or KEY()
    more.setdefault("no_lot_reason", "" if more.get("source") else "the bag was gone")
    packing = Packing(key, product.pk, size.pk, more.pop("source", ""), lb(gross), **more)
    return pack_tray(packing, person("ines").pk)


def send(client, product, size, gross="1.28", **more):
    body = {"key": KEY(), "product": product.pk, "size": size.pk, "weight": gross, "unit": "lb"}
    return client.post(reverse("trays:front"), body | NO_LOT | more)


def pile(rows, cut="beef-tenderloin-steak"):
    """The first pile of a test, as the product that is its cut."""
    output = rows.outputs[0]
    product = Product.objects.filter(cut=output.cut).first()
    return output, product


def test_a_tray_is_packed_once_with_its_label_in_the_queue(client, numbered, size, printer):
    key = KEY()
    for _ in range(2):
        assert send(client, numbered, size, key=key, pieces="2").status_code == 302
    tray = Tray.objects.get()
    price = numbered.prices.first().amount
    assert (tray.gross, tray.tare, tray.net) == (D("1.28"), D("0.04"), D("1.24"))
    assert tray.total == (price * D("1.24")).quantize(D("0.01"))
    assert tray.sell_by == tray.packed_on + timedelta(days=3)
    assert (tray.pieces, tray.state, PrintJob.objects.count()) == (2, Life.PACKED, 1)
    assert len(printer.out) == 1
    page = client.get(reverse("trays:tray", args=[tray.pk]))
    words = words_of(page)
    for text in ("Flat iron", "1.24 lb", "Safe handling instructions", "printed"):
        assert text in words, text
    for kind, start in (("svg", b"<svg"), ("png", b"\x89PNG"), ("pdf", b"%PDF")):
        answer = client.get(reverse("trays:label", args=[tray.pk, kind]))
        assert (
            b"".join(answer).startswith(start)
            if answer.streaming
            else answer.content.startswith(start)
        )


def test_what_is_printed_is_read_back_and_leads_to_the_tray(numbered, size, printer, tmp_path):
    tray = packed(numbered, size)
    print_waiting()
    file = tmp_path / "label.png"
    file.write_bytes(printer.out[0][1].png)
    found = {
        one.format.name: one.text for one in zxingcpp.read_barcodes(Image.open(file).convert("L"))
    }
    assert found["EAN13"][2:7] == "12301"
    assert found["EAN13"][8:12] == f"{int(tray.total * 100):04d}"
    assert tray.serial in found["QRCode"]
    assert len(tray.serial) == 12


@pytest.mark.parametrize(
    ("sent", "status", "says"),
    some_often(
        [
            ({"weight": ""}, 422, "what the scale shows is right"),
            ({"weight": "x"}, 422, "not a plain number"),
            ({"weight": "0.04"}, 422, "more than the tare"),
            ({"weight": "1.285"}, 422, "a multiple of 0.01 lb"),
            ({"product": "999999"}, 422, "choose one of those shown"),
            ({"size": "999999"}, 422, "Tray"),
            ({"source": ""}, 422, "choose what it is packed from"),
            ({"reason": " "}, 422, "why it has none; a recall cannot find this tray"),
            ({"reason": "x" * 300}, 422, "at most 200 characters"),
            ({"total": "0"}, 422, "more than 0"),
            ({"source": "test:999999"}, 422, "no such pile"),
            ({"source": "box:1"}, 422, "one of those shown is right"),
            ({"pieces": "0"}, 422, "Pieces"),
            ({"proof": "{}"}, 422, "came from no scale"),
            ({"proof": "{"}, 422, "cannot be read"),
        ]
    ),
)
def test_bad_input_is_told_and_nothing_is_kept(client, numbered, size, printer, sent, status, says):
    body = {"key": KEY(), "product": numbered.pk, "size": size.pk, "weight": "1.28", "unit": "lb"}
    answer = client.post(reverse("trays:front"), body | NO_LOT | sent)
    assert answer.status_code == status
    assert says in words_of(answer)
    assert not Tray.objects.exists()
    assert not PrintJob.objects.exists()
    assert printer.out == []


def test_without_a_tare_or_a_price_there_is_no_label(client, numbered, shop):
    size = TraySize.objects.filter(is_dropped=False).first() or TraySize.objects.create(code="9")
    answer = send(client, numbered, size)
    assert answer.status_code == 409
    assert "its tare was never measured" in words_of(answer)
    measure_tare(size.pk, lb("0.04"), None)
    later = timezone.localdate() + timedelta(days=2)
    Price.objects.filter(product=numbered).update(effective_on=later)
    answer = send(client, numbered, size)
    assert answer.status_code == 409
    assert f"its price is to come on {later}" in words_of(answer)
    assert not Tray.objects.exists()


def test_a_failed_scale_check_blocks_labels_until_one_holds(client, numbered, size, printer):
    check = {
        "scale": "block",
        "unit": "lb",
        "division": D("0.01"),
        "lines": [],
        "at": timezone.now(),
    }
    ScaleCheck.objects.create(key=KEY(), holds=False, **check)
    answer = send(client, numbered, size)
    assert answer.status_code == 409
    assert "No labels until a check holds" in words_of(answer)
    ScaleCheck.objects.create(key=KEY(), holds=True, **(check | {"at": timezone.now()}))
    assert send(client, numbered, size).status_code == 302


def test_a_pile_gives_no_more_than_lies_on_it_and_its_lot(client, weighed, size, printer):
    rows = weighed()
    output, product = pile(rows)
    source = f"test:{output.pk}"
    tray = packed(product, size, "2.04", source=source)
    assert tray.document["lot"] == f"T-{rows.test.number}"
    assert (
        f'value="{source}"'
        in client.get(
            reverse("trays:front"), {"product": product.pk, "from": source}
        ).content.decode()
    )
    alone = client.get(reverse("trays:front"), {"product": product.pk}).content.decode()
    assert f'name="source" value="{source}"' in alone  # the only one there is
    no_lot = client.get(reverse("trays:front"), {"product": product.pk, "from": "none"})
    assert f'name="source" value="{source}"' not in no_lot.content.decode()
    left = source_of(source).left
    assert left.value == D("3.45") - 2
    with pytest.raises(Refused, match=r"1\.45 lb is left"):
        packed(product, size, "1.50", source=source)
    packed(product, size, "1.49", source=source)
    becomes(KEY(), tray.pk, Life.UNDONE, None, "twice on the scale")
    assert source_of(source).left.value == D("2.00")


def test_an_animal_of_another_kind_and_meat_past_its_day_are_refused(
    client, weighed, size, numbered, fill
):
    rows = weighed()
    output, product = pile(rows)
    lamb = Product.objects.filter(cut__species="lamb", is_sold=True, prices__isnull=False).first()
    with pytest.raises(Refused, match="it is beef"):
        packed(lamb, size, source=f"test:{output.pk}")
    (bag,) = fill(("beef-tenderloin", 3, "6.17"))
    yesterday = timezone.localdate() - timedelta(days=1)
    Bag.objects.filter(pk=bag.pk).update(
        ends_on=yesterday, country="United States", grade="USDA Choice"
    )
    rows.test.bags.create(bag=bag)
    with pytest.raises(Refused, match="within its days"):
        packed(product, size, source=f"test:{output.pk}")
    Bag.objects.filter(pk=bag.pk).update(ends_on=timezone.localdate() + timedelta(days=1))
    tray = packed(product, size, source=f"test:{output.pk}")
    assert tray.sell_by == timezone.localdate() + timedelta(days=1)
    assert tray.document["country"] == "US"
    assert "USDA Choice" in tray.document["facts"]
    assert "origin_claim" not in tray.document


@pytest.mark.parametrize(
    ("name", "letters"), [("United States", "US"), ("NZ", "NZ"), ("", ""), ("the island", "")]
)
def test_a_country_is_two_letters_or_none(name, letters):
    assert letters_of(name) == letters


def test_ground_meat_has_its_lean_with_its_fat_and_stands_in_the_log_of_its_batch(
    client, shop, size, printer, solving
):
    from tests.rooms.grinder.test_grinder import clean_down

    for what in ("cleaned", "set_up"):
        clean_down(KEY(), what, person("ines").pk)
    tub("Chuck", pounds="14", lot="L1")
    tub("Round", pounds="10", lean="0.93", lot="L2")
    blend(client)
    grind(client, None)
    batch = Batch.objects.get()
    product = Product.objects.get(cut__key="beef-ground")
    with pytest.raises(Refused, match="still in the grinder"):
        packed(product, size, source=f"batch:{batch.pk}")
    finish_batch(batch.pk, CameOut(D("11.5"), D("0.3"), 4000), None)
    tray = packed(product, size, "2.04", source=f"batch:{batch.pk}")
    assert tray.document["product"]["name"] == "Ground beef, 85 % lean, 15 % fat"
    assert tray.document["lot"] == "G-1"
    assert {lot["lot"] for lot in tray.lots} == {"L1", "L2"}
    assert tray.sell_by == timezone.localdate() + timedelta(days=1)
    assert "160 °F" in " ".join(tray.document["facts"])
    assert [one.weight for one in batch.packed.standing()] == [D("2.00")]
    with pytest.raises(BadInput, match="are left of G-1"):
        packed(product, size, "11.00", source=f"batch:{batch.pk}")
    row = batch.packed.standing().get()
    at_grinder = {"what": "not_packed", "key": KEY(), "row": row.pk}
    answer = client.post(reverse("grinder:batch", args=[batch.pk]), at_grinder)
    assert "say at the trays" in words_of(answer)
    becomes(KEY(), tray.pk, Life.UNDONE, None, "no tray")
    assert not batch.packed.standing().exists()


def test_a_pile_that_was_corrected_below_its_trays_says_so(client, weighed, size, printer):
    rows = weighed()
    output, product = pile(rows)
    packed(product, size, "3.40", source=f"test:{output.pk}")
    at = reverse("trays:of_test", args=[rows.test.pk])
    assert "pack 0.09 lb" in words_of(client.get(at))
    reopen(rows.test.pk, None)
    own = next(w for w in load(rows.test.pk).standing if w.output_id == output.pk)
    take_back(rows.test.pk, str(own.pk), None)
    again = load(rows.test.pk)
    take_weight(rows.test.pk, capture(output, "3.00"), None)
    assert again.test.is_open
    assert "its trays weigh 0.36 lb more than lies on it" in words_of(client.get(at))
    with pytest.raises(Refused, match="but only"):
        packed(product, size, "0.14", source=f"test:{output.pk}")


def test_labels_come_out_once_and_in_order_whatever_the_printer_does(numbered, size, printer):
    printer.trouble = "the roll is empty; put a new one in"
    trays = [packed(numbered, size, f"1.2{n}") for n in range(4)]
    answer = print_waiting()
    assert (answer.came_out, answer.waiting, answer.trouble) == (0, 4, printer.trouble)
    printer.trouble = ""
    assert print_waiting().came_out == 4
    assert print_waiting().came_out == 0
    titles = [drawn.title for _, drawn in printer.out]
    assert titles == [f"{tray.document['product']['name']}, {tray.net:f} lb" for tray in trays]


def test_nobody_waits_long_for_a_slow_printer(numbered, size, printer, monkeypatch):
    """Each look at the clock is a second and a half later."""
    for gross in ("1.20", "1.21", "1.22"):
        packed(numbered, size, gross)
    monkeypatch.setattr("rooms.trays.actions.printing.monotonic", count(0, 1.5).__next__)
    assert [print_waiting().came_out for _ in range(4)] == [1, 1, 1, 0]
    assert len(printer.out) == 3


def test_killed_while_it_sends_a_label_comes_out_once(numbered, size, printer, monkeypatch):
    packed(numbered, size, "1.20")
    packed(numbered, size, "1.21")
    kept = printer.send

    def dies(name, drawn):
        kept(name, drawn)
        raise KeyboardInterrupt

    monkeypatch.setattr("rooms.trays.actions.printing.send", dies)
    with pytest.raises(KeyboardInterrupt):
        print_waiting()
    monkeypatch.setattr("rooms.trays.actions.printing.send", kept)
    assert print_waiting().came_out == 0  # somebody may be sending it still
    PrintJob.objects.update(claimed_at=timezone.now() - timedelta(minutes=1))
    assert print_waiting().came_out == 2
    assert len(printer.out) == 2


def test_a_reprint_says_so_and_waits_for_the_first(client, numbered, size, printer):
    printer.trouble = "it is off line; press its button"
    tray = packed(numbered, size)
    print_waiting()
    at = reverse("trays:tray", args=[tray.pk])
    early = client.post(at, {"what": "reprint", "key": KEY()})
    assert early.status_code == 409
    assert "waits for the printer still" in words_of(early)
    printer.trouble = ""
    print_waiting()
    key = KEY()
    for _ in range(2):
        assert client.post(at, {"what": "reprint", "key": key}).status_code == 302
    first, second = PrintJob.objects.all()
    assert (first.copy, second.copy, len(printer.out)) == (0, 1, 2)
    words = " ".join(one.text for one in picture_of(second.document, second.stock, 1).words)
    assert "Reprint 1" in words


def test_a_label_that_nobody_wants_leaves_the_queue(client, numbered, size, printer):
    printer.trouble = "a label is jammed; open the lid and take it out"
    send(client, numbered, size)
    page = words_of(client.get(reverse("trays:queue")))
    assert "1 label waits" in page
    assert "jammed" in page
    assert "Not wanted" in page
    assert "Not wanted" not in words_of(client.get(reverse("trays:front")))  # that list moves
    job = PrintJob.objects.get()
    assert client.post(reverse("trays:drop"), {"row": job.pk}).status_code == 302
    printer.trouble = ""
    assert "No label waits" in words_of(client.post(reverse("trays:send")))
    assert printer.out == []
    assert client.post(reverse("trays:drop"), {"row": "x"}).status_code == 422


def test_a_label_that_came_out_meanwhile_is_not_taken_out(client, numbered, size, printer):
    printer.trouble = "the roll is empty; put a new one in"
    for gross in ("1.04", "1.54"):
        send(client, numbered, size, gross)
    first = PrintJob.objects.order_by("pk").first()
    printer.trouble = ""
    print_waiting()
    late = client.post(reverse("trays:drop"), {"row": first.pk})
    assert late.status_code == 409
    assert "came out already" in words_of(late)
    assert len(printer.out) == 2


def test_each_change_once_and_by_whom(client, numbered, size, printer):
    tray = packed(numbered, size)
    at, key = reverse("trays:tray", args=[tray.pk]), KEY()
    for _ in range(2):
        assert client.post(at, {"what": "in_case", "key": key}).status_code == 302
    assert [(one.was, one.life, one.by) for one in TrayEvent.objects.all()] == [
        ("packed", "in_case", person("bram"))
    ]
    no_reason = client.post(at, {"what": "thrown", "key": KEY()})
    assert "write why" in words_of(no_reason)
    assert client.post(at, {"what": "sold", "key": KEY()}).status_code == 302
    late = client.post(at, {"what": "to_block", "key": KEY()})
    assert late.status_code == 409
    assert "is sold; that cannot be done" in words_of(late)
    not_so(KEY(), tray.pk, None)
    tray.refresh_from_db()
    assert tray.state is Life.IN_CASE
    assert client.post(at, {"what": "kick", "key": KEY()}).status_code == 422
    assert client.post(at, {"what": "sold", "key": "x"}).status_code == 422


def test_a_tray_goes_into_a_tub_with_its_lots_and_is_taken_back_there(numbered, size, printer):
    tray = packed(numbered, size)
    Tray.objects.filter(pk=tray.pk).update(lots=[{"lot": "L7", "piece": "clod"}])
    chuck = tub("Chuck")
    key = KEY()
    for _ in range(2):
        to_tub(key, tray.pk, chuck.pk, None)
    entry = TubIn.objects.get(tub=chuck)
    assert (entry.weight, [lot["lot"] for lot in entry.lots]) == (tray.net, ["L7"])
    with pytest.raises(Refused, match="in its tub"):
        not_so(KEY(), tray.pk, None)
    take_back_entry(KEY(), entry.pk, None)
    with pytest.raises(Refused, match="nothing became of it"):
        not_so(KEY(), tray.pk, None)
    tray.refresh_from_db()
    assert (tray.state, left_of(chuck)) == (Life.PACKED, 0)
    to_tub(KEY(), tray.pk, chuck.pk, None)
    assert left_of(chuck) == tray.net


def test_what_the_bar_code_cannot_hold_is_said(client, numbered, size, printer):
    dear = packed(numbered, size, "12.00")
    words = words_of(client.get(reverse("trays:tray", args=[dear.pk])))
    assert "No bar code: " in words
    change_label_rules({"store_code": ""}, None)
    words = words_of(client.get(reverse("trays:tray", args=[packed(numbered, size).pk])))
    assert "Left to the QR: the packing day" in words


def test_a_tray_packed_again_gives_no_more_than_it_held_and_no_longer_days(numbered, size, printer):
    tray = packed(numbered, size, "2.04")
    Tray.objects.filter(pk=tray.pk).update(sell_by=timezone.localdate() + timedelta(days=1))
    with pytest.raises(Refused, match="take it back to the block first"):
        packed(numbered, size, "1.04", source=f"tray:{tray.pk}")
    becomes(KEY(), tray.pk, Life.TO_BLOCK, None)
    half = packed(numbered, size, "1.04", source=f"tray:{tray.pk}")
    assert half.sell_by == timezone.localdate() + timedelta(days=1)
    with pytest.raises(Refused, match=r"1\.00 lb is left"):
        packed(numbered, size, "1.10", source=f"tray:{tray.pk}")
    with pytest.raises(Refused, match="packed again; undo that first"):
        not_so(KEY(), tray.pk, None)


@pytest.mark.long
@settings(
    max_examples=15,
    phases=SHORT,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(st.lists(st.tuples(st.integers(1, 250), st.integers(0, 3)), min_size=2, max_size=10))
def test_trays_and_what_was_thrown_away_never_weigh_more_than_the_pile(weighed, size, steps):
    rows = weighed()
    output, product = pile(rows)
    for hundredths, then in steps:
        try:
            tray = packed(
                product, size, f"{D(hundredths) / 100 + D('0.04')}", source=f"test:{output.pk}"
            )
        except Refused:
            continue
        if then == 1:
            becomes(KEY(), tray.pk, Life.UNDONE, None, "no tray")
        elif then == 2:
            becomes(KEY(), tray.pk, Life.THROWN, None, "fell")
    standing = load(rows.test.pk)
    with working():
        lies = sum(w.value for w in standing.of(output))
        out = sum((one.net for one in Tray.objects.standing().filter(output=output)), D(0))
    assert out <= lies


def test_the_shelf_tags_that_a_version_makes_wrong_are_printed_once(client, numbered, printer):
    manager = person("bram").pk
    number = set_prices([NewPrice(numbered, D("13.49"))], Origin(manager, why="beef is up")).number
    at, key = reverse("trays:tags", args=[number]), KEY()
    for _ in range(2):
        assert client.post(at, {"key": key}).status_code == 302
    (job,) = PrintJob.objects.all()
    assert (job.kind, job.document["price"], len(printer.out)) == ("tag", "13.49", 1)
    assert "To the label printer" in words_of(
        client.get(reverse("pricebook:version", args=[number]))
    )
    assert client.post(reverse("trays:tags", args=[9999]), {"key": KEY()}).status_code == 422
    assert client.post(at, {"key": "x"}).status_code == 422


def test_a_case_has_its_label_with_a_code_that_is_read_back(client, numbered, printer, tmp_path):
    at, key = reverse("trays:case"), KEY()
    sent = {"key": key, "product": numbered.pk, "weight": "24.60", "unit": "lb", "lot": "T-21"}
    for _ in range(2):
        assert client.post(at, sent).status_code == 302
    ((_, drawn),) = printer.out
    file = tmp_path / "case.png"
    file.write_bytes(drawn.png)
    (found,) = zxingcpp.read_barcodes(Image.open(file).convert("L"))
    told = {one.ai.ai: one for one in GS1Message.parse_hri(found.text).element_strings}
    assert told["3202"].decimal == D("24.60")
    assert (told["10"].value, told["21"].value) == ("T-21", "000001")
    for wrong, says in (
        ({"weight": "0"}, "more than 0"),
        ({"lot": "ж"}, "82 characters"),
        ({"product": "999999"}, "has no GTIN"),
    ):
        assert says in words_of(client.post(at, sent | wrong | {"key": KEY()}))
    assert PrintJob.objects.count() == 1


def test_today_names_labels_that_wait_and_trays_on_their_last_day(client, numbered, size, printer):
    assert words_of(client.get(reverse("trays:due"))) == ""
    printer.trouble = "it is off line; press its button"
    send(client, numbered, size)
    Tray.objects.update(sell_by=timezone.localdate())
    words = words_of(client.get(reverse("trays:due")))
    assert "1 label waits: it is off line" in words
    assert "1 Flat iron" in words
    becomes(KEY(), Tray.objects.get().pk, Life.SOLD, None)
    assert "last day" not in words_of(client.get(reverse("trays:due")))


def test_nutrition_facts_of_a_cut_stand_on_its_label_where_the_shop_wants_them(numbered, size):
    amounts = dict.fromkeys(NUTRIENTS, "0") | {"calories": "200", "protein": "24"}
    facts = {"product": numbered, "fat": D("0.10"), "serving": D(112), "source": "laboratory"}
    NutritionFacts.objects.create(amounts=amounts, **facts)
    assert "nutrition" not in packed(numbered, size).document
    GrinderRules.objects.create(nutrition="facts")
    assert "calories 200 kcal" in packed(numbered, size).document["nutrition"]


def test_label_rules_and_numbers_are_the_managers(client, as_role, shop, numbered):
    at = reverse("trays:rules")
    sent = {"what": "rules", "place": "Quay 1", "link": "https://shop.example/", "stock": "middle"}
    sent |= {"store_code": "", "keeps_days": "2", "keeps_ground_days": "0"}
    sent |= {"markdown_days": "1", "markdown_off": "25"}
    sent["seen"] = state_of(label_rules())
    for _ in range(2):
        assert client.post(at, sent).status_code == 302
    late = client.post(at, sent | {"keeps_days": "5"})
    assert late.status_code == 409
    assert "Changed by somebody else since" in words_of(late)
    assert label_rules().keeps_days == 2
    small = client.post(at, sent | {"stock": "small", "seen": state_of(label_rules())})
    assert small.status_code == 422
    assert "no room for the safe handling instructions" in words_of(small)
    wrong = client.post(at, sent | {"link": "shop.example"})
    assert wrong.status_code == 422
    assert "one like https://shop.example is right" in words_of(wrong)
    assert as_role("ines").post(at, sent).status_code == 403
    stew = Product.objects.get(cut__key="beef-stew")
    number = {"what": "product", "product": stew.pk, "item": "12301"}
    twice = client.post(at, number)
    assert "another product has it" in words_of(twice)
    bad = client.post(at, number | {"item": "123", "gtin": "4006381333932"})
    assert "Five digits" in words_of(bad)
    assert "check digit" in words_of(bad)
    assert client.post(at, number | {"item": "12309"}).status_code == 302


def test_a_product_without_numbers_has_a_label_without_codes(client, shop, size, printer):
    stew = Product.objects.get(cut__key="beef-stew")
    tray = packed(stew, size)
    picture = picture_of(tray.document, "large")
    assert "Stewing beef" in {one.text for one in picture.words}
    assert codes_in_words(tray.document) == []
    assert tray.code == ""


def test_the_pages_are_there_and_ask_few_queries(
    client, numbered, size, printer, django_assert_max_num_queries
):
    for n in range(5):
        packed(numbered, size, f"1.2{n}")
    tray = Tray.objects.first()
    for address, most in (
        (reverse("trays:front"), 12),
        (f"{reverse('trays:front')}?product={numbered.pk}", 22),
        (reverse("trays:tray", args=[tray.pk]), 12),
        (reverse("trays:tares"), 8),
        (reverse("trays:rules"), 10),
        (reverse("trays:queue"), 6),
    ):
        client.get(address)
        with django_assert_max_num_queries(most):
            assert client.get(address).status_code == 200
    wrong = {"product": "\u0663", "from": "x"}
    assert client.get(reverse("trays:front"), wrong).status_code == 200
    for name in ("9" * 40, "x"):
        assert client.get(reverse("trays:front"), {"product": name}).status_code == 200
    assert Output.objects.count() == 0
