"""The guide at the block: a step beside the scale, its check ticked and recorded."""

import json
import uuid
from decimal import Decimal

import pytest
from django.urls import reverse

from cutting.quantities import UnitPrice, Weight
from formats.reading import read_document
from rooms.bench.actions.finishing import approve
from rooms.bench.actions.open_test import Opening, start_test
from rooms.bench.actions.record import check_step
from rooms.bench.actions.weighings import take_weight
from rooms.bench.models import Output, StepCheck
from rooms.bench.queries.checks import BOARD
from rooms.bench.queries.gave import gave
from rooms.bench.queries.rows import load
from rooms.bench.queries.steps import checks_of, step_at_block
from rooms.catalog.actions.edit import Editor, digest, save_piece
from rooms.catalog.models import Plan
from rooms.catalog.queries.rows import document_of
from rooms.common.errors import BadInput, Refused
from tests.conftest import address, capture, finish

pytestmark = pytest.mark.django_db


def test_a_plan_of_the_catalog_gives_the_test_its_piles_and_its_steps(shop):
    plan = Plan.objects.get(piece__key="beef-rib", key="mixed")
    opening = Opening(uuid.uuid4(), plan, Weight.of("19", "lb"), UnitPrice.of("9", "lb"))
    test = start_test(opening, None)
    names = list(Output.objects.filter(test=test).values_list("name", flat=True))
    assert names == list(plan.outputs.values_list("name", flat=True))
    at = step_at_block(load(test.pk).test, "3")
    assert at.step.title == "Three bones from the loin end as a roast"
    assert (at.number, at.back, at.next) == (3, 2, 4)
    assert {tick.text for tick in at.ticks} == {"Bone dust wiped off every face"}


@pytest.mark.parametrize(("typed", "number"), [("", 1), ("0", 1), ("5", 5), ("99", 6), ("x", 1)])
def test_the_step_asked_for_or_the_nearest_one_there_is(opened, typed, number):
    assert step_at_block(opened().test, typed).number == number


def test_turning_a_step_and_ticking_it_take_few_queries(
    client, opened, django_assert_max_num_queries
):
    rows = opened()
    with django_assert_max_num_queries(8):
        answer = client.get(reverse("bench:step", args=[rows.test.pk, 3])).content.decode()
    assert "Silver skin off in long strips" in answer
    assert 'aria-pressed="false"' in answer
    data = {"key": "silver-skin", "step": "3", "done": "1"}
    with django_assert_max_num_queries(14):
        answer = client.post(address("check", rows), data, headers={"HX-Request": "true"})
    assert 'aria-pressed="true"' in answer.content.decode()
    plain = client.post(address("check", rows), data)
    assert plain.url == address("test", rows) + "?step=3"
    assert StepCheck.objects.count() == 1


def test_a_tick_is_kept_with_who_and_when_and_said_twice_is_one(opened, shop):
    rows = opened()
    assert check_step(rows.test.pk, "silver-skin", shop["ines"].pk, is_done=True)
    assert not check_step(rows.test.pk, "silver-skin", shop["bram"].pk, is_done=True)
    assert check_step(rows.test.pk, "silver-skin", None, is_done=False)
    assert not check_step(rows.test.pk, "silver-skin", None, is_done=False)
    assert StepCheck.objects.filter(test=rows.test).count() == 2
    assert [(t.key, t.done) for t in checks_of(rows.test)] == [("silver-skin", None)]


def test_ticks_show_on_the_sheet_and_in_the_document_and_stand_after_the_finish(
    client, weighed, opened, shop
):
    rows = opened()
    rows = take_weight(rows.test.pk, capture(rows.outputs[0], "3.45"), None)
    check_step(rows.test.pk, "silver-skin", shop["ines"].pk, is_done=True)
    finish(rows.test.pk, str(load(rows.test.pk).revision))
    sheet = client.get(address("sheet", rows)).content.decode()
    assert "Silver skin off" in sheet
    assert "Ines" in sheet
    assert "not ticked" in client.get(address("sheet", weighed())).content.decode()
    record = json.loads(client.get(address("document", rows)).content)["record"]
    assert [(c["text"], c["by"]) for c in record["checks"]] == [("Silver skin off", "Ines")]
    assert read_document(json.loads(client.get(address("document", rows)).content)).record
    with pytest.raises(Refused, match="finished"):
        check_step(rows.test.pk, "silver-skin", None, is_done=False)
    answer = client.post(address("check", rows), {"key": "silver-skin", "done": "0"})
    assert answer.status_code == 409


@pytest.mark.parametrize("key", ["", "fat", "no-such", BOARD])
def test_a_step_without_a_check_has_nothing_to_tick(opened, key):
    with pytest.raises(BadInput, match="nothing to tick"):
        check_step(opened().test.pk, key, None, is_done=True)


def test_between_two_animals_the_board_is_sanitized_and_ticked(opened):
    """Common practice: block, knives and saw are cleaned and sanitized between species."""
    opened()
    assert step_at_block(opened().test, "1").ticks == []
    pork = opened("pork-loin")
    tick = step_at_block(pork.test, "1").ticks[0]
    assert (tick.key, tick.text) == (BOARD, "Board and knives sanitized after beef")
    assert check_step(pork.test.pk, BOARD, None, is_done=True)
    assert step_at_block(pork.test, "1").ticks[0].done.text == tick.text
    assert all(t.key != BOARD for t in step_at_block(pork.test, "2").ticks)


def test_a_tick_outlives_its_step(opened):
    rows = opened()
    check_step(rows.test.pk, "silver-skin", None, is_done=True)
    piece = document_of(only="beef-tenderloin")["pieces"]["beef-tenderloin"]
    steps = [step for step in piece["steps"] if step["key"] != "silver-skin"]
    save_piece("beef-tenderloin", {**piece, "steps": steps}, Editor(None, digest(piece)))
    assert [tick.text for tick in checks_of(load(rows.test.pk).test)] == ["Silver skin off"]


# --- what a plan gave in the shop's own tests ---


def test_a_guide_says_what_the_shops_own_approved_tests_gave(
    client, weighed, django_assert_max_num_queries
):
    assert gave("beef-tenderloin", "centre-filets-7oz") is None
    first, second = weighed(), weighed(piles=("3.60", "0.71", "0.93", "0.68", "0.22"))
    weighed(piles=("1.00",))  # out of balance and not approved: it does not count
    for rows in (first, second):
        approve(rows.test.pk, "", None)
    with django_assert_max_num_queries(4):
        found = gave("beef-tenderloin", "centre-filets-7oz")
    assert found.count == 2
    filet, purge = found.lines[0], found.lines[-1]
    paid = Decimal("6.17")
    assert round(filet.share, 20) == round((Decimal("3.45") + Decimal("3.60")) / (2 * paid), 20)
    assert round(filet.least, 20) == round(Decimal("3.45") / paid, 20)
    assert round(filet.most, 20) == round(Decimal("3.60") / paid, 20)
    assert (filet.usual, purge.least) == (Decimal("0.48"), 0)
    for piece, says in (
        ("beef-tenderloin", "pooled by weight over 2"),
        ("lamb-leg", "No approved"),
    ):
        answer = client.get(reverse("bench:gave", args=[piece]), {"plan": "centre-filets-7oz"})
        assert says in answer.content.decode()
