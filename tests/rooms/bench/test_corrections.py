"""A finished sheet is corrected beside the old one; a scale is checked every day."""

import uuid
from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from cutting.quantities import Weight
from cutting.sheet.cutting_test import figures
from rooms.bench.actions.correct import Correcting, correct
from rooms.bench.actions.finishing import approve, reopen
from rooms.bench.actions.pieces import put_back
from rooms.bench.actions.scales import check_scale
from rooms.bench.models import Correction, ScaleCheck
from rooms.bench.queries.corrections import as_it_was, changes_of, corrections_of
from rooms.bench.queries.reading import Proof
from rooms.bench.queries.rows import load
from rooms.bench.queries.scale_checks import failed_on, of_day
from rooms.common.errors import BadInput, Refused
from rooms.pricing.actions.save import Saving, save_prices
from rooms.pricing.queries.building import price_view
from rooms.pricing.queries.listing import current_prices
from rooms.pricing.queries.wishes import Wish
from tests.conftest import finish, reading, words_of
from tests.rooms.trays.helpers import of_bag

pytestmark = pytest.mark.django_db
D = Decimal


def correcting(rows=None, weights=None, added=None, facts=None, **more):
    """`weights`: place of the weighing to the right weight; `added`: place of the pile."""
    more.setdefault("key", str(uuid.uuid4()))
    more.setdefault("reason", "The tub was left on.")
    weighings = {rows.standing[i].pk: w for i, w in (weights or {}).items()}
    missed = {rows.outputs[i].pk: w for i, w in (added or {}).items()}
    return Correcting(weighings=weighings, added=missed, facts=facts or {}, **more)


def sums(rows):
    return [line.weight for line in figures(rows.whole).outputs]


def test_a_correction_keeps_both_versions_and_says_what_changed(weighed, shop):
    rows = weighed()
    before = sums(rows)
    wanted = correcting(rows, {0: "3.40", 1: ""}, {2: "0.05"}, {"price_amount": "7.99"})
    for _ in range(2):  # the same key again changes nothing
        after = correct(rows.test.pk, wanted, shop["bram"].pk)
    assert Correction.objects.count() == 1
    assert sums(after) == [D("3.40"), 0, D("0.98"), *before[3:]]
    assert after.test.price_amount == D("7.99")
    corrections = corrections_of(after.test)
    assert sums(as_it_was(load(rows.test.pk), corrections, 0)) == before
    assert as_it_was(load(rows.test.pk), corrections, 0).test.price_amount == D("7.49")
    assert [(c.what, c.was, c.now) for c in changes_of(after, corrections, corrections[0])] == [
        ("Price paid", "7.49", "7.99"),
        ("Center filet", "3.45 lb", "3.40 lb"),
        ("Tips", "0.80 lb", ""),
        ("Lean trim", "", "0.05 lb"),
    ]


@pytest.mark.long
@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=15)
@given(
    st.lists(
        st.dictionaries(st.integers(0, 3), st.decimals("0.01", "4", places=2), min_size=1),
        min_size=1,
        max_size=3,
    )
)
def test_whatever_is_corrected_every_older_version_reads_as_it_did(weighed, shop, rounds):
    rows = weighed()
    versions = [sums(rows)]
    for number, weights in enumerate(rounds):
        values = {i: f"{w:f}" for i, w in weights.items() if rows.standing[i].value != w}
        if values:
            wanted = correcting(rows, values, seen=str(rows.revision), reason=f"round {number}")
            rows = correct(rows.test.pk, wanted, shop["bram"].pk)
            versions.append(sums(rows))
    corrections = corrections_of(rows.test)
    for version, was in enumerate(versions):
        assert sums(as_it_was(load(rows.test.pk), corrections, version)) == was


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"weights": {0: "0"}}, "Weighing 3.45 lb: 0 lb is not right"),
        ({"weights": {0: "x"}}, "Weighing 3.45 lb: 'x' is not a plain decimal"),
        ({"added": {0: "-1"}}, "Missed of Center filet: -1 lb is not right"),
        ({"facts": {"price_amount": "0"}}, "price: a price of 0"),
        ({"facts": {"price_amount": ""}}, "Price paid: it is empty"),
        ({"facts": {"weight_value": "-2"}}, "weight: a weight of -2 lb"),
        ({"facts": {"discount": "999"}}, "999 is more than the piece costs"),
        ({"weights": {0: "3.40"}, "reason": " "}, "Reason: 3 to 500 characters"),
        ({"weights": {0: "3.40"}, "key": "x"}, "without its own key"),
        ({}, "nothing differs from the sheet"),
        ({"facts": {"number": "7"}}, "nothing differs"),
    ],
)
def test_a_wrong_correction_is_refused_and_nothing_is_kept(weighed, shop, more, says):
    rows = weighed()
    with pytest.raises(BadInput) as refused:
        correct(rows.test.pk, correcting(rows, **more), shop["bram"].pk)
    assert says in refused.value.message
    assert not Correction.objects.exists()
    assert load(rows.test.pk).test.price_amount == D("7.49")


def test_an_open_test_is_not_corrected_and_a_stale_page_is_told_what_changed(opened, weighed, shop):
    with pytest.raises(Refused, match="still open"):
        correct(opened().test.pk, correcting(), shop["bram"].pk)
    rows = weighed()
    correct(rows.test.pk, correcting(rows, {0: "3.40"}), shop["bram"].pk)
    late = correcting(load(rows.test.pk), {1: "0.70"}, seen=str(rows.revision))
    with pytest.raises(Refused, match=r"changed since .* its last correction is “The tub"):
        correct(rows.test.pk, late, shop["bram"].pk)
    with pytest.raises(Refused, match="was corrected; correct it again"):
        reopen(rows.test.pk, shop["bram"].pk)


def test_the_page_shows_the_versions_and_keeps_what_was_typed(client, as_role, weighed):
    rows = weighed()
    url = reverse("bench:correct", args=[rows.test.pk])
    first = rows.weighings[0].pk
    data = {"key": uuid.uuid4(), "seen": rows.revision, f"weighing-{first}": "3.40", "reason": ""}
    answer = client.post(url, data)
    assert answer.status_code == 422
    assert 'value="3.40"' in words_of(answer)
    assert client.post(url, data | {"reason": "<b>Tub</b> left on"}).status_code == 302
    sheet = reverse("bench:sheet", args=[rows.test.pk])
    page = words_of(client.get(sheet))
    assert "&lt;b&gt;Tub&lt;/b&gt; left on" in page
    assert "As it was finished" in page
    for version, says in (
        ("0", "as it was finished"),
        ("9", "Shown as corrected"),
        ("x", "Shown as corrected"),
    ):
        assert says in words_of(client.get(sheet, {"version": version}))
    assert "Correct it, with a reason" not in words_of(as_role("ines").get(sheet))


def test_prices_that_rest_on_a_corrected_sheet_are_flagged_and_not_changed(client, weighed, shop):
    rows = weighed()
    approve(rows.test.pk, "", shop["bram"].pk)
    save_prices(
        load(rows.test.pk), Wish(shown=price_view(rows, Wish()).shown), Saving(shop["bram"].pk)
    )
    prices = {line.product.name: line.now.amount for line in current_prices() if line.now}
    assert not any(line.shaken for line in current_prices())
    later = timezone.now() + timedelta(minutes=1)
    correct(rows.test.pk, correcting(rows, {0: "3.20"}), shop["bram"].pk, later)
    flagged = [line for line in current_prices() if line.shaken]
    assert {line.now.from_test for line in flagged} == {rows.test.pk}
    assert {line.product.name: line.now.amount for line in current_prices() if line.now} == prices
    assert "was corrected: The tub" in client.get(reverse("pricing:prices")).content.decode()
    assert "The tub was left on." in client.get("/").content.decode()


# --- the scale ---


def check(*lines, **more):
    more.setdefault("key", uuid.uuid4())
    proofs = [(load, shown, Proof(**r) if r else None) for load, shown, r in lines]
    return check_scale(more["key"], more.get("scale", "block"), proofs, None)


def test_a_check_is_judged_by_the_core_and_kept_once(shop):
    key = uuid.uuid4()
    for _ in range(2):
        found = check(("0", "0.00", reading("0.00")), ("10", "10.03", None), key=key)
    assert ScaleCheck.objects.count() == 1
    assert not found.holds
    assert [(line["holds"], line["is_typed"]) for line in found.lines] == [
        (True, False),
        (False, True),
    ]


@pytest.mark.parametrize(
    ("lines", "scale", "says"),
    [
        ([("10", "10.00", None)], "block", "the empty scale (0) and at least one"),
        ([("5", "5.00", None), ("10", "10.00", None)], "block", "the empty scale (0)"),
        ([("0", "x", None), ("10", "10.00", None)], "block", "Test weight 1: weight: 'x'"),
        ([("0", "0", None), ("-1", "10.00", None)], "block", "Test weight 2: load"),
        ([("0", "0", None), ("10", "10.00", "other")], "block", "signature"),
        ([("0", "0", None), ("10", "10.00", "tared")], "block", "without a tare"),
        ([("0", "0", None), ("10", "10.00", None)], "attic", "one of the shop's scales"),
    ],
)
def test_a_wrong_check_is_refused(shop, lines, scale, says):
    made = {"other": reading("10.00", key="no"), "tared": reading("10.00", tare="1.00")}
    with pytest.raises(BadInput) as refused:
        check(*[(load, shown, made.get(proof)) for load, shown, proof in lines], scale=scale)
    assert says in refused.value.message


def test_a_failed_check_stands_on_every_sheet_of_its_day_and_scale(client, weighed):
    signed, typed = weighed(signed=True), weighed()
    assert of_day(timezone.localdate())[0].is_trouble  # none yet
    check(("0", "0", None), ("10", "10.05", None))
    (said,) = failed_on(load(signed.test.pk))
    assert "10.05 lb shown for 10, 0.02 off is allowed." in said
    assert failed_on(load(typed.test.pk)) == []  # nothing of it was weighed on that scale
    check(("0", "0", None), ("10", "10.00", None))
    assert "It held again at" in failed_on(load(signed.test.pk))[0]
    assert "It had failed before." in of_day(timezone.localdate())[0].words
    ScaleCheck.objects.filter(holds=False).update(at=timezone.now() - timedelta(days=2))
    assert failed_on(load(signed.test.pk)) == []


def test_the_scales_page_judges_and_keeps_what_was_typed(client, shop):
    data = {
        "key": uuid.uuid4(),
        "scale": "block",
        "load": ["0", "10"],
        "shown": ["0.00", "ten"],
        "proof": ["", ""],
    }
    answer = client.post("/scale/", data)
    assert answer.status_code == 422
    assert 'value="ten"' in answer.content.decode()
    assert client.post("/scale/", data | {"shown": ["0.00", "10.00"]}).status_code == 302
    assert "held at" in client.get("/scale/").content.decode()
    assert "held at" in client.get("/scale/standing/").content.decode()
    for bad in ({"proof": ["{", ""]}, {"key": "x"}):
        assert client.post("/scale/", data | {"key": uuid.uuid4()} | bad).status_code == 422
    client.post("/scale/tare/", {"name": "<i>Blue</i>", "value": "1.12", "unit": "lb"})
    assert "&lt;i&gt;Blue&lt;/i&gt;" in client.get("/scale/").content.decode()
    assert client.post("/scale/tare/", {"name": "", "value": "1"}).status_code == 422


def test_no_more_is_paid_for_than_the_bags_hold_with_what_was_put_back(fill, weighed, shop):
    (bag,) = fill(("beef-tenderloin", 20, "6.17"))
    rows = weighed(piles=("3.00",), **of_bag(bag))
    reopen(rows.test.pk, shop["ines"].pk)
    put_back(rows.test.pk, uuid.uuid4(), Weight.of("2.00", "lb"), shop["ines"].pk)
    rows = load(rows.test.pk)
    finish(rows.test.pk, str(rows.revision))
    rows = load(rows.test.pk)

    def paid(weight):
        fixed = Correcting(
            str(uuid.uuid4()), "misread", {}, {}, {"weight_value": weight}, str(rows.revision)
        )
        return correct(rows.test.pk, fixed, shop["bram"].pk)

    with pytest.raises(BadInput, match=r"6.17 lb, 2.00 of it put back; at most 4.17 is right"):
        paid("6.17")
    assert load(rows.test.pk).test.weight_value == D("4.17")
    paid("4.10")
    assert load(rows.test.pk).test.weight_value == D("4.10")
