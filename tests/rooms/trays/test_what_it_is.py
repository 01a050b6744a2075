"""A tray is packed as what its meat is, with all that belongs to it, and only as much as there is."""

from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.labels.tray_life import Life
from cutting.quantities import Unit, Weight
from cutting.tracing.lots import lot_key
from rooms.catalog.models import Pile
from rooms.common.db.seen import state_of
from rooms.common.errors import BadInput, KeyTaken, Refused
from rooms.common.models import SentKey
from rooms.cooler.actions.bags import BagFacts, correct_bag
from rooms.grinder.actions.batch import carry_over, relabel, tell_fat
from rooms.grinder.actions.tubs import hand_over
from rooms.grinder.models import Batch, Seasoning
from rooms.pricebook.models import Adder, Price, Product
from rooms.trays.actions.house import change_label_rules
from rooms.trays.actions.life import becomes, last_event, not_so, to_tub
from rooms.trays.actions.printing import print_waiting, reprint
from rooms.trays.models import PrintJob, Tray
from rooms.trays.queries.labelling import card_document, picture_of
from rooms.trays.queries.lot_graph import Start, forwards
from rooms.trays.queries.packing import sources
from tests.conftest import words_of
from tests.rooms.grinder.helpers import tub
from tests.rooms.trays.helpers import KEY, of_bag, pack

pytestmark = pytest.mark.django_db
D = Decimal
NO = (BadInput, Refused)


def pile_of(rows, pile):
    return next(one for one in rows.outputs if one.pile == pile)


def product_of(output):
    return Product.objects.filter(cut=output.cut_id, is_sold=True).first()


def words_on(tray, stock="large"):
    return " ".join(one.text for one in picture_of(tray.label_now, stock).words)


# --- what it may be packed as: A1, A2 ---------------------------------------------------------


@pytest.mark.parametrize("pile", [Pile.LEAN, Pile.DISCARD])
def test_trim_and_waste_are_no_source_of_ground_beef(weighed, size, printer, pile):
    rows, ground = weighed(), Product.objects.get(cut__key="beef-ground")
    output = pile_of(rows, pile)
    assert f"test:{output.pk}" not in [one.text for one in sources(ground)]
    with pytest.raises(NO):
        pack(ground, size, "0.10", f"test:{output.pk}")
    assert not Tray.objects.exists()


def test_a_pile_is_packed_as_its_own_cut_and_no_other(weighed, size, printer, numbered):
    filet = weighed().outputs[0]
    with pytest.raises(NO, match="another cut"):
        pack(numbered, size, "0.54", f"test:{filet.pk}")
    assert pack(product_of(filet), size, "0.54", f"test:{filet.pk}").output == filet


def test_ground_meat_is_never_packed_by_hand(size, printer, chain):
    with pytest.raises(NO, match="batch"):
        pack(chain.product, size, "0.54")


# --- nothing is there twice: A3, A4, B7 --------------------------------------------------------


def test_what_lies_in_a_tub_is_not_packed_and_what_is_packed_not_handed_over(
    weighed, size, printer
):
    rows = weighed()
    trim, filet = pile_of(rows, Pile.LEAN), rows.outputs[0]
    hand_over(KEY(), tub("Chuck").pk, trim.pk, None)
    with pytest.raises(Refused):
        hand_over(KEY(), tub("Round").pk, trim.pk, None)
    pack(product_of(filet), size, "3.04", f"test:{filet.pk}")
    with pytest.raises(NO, match=r"0\.45 lb"):
        pack(product_of(filet), size, "0.54", f"test:{filet.pk}")


def test_a_batch_gives_no_more_than_came_out(chain, size):
    left = next(one for one in sources(chain.product) if one.text == f"batch:{chain.batch.pk}")
    more = left.left.value + D("0.05") + D("0.04")
    with pytest.raises(NO):
        pack(chain.product, size, f"{more:f}", f"batch:{chain.batch.pk}")


# --- what travels with it: A5, A6, C2 ----------------------------------------------------------


def test_a_statement_follows_the_meat_when_it_is_cut_again(chain, size, printer):
    tray = chain.trays[0]
    assert "85 % lean" in tray.document["product"]["name"]
    tray.document |= {"ingredients": ["beef", "soy sauce"], "allergens": ["soy"]}
    tray.document |= {"tenderized": True, "frozen_before": True}
    tray.save()
    becomes(KEY(), tray.pk, Life.TO_BLOCK, None)
    again = pack(chain.product, size, "1.04", f"tray:{tray.pk}").document
    assert "85 % lean" in again["product"]["name"]
    assert again["allergens"] == ["soy"]
    assert again["ingredients"] == ["beef", "soy sauce"]
    assert (again["tenderized"], again["frozen_before"]) == (True, True)
    assert "Contains soy" in " ".join(one.text for one in picture_of(again, "large").words)


def test_a_seasoned_tray_and_the_rest_of_its_batch_go_into_no_tub_of_plain_trim(chain):
    row = Seasoning.objects.create(
        name="soy mix", share=D("0.02"), ingredients="soy sauce", allergens=["soy"], per="lb"
    )
    Batch.objects.filter(pk=chain.batch.pk).update(seasoning=row)
    plain = tub("Plain")
    with pytest.raises(NO, match="soy"):
        carry_over(KEY(), chain.batch.pk, plain.pk, None)
    tray = chain.trays[0]
    tray.document |= {"ingredients": ["beef", "soy sauce"], "allergens": ["soy"]}
    tray.save()
    with pytest.raises(NO, match="soy"):
        to_tub(KEY(), tray.pk, plain.pk, None)
    assert Tray.objects.get(pk=tray.pk).state is Life.PACKED


def test_a_batch_over_its_label_is_not_labeled_until_it_is_relabeled(chain, size):
    tell_fat(KEY(), chain.batch.pk, D("0.24"), None)
    source = f"batch:{chain.batch.pk}"
    with pytest.raises(NO, match="tested 24"):
        pack(chain.product, size, "1.04", source)
    with pytest.raises(BadInput):
        relabel(KEY(), chain.batch.pk, D("0.15"), None)
    relabel(KEY(), chain.batch.pk, D("0.24"), None)
    assert "76 % lean" in pack(chain.product, size, "1.04", source).document["product"]["name"]


@pytest.mark.parametrize(
    ("life", "says"),
    [
        (("US", "US", "US"), "Born, raised and slaughtered in the U.S."),
        (("CA", "US", "US"), "Born in Canada, raised and slaughtered in the U.S."),
        (("", "", ""), None),
    ],
)
def test_a_lamb_cut_tells_where_it_lived_or_is_not_packed(weighed, fill, size, printer, life, says):
    """7 CFR 65, value from memory."""
    (bag,) = fill(("lamb-leg", 3, "8.20"))
    bag.born, bag.raised, bag.slaughtered = life
    bag.country = "United States"
    bag.save()
    rows = weighed(piece="lamb-leg", paid="8.20", piles=("3.00",), **of_bag(bag))
    output = rows.outputs[0]
    product, source = product_of(output), f"test:{output.pk}"
    if says is None:
        with pytest.raises(NO, match="born, raised and slaughtered"):
            pack(product, size, "1.04", source)
        change_label_rules({"tells_origin": False}, None)
        pack(product, size, "1.04", source)
        return
    assert says in words_on(pack(product, size, "1.04", source))


# --- one source is chosen: use.md --------------------------------------------------------------


def test_without_a_source_a_reason_is_asked_and_kept(numbered, size, printer):
    for reason in ("", " x "):
        with pytest.raises(BadInput, match="No lot"):
            pack(numbered, size, "1.04", no_lot_reason=reason)
    tray = pack(numbered, size, "1.04", no_lot_reason="the bag was gone")
    assert (tray.no_lot_reason, tray.lots) == ("the bag was gone", [])


def test_of_several_sources_none_is_chosen_and_no_lot_stands_last(client, weighed, size, printer):
    first, second = weighed(), weighed()
    product = product_of(first.outputs[0])
    page = words_of(client.get(reverse("trays:front"), {"product": product.pk}))
    assert "Choose above what it is packed from" in page
    places = [page.index(f"test:{rows.outputs[0].pk}") for rows in (first, second)]
    assert max(places) < page.index("No lot")


def test_what_is_past_its_last_day_is_shown_to_be_thrown_away_and_chosen_by_nobody(
    client, chain, size
):
    Batch.objects.update(begun_at=timezone.now() - timedelta(days=2))
    (one,) = sources(chain.product)
    assert one.is_past
    page = words_of(client.get(reverse("trays:front"), {"product": chain.product.pk}))
    assert "Throw it away." in page
    assert "Choose above what it is packed from" in page
    with pytest.raises(NO, match="Sell by"):
        pack(chain.product, size, "1.04", one.text)


# --- a fixed total, its law --------------------------------------------------------------------


def test_a_fixed_total_still_tells_net_weight_and_the_price_that_follows(numbered, size, printer):
    """NIST Handbook 130, Uniform Packaging and Labeling Regulation; value from memory."""
    tray = pack(numbered, size, "1.04", total=D("12.00"))
    assert tray.total == D("12.00")
    assert tray.amount == D("12.00")
    two = pack(numbered, size, "2.04", total=D("15.00"))
    assert (two.net, two.amount) == (D("2.00"), D("7.50"))
    words = words_on(two)
    assert "Net wt." in words
    assert "7.50" in words
    for wrong in (D(0), D(-1)):
        with pytest.raises(BadInput):
            pack(numbered, size, "1.04", total=wrong)


def test_safe_handling_is_never_left_off(client, numbered, size, printer):
    """9 CFR 317.2(l): on the label or on a second one of the same tray."""
    change_label_rules({"stock": "middle"}, None)
    tray = pack(numbered, size, "1.04")
    printed = " ".join(
        one.text
        for job in tray.jobs.all()
        for one in picture_of(job.document or tray.label_now, job.stock).words
    )
    assert "Safe handling" in printed or "SAFE HANDLING" in printed.upper()
    with pytest.raises(BadInput, match="safe handling"):
        change_label_rules({"stock": "small"}, None)


def test_a_shop_without_a_place_has_no_label(numbered, size, printer):
    """9 CFR 317.2(g)."""
    change_label_rules({"place": ""}, None)
    with pytest.raises(NO, match=r"place|address"):
        pack(numbered, size, "1.04")


# --- the pairs of its life: C1, C4, C5 ---------------------------------------------------------


def test_a_mistake_is_taken_back_once_and_then_the_one_before(numbered, size, printer):
    tray = pack(numbered, size, "1.04")
    becomes(KEY(), tray.pk, Life.IN_CASE, None)
    becomes(KEY(), tray.pk, Life.SOLD, None)
    seen = str(last_event(tray).pk)
    not_so(KEY(), tray.pk, None, seen)
    with pytest.raises(Refused, match="in case"):  # the other tablet's page
        not_so(KEY(), tray.pk, None, seen)
    assert Tray.objects.get(pk=tray.pk).state is Life.IN_CASE
    not_so(KEY(), tray.pk, None, str(last_event(tray).pk))
    assert Tray.objects.get(pk=tray.pk).state is Life.PACKED
    with pytest.raises(Refused, match="nothing became of it"):
        not_so(KEY(), tray.pk, None)


@pytest.mark.parametrize("life", [Life.THROWN, Life.TO_BLOCK, Life.TO_TUB, Life.SOLD, Life.UNDONE])
def test_labels_of_a_tray_that_is_gone_do_not_come_out(numbered, size, printer, life):
    printer.trouble = "the roll is empty"
    tray = pack(numbered, size, "1.04")
    print_waiting()
    if life is Life.TO_TUB:
        to_tub(KEY(), tray.pk, tub("Chuck").pk, None)
    else:
        becomes(KEY(), tray.pk, life, None, "fell")
    printer.trouble = ""
    print_waiting()
    assert printer.out == []
    with pytest.raises(Refused):
        reprint(KEY(), tray.pk, None)


def test_a_label_that_cannot_be_drawn_stops_no_other(numbered, size, printer, monkeypatch):
    printer.trouble = "the roll is empty"
    bad, good = pack(numbered, size, "1.04"), pack(numbered, size, "1.14")
    Tray.objects.filter(pk=bad.pk).update(document={})
    PrintJob.objects.filter(tray=bad).update(document={})
    printer.trouble = ""
    print_waiting()
    assert good.jobs.get().state == PrintJob.State.PRINTED
    assert bad.jobs.get().state == PrintJob.State.FAILED
    assert "cannot be drawn" in bad.jobs.get().said


def test_the_same_key_packs_once_and_with_another_weight_is_told(numbered, size, printer):
    key = KEY()
    first = pack(numbered, size, "1.04", key=key)
    assert pack(numbered, size, "1.04", key=key) == first
    with pytest.raises(KeyTaken):
        pack(numbered, size, "1.05", key=key)
    assert Tray.objects.get() == first
    assert first.weight == Weight(D("1.00"), Unit.LB)


def test_a_pile_handed_over_before_keys_had_digests_is_the_same_when_it_comes_again(weighed, size):
    trim, chuck, round_, key = pile_of(weighed(), Pile.LEAN), tub("Chuck"), tub("Round"), KEY()
    first = hand_over(key, chuck.pk, trim.pk, None)
    SentKey.objects.all().delete()
    assert hand_over(key, chuck.pk, trim.pk, None) == first
    SentKey.objects.all().delete()
    with pytest.raises(KeyTaken):
        hand_over(key, round_.pk, trim.pk, None)


def test_trays_packed_before_their_bag_was_corrected_are_found_by_its_lot_now(chain):
    bag = chain.bag
    bag.refresh_from_db()
    life = (bag.country, bag.born, bag.raised, bag.slaughtered)
    correct_bag(bag.pk, BagFacts("L41", bag.packed_on, None, "", *life), state_of(bag), None)
    trays = {one.pk for one in chain.trays}
    found = forwards(Start(lot=lot_key("L41"))).all_trays().values_list("pk", flat=True)
    assert trays <= set(found)
    old = forwards(Start(lot=lot_key("L40"))).all_trays().values_list("pk", flat=True)
    assert trays <= set(old)  # as their record tells it


# --- what a value-adding step makes of it -----------------------------------------------------


def step(makes, **more):
    return Adder.objects.create(name=f"{makes.capitalize()} it", makes=makes, **more)


MIX = {"ingredients": "salt, black pepper, soy sauce (wheat)", "allergens": ["soybeans", "wheat"]}


@pytest.mark.parametrize(
    ("adder", "says", "not_so_any_more", "traced"),
    [
        (
            ("tenderized", {}),
            ["Mechanically tenderized"],
            "Safe from 145",
            "mechanically tenderized",
        ),
        (("cubed", {}), ["Cook it through: 160 °F"], "Safe from 145", "cubed"),
        (
            ("seasoned", MIX),
            [
                "Ingredients: beef, salt, black pepper, soy sauce (wheat)",
                "Contains soybeans, wheat.",
            ],
            "tenderized",
            "seasoned, contains soybeans, wheat",
        ),
    ],
)
def test_a_step_is_told_on_the_label_and_travels_with_the_tray(
    client, weighed, size, printer, adder, says, not_so_any_more, traced
):
    filet = weighed().outputs[0]
    product = product_of(filet)
    plain = pack(product, size, "0.54", f"test:{filet.pk}")
    product.adders.add(step(adder[0], **adder[1]))
    tray = pack(product, size, "0.54", f"test:{filet.pk}")
    on_label = words_on(tray)
    assert all(one in on_label for one in says)
    assert not_so_any_more not in on_label
    assert not any(one in words_on(plain) for one in says)
    product.adders.clear()  # taken off since: what lies on the tray stays what it is
    becomes(KEY(), tray.pk, Life.TO_BLOCK, None)
    again = pack(product, size, "0.44", f"tray:{tray.pk}")
    assert all(one in words_on(again) for one in says)
    for kind, one in (("test", filet.test_id), ("tray", again.pk)):
        assert traced in words_of(client.get(reverse("recall:trace", args=[kind, str(one)]))), kind
    if adder[0] == "seasoned":
        with pytest.raises(NO, match="seasoned"):
            to_tub(KEY(), tray.pk, tub("Chuck").pk, None)


def test_a_seasoned_product_without_ingredients_is_not_packed(weighed, size, printer):
    """9 CFR 317.2(f), value from memory."""
    filet = weighed().outputs[0]
    product = product_of(filet)
    product.adders.add(step("seasoned"))
    with pytest.raises(NO, match="names no ingredients; write them under Value added"):
        pack(product, size, "0.54", f"test:{filet.pk}")
    assert not Tray.objects.exists()


def test_cards_and_labels_tell_of_the_same_step(client, shop, numbered):
    price = Price.objects.filter(product=numbered).first()
    before = " ".join(card_document(numbered, price)["told"])
    assert "Off the fire at: rare 120 °F" in before
    assert "Safe from 145 °F" in before
    assert "Done at" not in before
    numbered.adders.add(step("tenderized"))
    after = " ".join(card_document(numbered, price)["told"])
    assert "Mechanically tenderized" in after
    assert "rare" not in after
    page = words_of(client.get(reverse("pricebook:cards"), {"animal": "beef"}))
    assert "mechanically tenderized, so as its label says" in page
