"""Whatever is done at the block, with trays and at the tubs: no meat is there twice, none is lost, every lot is
found both ways, nothing held moves. Rules are actions, as two tablets with stale pages and old keys send them."""

from dataclasses import replace
from decimal import Decimal

import pytest
from django.db import transaction
from hypothesis.stateful import (
    initialize,
    invariant,
)

from cutting.labels.tray_life import Life
from cutting.quantities import ZERO, Unit, Weight
from cutting.tracing.lots import lot_key
from rooms.bench.actions.finishing import reopen
from rooms.bench.actions.weighings import take_back, take_weight
from rooms.bench.models import Unplaced, Weighing
from rooms.bench.queries.pile_left import left_on_pile
from rooms.bench.queries.rows import load_known
from rooms.catalog.models import Pile
from rooms.common.errors import KeyTaken, Refused
from rooms.cooler.actions.holds import hold_lot, lift_hold
from rooms.cooler.models import LotHold
from rooms.grinder.actions.tubs import hand_over, take_back_entry
from rooms.grinder.models import TubIn
from rooms.pricebook.models import Product
from rooms.trays.actions.life import becomes, last_event, not_so, to_tub
from rooms.trays.models import Tray, TrayEvent
from rooms.trays.queries.lot_graph import Start, forwards
from rooms.trays.queries.meat import left_on_tray
from tests.conftest import capture, finish
from tests.rooms.grinder.helpers import tub
from tests.rooms.trays.helpers import KEY, LOT, of_bag, pack
from tests.rooms.trays.walks import Walking, walked

pytestmark = pytest.mark.django_db
D = Decimal


DEEDS = (
    "packs",
    "hands_over",
    "weighs",
    "says_what_became_of_it",
    "puts_it_into_a_tub",
    "says_it_is_not_so",
    "packs_again",
    "takes_out_of_the_tub",
    "sends_a_weighing_again",
    "goes_back_to_the_block",
    "presses_again",
    "presses_altered",
    "alters_a_weighing",
    "holds",
    "lifts",
)


class Moves(Walking):
    """`world`: fixtures that make a bag and a test of it, set by the test."""

    world = None
    deeds = DEEDS
    hundredths = (5, 250)
    checks = ("nothing_held_moves", "no_meat_is_lost_or_there_twice")

    @initialize()
    def begin(self):
        self.outer = transaction.atomic()
        self.outer.__enter__()
        fill, weighed, self.size = self.world
        (bag,) = fill(("beef-tenderloin", 40, "6.17"))
        self.test = weighed(**of_bag(bag)).test.pk
        self.tubs = [tub("Chuck").pk, tub("Round").pk]
        self.keys = []
        self.sent = []
        self.moved_before = 0

    def teardown(self):
        """Lots are looked for once a run: the search walks the whole graph."""
        if hasattr(self, "test"):
            self.every_tray_of_the_lot_is_found_and_no_other()
        transaction.set_rollback(True)
        self.outer.__exit__(None, None, None)

    @property
    def rows(self):
        return load_known(self.test)

    def tray(self, place):
        trays = list(Tray.objects.order_by("number"))
        return trays[place % len(trays)] if trays else None

    def sends(self, act, *values):
        """One action as a page sends it, with a key of its own; what it refuses changes nothing."""
        self.keys.append((act, values, KEY()))
        return self._send(*self.keys[-1])

    def _send(self, act, values, key):
        before = self.facts()
        try:
            act(key, *values)
        except Refused:
            assert self.facts() == before, f"{act.__name__} was refused and changed something"

    def facts(self):
        models = (Tray, TrayEvent, TubIn, Weighing, Unplaced)
        return [one.objects.count() for one in models]

    # --- what people do ---

    def packs(self, place, weight):
        piles = [one for one in self.rows.outputs if one.pile in (Pile.PORTIONS, Pile.SECONDARY)]
        output = piles[place % len(piles)]
        product = Product.objects.filter(cut=output.cut_id, is_sold=True).first()
        if product is not None:
            gross = f"{weight + D('0.04'):f}"
            self.sends(lambda key: pack(product, self.size, gross, f"test:{output.pk}", key=key))

    def hands_over(self, place, other):
        outputs = self.rows.outputs
        self.sends(hand_over, self.tubs[other % 2], outputs[place % len(outputs)].pk, None)

    def says_what_became_of_it(self, place, other):
        life = list(Life)[other % len(Life)]
        if (tray := self.tray(place)) and life not in (Life.TO_TUB, Life.MARKED_DOWN):
            self.sends(becomes, tray.pk, life, None, "fell")

    def puts_it_into_a_tub(self, place, other):
        if tray := self.tray(place):
            self.sends(to_tub, tray.pk, self.tubs[other % 2], None)

    def says_it_is_not_so(self, place, is_stale):
        if tray := self.tray(place):
            last = last_event(tray)
            seen = "" if last is None else str(last.pk - is_stale)
            self.sends(not_so, tray.pk, None, seen)

    def packs_again(self, place):
        if tray := self.tray(place):
            self.sends(
                lambda key: pack(tray.product, self.size, "0.34", f"tray:{tray.pk}", key=key)
            )

    def takes_out_of_the_tub(self, place):
        entries = list(TubIn.objects.order_by("id"))
        if entries:
            self.sends(take_back_entry, entries[place % len(entries)].pk, None)

    def weighs(self, place, weight):
        """Also when the test is finished: it waits then."""
        outputs = self.rows.outputs
        one = capture(outputs[place % len(outputs)], f"{weight:f}")
        self.sent.append(one)
        take_weight(self.test, one, None)

    def sends_a_weighing_again(self, place):
        if not self.sent:
            return
        before = self.facts()
        take_weight(self.test, self.sent[place % len(self.sent)], None)
        assert self.facts() == before

    def goes_back_to_the_block(self, place, is_stale):
        try:
            if is_stale:
                reopen(self.test, self.rows.test.cutter_id)
                standing = self.rows.standing
                take_back(self.test, str(standing[place % len(standing)].pk), None)
            else:
                finish(self.test, str(self.rows.revision))
        except Refused:
            pass

    def presses_again(self, place):
        """The same key with the same content: nothing changes, whatever happened meanwhile."""
        if not self.keys:
            return
        act, values, key = self.keys[place % len(self.keys)]
        was_done = any(
            model.objects.filter(**{name: key}).exists()
            for model, name in ((Tray, "pk"), (TrayEvent, "key"), (TubIn, "key"))
        )
        before = self.facts()
        self._send(act, values, key)
        assert not was_done or self.facts() == before

    def alters_a_weighing(self, place):
        if not self.sent:
            return
        before = self.facts()
        one = self.sent[place % len(self.sent)]
        with pytest.raises(KeyTaken):
            take_weight(self.test, replace(one, value=f"{D(one.value) + 1:f}"), None)
        assert self.facts() == before

    def holds(self):
        if not LotHold.objects.standing().exists():
            hold_lot(KEY(), LOT, "the supplier called", None)
            self.moved_before = self.moved()

    def lifts(self):
        for hold in LotHold.objects.standing():
            lift_hold(KEY(), hold.pk, "false alarm", None)

    # --- what always holds ---

    @staticmethod
    def moved():
        """Trays and tubs that meat of the lot went into, and sales."""
        sold = TrayEvent.objects.filter(undoes=None).exclude(life__in=[Life.THROWN, Life.UNDONE])
        return Tray.objects.count(), TubIn.objects.count(), sold.count()

    @invariant()
    def nothing_held_moves(self):
        if hasattr(self, "test") and LotHold.objects.standing().exists():
            assert self.moved() == self.moved_before

    @invariant()
    def no_meat_is_lost_or_there_twice(self):
        if not hasattr(self, "test"):
            return
        rows = self.rows
        unit = Unit(rows.test.weight_unit)
        for output in rows.outputs:
            lies = sum((one.reading.weight.to(unit) for one in rows.of(output)), ZERO)
            trays = Tray.objects.standing().filter(output=output)
            gone = sum((one.weight.to(unit) for one in trays), ZERO)
            into = TubIn.objects.standing().filter(output=output).select_related("tub")
            gone += sum((Weight(one.weight, Unit(one.tub.unit)).to(unit) for one in into), ZERO)
            left = left_on_pile(rows, output)
            assert abs(left.value + gone - lies) < D("0.0001")
        for tray in Tray.objects.standing():
            assert left_on_tray(tray).value >= 0

    def every_tray_of_the_lot_is_found_and_no_other(self):
        found = set(forwards(Start(lot=lot_key(LOT))).all_trays().values_list("pk", flat=True))
        trays = Tray.objects.standing()
        right = {
            one.pk
            for one in trays
            if any(lot_key(lot.get("lot", "")) == lot_key(LOT) for lot in one.lots)
        }
        assert found & set(trays.values_list("pk", flat=True)) == right


def test_no_meat_is_lost_held_meat_stays_and_every_lot_is_found(
    fill, weighed, size, numbered, printer
):
    Moves.world = fill, weighed, size
    walked(Moves, walks=3, steps=30)
