"""At the block: signed readings, differences, tubs, moves, merges, trays, time, holds, starts."""

import json
import uuid
from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.costing.sheet import compute
from formats.reading import read_document
from rooms.bench.actions.open_test import BLANK, LAST
from rooms.bench.actions.piles import Chosen, add_pile, choose, merge_piles, move_weighing, unmerge
from rooms.bench.actions.record import mark_time
from rooms.bench.actions.scales import drop_tare, save_tare, take_scale
from rooms.bench.actions.tubs import choose_tub, close_tub, start_tub
from rooms.bench.actions.weighings import take_back, take_weight
from rooms.bench.models import Hold, Move, Tare, TimeMark, Tub, Unplaced, Weighing
from rooms.bench.queries.block import Glass, block
from rooms.bench.queries.clock import clock
from rooms.bench.queries.open_tests import holder_of, revision_of
from rooms.bench.queries.piles import sum_of
from rooms.bench.queries.rows import load
from rooms.bench.queries.tub_entries import gross_of
from rooms.bench.queries.tubs import tub_views
from rooms.common.errors import BadInput, KeyTaken, Refused
from tests.conftest import capture, finish, person, reading, shown, words_of

pytestmark = pytest.mark.django_db
D = Decimal


# --- signed readings ---


def test_what_the_scale_signed_is_no_typed_weight_and_keeps_where_it_came_from(opened):
    rows = opened()
    take_weight(rows.test.pk, shown(rows.outputs[0], "0.44"), None)
    take_weight(rows.test.pk, capture(rows.outputs[0], "0.44"), None)
    signed, typed = Weighing.objects.all()
    assert (signed.is_typed, signed.scale, signed.run, signed.sequence > 0) == (
        False,
        "block",
        "test",
        True,
    )
    assert (typed.is_typed, typed.scale, typed.sequence) == (True, "", None)


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"key": "another"}, "does not carry the signature of the Block scale"),
        ({"scale": "attic"}, "came from no scale of this shop"),
        ({"state": "moving"}, "was moving; a steady one is right"),
        ({"sequence": "x"}, "cannot be read"),
        ({"sequence": "-1"}, "is no sequence number"),
        ({"weight": "0.55"}, "is not what the scale showed; 0.55 lb is right"),
        ({"unit": "kg"}, "is not what the scale showed"),
        ({"weight": "-0.44"}, "is not what the scale showed"),
    ],
)
def test_a_forged_moving_or_other_reading_is_refused_and_nothing_recorded(opened, change, says):
    rows = opened()
    proof = reading(**{"weight": "0.44", **change})
    with pytest.raises(BadInput, match=says):
        take_weight(rows.test.pk, shown(rows.outputs[0], "0.44", proof=proof), None)
    assert not Weighing.objects.exists()


@pytest.mark.parametrize("field", ["weight", "at", "run", "sequence", "tare", "division"])
def test_a_reading_changed_after_it_was_signed_is_refused(opened, field):
    rows = opened()
    other = "70707" if field == "sequence" else "7"  # no reading of these tests has that number
    forged = reading("0.44") | {field: other}
    with pytest.raises(BadInput, match=r"signature|showed"):
        take_weight(rows.test.pk, shown(rows.outputs[0], "0.44", proof=forged), None)


def test_one_reading_is_taken_once_whatever_its_key(opened):
    rows, once = opened(), reading("0.44")
    take_weight(rows.test.pk, shown(rows.outputs[1], "0.44", proof=once), None)
    with pytest.raises(BadInput, match=r"taken already, 0\.44 lb for Tips; change the load"):
        take_weight(rows.test.pk, shown(rows.outputs[0], "0.44", proof=once), None)


@pytest.mark.parametrize(
    ("off", "is_believed"), [(0, True), (-20, True), (3 * 86400, False), (-3 * 86400, False)]
)
def test_the_scales_clock_says_when_unless_it_is_wrong_by_days(opened, off, is_believed):
    rows, now = opened(), timezone.now()
    rows.test.started_at = now - timedelta(hours=1)
    rows.test.save()
    at = now.timestamp() + off
    take_weight(
        rows.test.pk, shown(rows.outputs[0], "0.44", proof=reading("0.44", at=f"{at:.3f}")), None
    )
    taken = Weighing.objects.get().taken_at
    assert (abs(taken.timestamp() - at) < 1) == is_believed
    assert abs(taken - now) < timedelta(minutes=1)


# --- by difference, tubs ---


def test_a_difference_is_worked_out_by_the_server_from_two_signed_readings(client, opened):
    rows, before = opened(), reading("1.20", tare="0.30")
    proof = reading("2.00", tare="0.30")
    with pytest.raises(BadInput, match=r"0\.81 lb is not what the scale showed; 0\.80 lb"):
        take_weight(
            rows.test.pk,
            shown(rows.outputs[0], "2.00", proof=proof, value="0.81", before=json.dumps(before)),
            None,
        )
    taken = shown(rows.outputs[0], "2.00", proof=proof, value="0.80", before=json.dumps(before))
    after = take_weight(rows.test.pk, taken, None)
    kept = after.weighings[0]
    assert (kept.value, kept.before, kept.gross) == (D("0.80"), D("1.50"), D("2.30"))
    assert kept.reading.readings == 2
    document = client.get(reverse("bench:document", args=[rows.test.pk])).json()
    assert compute(read_document(document).test) == compute(after.weighed)
    for bad in (
        "{",
        "[]",
        json.dumps(before | {"weight": "0.10"}),
        json.dumps(reading("1.20", "oz")),
    ):
        with pytest.raises(BadInput):
            take_weight(
                rows.test.pk, shown(rows.outputs[0], "2.00", value="0.80", before=bad), None
            )


@pytest.fixture
def tub(shop):
    return start_tub(uuid.uuid4(), "Lean 80", ("1.12", "lb"), "lean", None)


def test_a_tub_is_weighed_by_what_it_gains_and_knows_each_share_and_lot(opened, tub):
    first, second = opened(lot="L1"), opened(lot="L2")
    for rows, gross, value in ((first, "1.80", "0.68"), (second, "2.20", "0.40")):
        lean = rows.outputs[2]
        choose_tub(rows.test.pk, str(lean.pk), str(tub.pk), None)
        tub_before = f"{gross_of(tub):f}"
        take_weight(rows.test.pk, shown(lean, gross, value=value, tub_before=tub_before), None)
    (view,) = tub_views()
    assert (view.gross, view.inside.weight, view.inside.lots) == (
        D("2.20"),
        D("1.08"),
        ("L1", "L2"),
    )
    assert [(test.pk, share.weight) for test, share in view.shares] == [
        (first.test.pk, D("0.68")),
        (second.test.pk, D("0.40")),
    ]
    assert "tub Lean 80" in block(load(second.test.pk), Glass()).piles[2].note


def test_a_weighing_into_a_tub_that_changed_since_is_kept_apart_with_both_versions(opened, tub):
    rows = opened()
    lean = rows.outputs[2]
    choose_tub(rows.test.pk, str(lean.pk), str(tub.pk), None)
    take_weight(rows.test.pk, shown(lean, "1.80", value="0.68", tub_before="1.12"), None)
    take_weight(rows.test.pk, shown(lean, "2.00", value="0.88", tub_before="1.12"), None)
    assert "saw it at 1.12, it stands at 1.80 lb" in Unplaced.objects.get().why
    with pytest.raises(BadInput, match="is weighed in lb"):
        take_weight(rows.test.pk, shown(lean, "32", "oz", value="3", tub_before="1.80"), None)
    take_weight(rows.test.pk, capture(lean, "0.20"), None)  # typed: the tub is as much heavier
    assert gross_of(tub) == D("2.00")
    take_back(rows.test.pk, str(Weighing.objects.last().pk), None)
    assert gross_of(tub) == D("1.80")


def test_tubs_take_their_own_kind_and_nothing_once_closed(opened, tub):
    rows = opened()
    with pytest.raises(BadInput, match="takes lean trim, Hard fat is hard fat"):
        choose_tub(rows.test.pk, str(rows.outputs[3].pk), str(tub.pk), None)
    choose_tub(rows.test.pk, str(rows.outputs[2].pk), str(tub.pk), None)
    close_tub(tub.pk)
    assert load(rows.test.pk).outputs[2].tub_id is None
    with pytest.raises(Refused, match="Lean 80 was closed on"):
        choose_tub(rows.test.pk, str(rows.outputs[2].pk), str(tub.pk), None)
    for name, value, pile in (
        ("", "1", "lean"),
        ("A", "-1", "lean"),
        ("A", "x", "lean"),
        ("A", "1", "portions"),
    ):
        with pytest.raises(BadInput):
            start_tub(uuid.uuid4(), name, (value, "lb"), pile, None)
    with pytest.raises(KeyTaken, match="tub Lean 80"):
        start_tub(tub.pk, "Again", ("9", "lb"), "lean", None)


def test_a_known_tub_keeps_its_old_weights_and_needs_a_sane_one(shop):
    for value in ("1.12", "1.14"):
        save_tare(" Blue  tub ", value, "lb", shop["bram"])
    tare = Tare.objects.get()
    assert [str(old.value) for old in tare.history.all()] == ["1.14", "1.12"]
    for name, value, unit in (
        ("", "1", "lb"),
        ("A", "0", "lb"),
        ("A", "16", "lb"),
        ("A", "x", "lb"),
        ("A", "1", "st"),
        ("A" * 41, "1", "lb"),
    ):
        with pytest.raises(BadInput):
            save_tare(name, value, unit, shop["bram"])
    for _ in range(2):
        drop_tare(str(tare.pk), shop["bram"])
    assert Tare.objects.get().is_dropped


# --- moving and merging ---


def test_a_moved_weighing_counts_where_it_lies_and_says_where_it_was_taken(opened):
    rows = opened()
    rows = take_weight(rows.test.pk, capture(rows.outputs[0], "0.44"), None)
    weighing, filet, tips = rows.weighings[0], rows.outputs[0], rows.outputs[1]
    for _ in range(2):  # twice: no change
        after = move_weighing(rows.test.pk, str(weighing.pk), str(tips.pk), str(filet.pk), None)
    assert (after.of(tips)[0].pk, after.of(filet)) == (weighing.pk, [])
    assert after.weighings[0].first_output_id == filet.pk
    assert Move.objects.count() == 1
    with pytest.raises(Refused, match=r"saw 0\.44 lb on “Center filet”; it is now “Tips”"):
        move_weighing(rows.test.pk, str(weighing.pk), str(rows.outputs[2].pk), str(filet.pk), None)
    take_back(rows.test.pk, str(weighing.pk), None)
    with pytest.raises(Refused, match="it is now taken back"):
        move_weighing(rows.test.pk, str(weighing.pk), str(filet.pk), str(tips.pk), None)
    for weighing_id, to in (("9", str(tips.pk)), (str(weighing.pk), "9")):
        with pytest.raises(BadInput):
            move_weighing(rows.test.pk, weighing_id, to, "", None)


def test_merging_conserves_weight_hides_the_pile_and_can_be_undone(opened):
    rows = opened()
    for output, value in ((rows.outputs[0], "0.44"), (rows.outputs[1], "0.80")):
        rows = take_weight(rows.test.pk, capture(output, value), None)
    filet, tips = rows.outputs[:2]
    before = block(rows, Glass()).words
    with pytest.raises(Refused, match=r"saw Tips with nothing; it now has 0\.80 lb"):
        merge_piles(rows.test.pk, str(tips.pk), str(filet.pk), "nothing", None)
    merged = merge_piles(rows.test.pk, str(tips.pk), str(filet.pk), sum_of(rows, tips), None)
    assert [o.name for o in merged.piles][:2] == ["Center filet", "Lean trim"]
    assert sum_of(merged, filet) == "0.44 lb + 0.80 lb"
    assert block(merged, Glass()).words == before
    assert merged.outputs[0].share == filet.share + tips.share
    late = take_weight(rows.test.pk, capture(tips, "0.10"), None)  # it waited on a tablet
    assert late.weighings[-1].output_id == filet.pk
    for _ in range(2):
        again = unmerge(rows.test.pk, str(tips.pk), None)
    assert sum_of(again, again.outputs[1]) == "0.80 lb + 0.10 lb"  # it was sent for that pile
    assert again.outputs[0].share == filet.share
    for away, into in ((filet, filet), (tips, rows.test)):
        with pytest.raises(BadInput):
            merge_piles(rows.test.pk, str(away.pk), str(into.pk), "", None)


def test_every_change_makes_the_revision_grow_and_the_database_counts_the_same(opened):
    rows = opened()
    test = rows.test.pk
    seen = [rows.revision]
    for change in (
        lambda: take_weight(test, capture(rows.outputs[0], "0.44"), None),
        lambda: take_weight(test, capture(rows.outputs[1], "0.80"), None),
        lambda: move_weighing(
            test,
            str(Weighing.objects.first().pk),
            str(rows.outputs[1].pk),
            str(rows.outputs[0].pk),
            None,
        ),
        lambda: take_back(test, str(Weighing.objects.first().pk), None),
        lambda: add_pile(test, "Ends", "secondary"),
        lambda: merge_piles(
            test, str(rows.outputs[2].pk), str(rows.outputs[3].pk), "nothing", None
        ),
    ):
        change()
        now = load(test)
        assert now.revision == revision_of(test) > seen[-1]
        seen.append(now.revision)
    finish(test, str(seen[-1]))
    assert revision_of(test) is None


# --- the scale's holder, two tablets ---


def test_the_scale_is_with_the_test_weighed_last_until_somebody_takes_it(opened, weighed):
    assert holder_of("block") is None
    first, second = opened(), opened()
    assert holder_of("block").number == second.test.number
    take_weight(first.test.pk, capture(first.outputs[0], "0.44"), None)
    assert holder_of("block").number == first.test.number
    take_weight(second.test.pk, capture(second.outputs[0], "0.44"), None)
    assert holder_of("block").test_id == second.test.pk
    for _ in range(2):
        take_scale(first.test.pk, "block", None)
    assert holder_of("block").words == "test 1, Tenderloin (Ines)"
    assert Hold.objects.count() == 1
    assert holder_of("trim").test_id == second.test.pk  # another scale, another holder
    take_weight(first.test.pk, capture(first.outputs[0], "0.44"), None)
    finish(first.test.pk, str(load(first.test.pk).revision))
    assert holder_of("block").test_id == second.test.pk
    with pytest.raises(Refused, match="the scale was not taken over"):
        take_scale(first.test.pk, "block", None)
    with pytest.raises(BadInput, match="choose one of the shop's scales"):
        take_scale(second.test.pk, "attic", None)


def test_a_tablet_asks_what_is_new_and_gets_nothing_or_the_block(client, opened):
    rows = opened()
    url = reverse("bench:stands", args=[rows.test.pk])
    seen = {"seen": rows.revision, "holder": str(rows.test.pk)}
    assert client.get(url, seen).status_code == 204
    take_weight(rows.test.pk, capture(rows.outputs[0], "0.44"), None)
    answer = client.get(url, seen).content.decode()
    assert 'id="piles"' in answer
    assert "0.44" in answer
    other = opened()
    take_scale(other.test.pk, "block", None)
    now = {"seen": load(rows.test.pk).revision, "holder": str(rows.test.pk)}
    assert "is with test 2" in client.get(url, now).content.decode()
    finish(rows.test.pk, str(now["seen"]))
    assert client.get(url, now).status_code == 410


# --- trays and time ---


def tray_of(rows, pile, size):
    return choose(rows.test.pk, Chosen(str(uuid.uuid4()), "tray", str(pile.pk), size), None)


def test_trays_fill_in_order_and_the_hint_stands_under_the_dots(client, opened):
    rows = opened("beef-shoulder-clod", "19.00", "4.10")
    pile = next(o for o in rows.outputs if o.is_counted and o.target_value)
    rows = tray_of(rows, pile, "2")
    for value in ("11.0", "11.2", "11.4"):
        rows = take_weight(rows.test.pk, capture(pile, value, "oz"), None)
    view = next(v for v in block(rows, Glass()).piles if v.id == pile.pk).portions
    assert [(t.count, t.is_full) for t in view.trays] == [(2, True), (1, False)]
    assert view.tray_words.startswith("tray 2: 1 of 2")
    page = client.get(reverse("bench:test", args=[rows.test.pk])).content.decode()
    assert "The last 3 are" in page
    finish(rows.test.pk, str(rows.revision))
    assert "1 of 2" in client.get(reverse("bench:sheet", args=[rows.test.pk])).content.decode()
    for size in ("25", "-1", "x"):
        with pytest.raises((BadInput, Refused)):
            tray_of(opened("beef-shoulder-clod"), pile, size)


def test_the_clock_gives_minutes_to_steps_and_piles_when_the_test_is_finished(opened, monkeypatch):
    rows = opened()
    start = rows.test.started_at
    moments = iter([2, 10, 15, 30])
    monkeypatch.setattr(
        "rooms.bench.actions.record.timezone.now",
        lambda: start + timedelta(minutes=next(moments)),
    )
    key = str(uuid.uuid4())
    for _ in range(2):  # a repeat is no second mark
        mark_time(rows.test.pk, key, "start", "open", None)
    TimeMark.objects.filter(key=key).update(at=start + timedelta(minutes=2))
    mark_time(rows.test.pk, str(uuid.uuid4()), "interrupt", "", None)
    take_weight(rows.test.pk, capture(rows.outputs[0], "6.1"), None, start + timedelta(minutes=8))
    found = clock(load(rows.test.pk), "open")
    assert found.words == "interrupted"
    done = finish(rows.test.pk, str(load(rows.test.pk).revision), start + timedelta(minutes=40))
    assert [str(o.minutes) for o in load(done.test.pk).outputs][:2] == ["6", "None"]
    for bad in (("x", "start"), (str(uuid.uuid4()), "sleep")):
        with pytest.raises(BadInput):
            mark_time(rows.test.pk, *bad, "", None)


def test_what_is_refused_at_the_block_is_told_on_the_block(client, opened, tub):
    rows = opened()
    test, filet = rows.test.pk, str(rows.outputs[0].pk)
    for name, data, says in (
        ("into_tub", {"pile": filet, "tub": str(tub.pk)}, "takes lean trim"),
        (
            "choose",
            {"key": uuid.uuid4(), "name": "tray", "pile": filet, "now": "99"},
            "0 to 24 is right",
        ),
    ):
        answer = client.post(reverse(f"bench:{name}", args=[test]), data)
        assert answer.status_code == 422
        assert says in words_of(answer)
        assert 'id="take"' in words_of(answer)  # the block, not a page away from it
    mark = {"key": uuid.uuid4(), "mark": "start", "step": "open"}
    url = reverse("bench:mark", args=[test])
    assert "clock running" in words_of(client.post(url, mark, headers={"HX-Request": "true"}))
    time = words_of(client.get(reverse("bench:time", args=[test]), {"step": "open"}))
    assert "clock running" in time
    take_weight(test, capture(rows.outputs[0], "6.1"), None)
    finish(test, str(load(test).revision))
    assert client.post(reverse("bench:hold", args=[test])).status_code == 409


# --- starting and adding ---


def test_a_test_starts_from_the_plan_as_last_time_or_blank(client, opened, weighed):
    last = weighed()
    add_pile(opened().test.pk, "Ends", "secondary")
    as_last = opened(start_from=LAST)
    assert [o.name for o in as_last.outputs] == [o.name for o in last.outputs]
    assert as_last.test.started_from == "as test 1"
    assert as_last.outputs[0].share == round(D("3.45") / D("6.17"), 4)  # what it gave then
    blank = opened(start_from=BLANK)
    assert (blank.outputs, blank.test.started_from) == ([], "blank")
    page = client.get(reverse("bench:test", args=[blank.test.pk]))
    assert page.status_code == 200
    assert "Hard fat" in page.content.decode()  # the usual piles are offered at once
    with pytest.raises(BadInput, match="no finished test yet"):
        opened("beef-rib", start_from=LAST)


def test_a_cut_is_found_after_two_letters_and_added_with_its_price(client, opened):
    rows = opened()
    url = reverse("bench:find_pile", args=[rows.test.pk])
    assert "button" not in client.get(url, {"q": "k"}).content.decode()
    found = client.get(url, {"q": "keb"}).content.decode()
    assert 'value="beef-kebab"' in found
    assert "lamb" not in found
    data = {"cut": "beef-kebab", "pile": "secondary"}
    assert client.post(reverse("bench:another_pile", args=[rows.test.pk]), data).status_code == 302
    added = load(rows.test.pk).outputs[-1]
    assert (added.retail, added.credit) == (D("9.99"), D("5.40"))
    assert (
        "Lean trim" not in client.get(reverse("bench:usual", args=[rows.test.pk])).content.decode()
    )
    with pytest.raises(BadInput, match="choose one of the cuts shown"):
        add_pile(rows.test.pk, "", "secondary", "beef-nothing")


def test_whoever_is_under_18_is_warned_at_a_saw(as_role, opened):
    rows = opened("beef-short-loin")
    steps = [
        (i, step)
        for i, step in enumerate(rows.test.plan.piece.steps.all(), 1)
        if step.machine == "saw"
    ]
    number = steps[0][0]
    for name, is_warned in (("tove", True), ("ines", False)):
        page = as_role(name).get(reverse("bench:test", args=[rows.test.pk]) + f"?step={number}")
        assert ("under 18: not at the saw" in page.content.decode()) == is_warned
    assert person("tove").is_under_18
    assert Tub.objects.count() == 0
