"""Whatever is done with tubs, batches and their trays: no meat is there twice, none is lost, every lot is found,
nothing held moves. Rules are actions, as two tablets with stale pages and old keys send them."""

from decimal import Decimal
from functools import partial
from uuid import uuid4

import pytest
from django.db import transaction
from django.utils import timezone
from hypothesis.stateful import (
    initialize,
    invariant,
)

from cutting.quantities import ZERO, Unit, Weight
from cutting.tracing.lots import lot_key
from rooms.common.errors import Refused
from rooms.cooler.actions.holds import hold_lot, lift_hold
from rooms.cooler.models import LotHold
from rooms.grinder.actions.batch import (
    Begun,
    CameOut,
    begin_batch,
    carry_over,
    clean_down,
    finish_batch,
    undo_batch,
)
from rooms.grinder.actions.tubs import (
    close_tub,
    left_of,
    put_in,
    take_back_entry,
    take_back_throwing,
    throw_away,
)
from rooms.grinder.models import Batch, BlendPlan, TrimTub, TubIn, TubOut
from rooms.grinder.queries.log import found
from rooms.grinder.queries.packed import left_to_pack
from rooms.pricebook.models import Product
from rooms.trays.actions.life import last_event, not_so, to_tub
from rooms.trays.models import Tray, TrayEvent
from rooms.trays.queries.lot_graph import Start, forwards
from tests.conftest import person
from tests.rooms.grinder.helpers import blend, tub
from tests.rooms.trays.helpers import flat_iron, pack, tray_set
from tests.rooms.trays.walks import Walking, walked

pytestmark = pytest.mark.django_db
D = Decimal
HELD = "L1"


def lots_in(entries):
    return {lot_key(lot["lot"]) for one in entries for lot in one.lots if lot.get("lot")}


DEEDS = (
    "packs",
    "grinds",
    "blends",
    "says_what_came_out",
    "puts_a_tray_into_a_tub",
    "pours_trim_in",
    "begins_by_mistake",
    "carries_over",
    "says_it_is_not_so",
    "takes_back_what_went_in",
    "throws_away",
    "did_not_throw_away",
    "washes_a_tub",
    "starts_a_tub",
    "cleans",
    "presses_again",
    "presses_altered",
    "holds",
    "lifts",
)


class Grinding(Walking):
    """`world`: a client, set by the test; the solver answers in its own process."""

    world = None
    deeds = DEEDS
    hundredths = (20, 600)
    checks = ("nothing_held_moves", "no_meat_is_lost_or_there_twice")

    @initialize()
    def begin(self):
        self.outer = transaction.atomic()
        self.outer.__enter__()
        self.client, self.size = self.world
        self.by = person("ines").pk
        self.beef = Product.objects.get(cut__key="beef-ground")
        self.keys, self.lots_of, self.before_hold = [], {}, None
        self.cleans()
        self.tubs = [
            tub("Chuck", pounds="14", lot=HELD).pk,
            tub("Round", pounds="10", lean="0.93", lot="L2").pk,
        ]
        self.blends(D("4.00"))
        self.grinds(0, 0)
        self.says_what_came_out(0, 0, is_stale=False)
        self.packs(0, D("0.80"))
        self.packs(0, D("1.20"))
        self.blends(D("3.00"))

    def teardown(self):
        """Lots are looked for once a run: the search walks the whole graph."""
        if hasattr(self, "size"):
            self.every_lot_is_found_both_ways()
        transaction.set_rollback(True)
        self.outer.__exit__(None, None, None)

    def one(self, rows, place):
        rows = list(rows)
        return rows[place % len(rows)] if rows else None

    def sends(self, act, *values):
        self.keys.append((act, values, uuid4()))
        self._send(*self.keys[-1])

    def _send(self, act, values, key):
        before = self.facts()
        try:
            act(key, *values)
        except Refused:
            assert self.facts() == before, f"{act} was refused and changed something"
        for batch in Batch.objects.exclude(pk__in=self.lots_of):
            tubs = batch.takes.values_list("tub")
            self.lots_of[batch.pk] = lots_in(TubIn.objects.standing().filter(tub__in=tubs))

    def facts(self):
        counts = [one.objects.count() for one in (Tray, TrayEvent, TubIn, TubOut, Batch)]
        return [*counts, [(one.got, one.undone_at) for one in Batch.objects.all()]]

    # --- what people do ---

    def pours_trim_in(self, place, weight):
        lots = [{"lot": f"M{place % 3}", "supplier": "Low Holm Provisions"}]
        values = Weight(weight, Unit.LB), lots, timezone.localdate(), self.by
        self.sends(put_in, self.tubs[place % 2], *values)

    def blends(self, weight):
        """Whatever the tubs hold; where they do not hold it nothing is kept."""
        blend(self.client, weight=f"{weight:f}")

    def grinds(self, place, other):
        """Also by a plan that is older than the tubs, and meat that is too warm."""
        celsius = (2500, 2500, 6000)[other % 3]
        if plan := self.one(BlendPlan.objects.order_by("-pk")[:3], place):
            begun = partial(Begun, blend_id=plan.pk, number=0, celsius=celsius)
            self.sends(lambda key: begin_batch(begun(key), self.by))

    def says_what_came_out(self, place, other, is_stale):
        share = ("1", "0.9", "1.2")[other % 3]
        if batch := self.one(Batch.objects.order_by("number"), place):
            seen = max(batch.came.count() - is_stale, 0)
            got = (batch.went_in * D(share) - D("0.1")).quantize(D("0.001"))
            came = CameOut(max(got, ZERO), D("0.05"), 4000, seen)
            self.sends(lambda key, pk: finish_batch(pk, came, self.by), batch.pk)

    def begins_by_mistake(self, place):
        if batch := self.one(Batch.objects.order_by("number"), place):
            self.sends(lambda key, pk: undo_batch(pk, self.by), batch.pk)

    def packs(self, place, weight):
        if batch := self.one(Batch.objects.order_by("number"), place):
            gross = f"{weight + D('0.04'):f}"
            source = f"batch:{batch.pk}"
            self.sends(lambda key: pack(self.beef, self.size, gross, source, key=key))

    def puts_a_tray_into_a_tub(self, place, other):
        if tray := self.one(Tray.objects.order_by("number"), place):
            self.sends(to_tub, tray.pk, self.tubs[other % 2], self.by)

    def says_it_is_not_so(self, place, is_stale):
        if tray := self.one(Tray.objects.order_by("number"), place):
            last = last_event(tray)
            self.sends(not_so, tray.pk, self.by, "" if last is None else str(last.pk - is_stale))

    def carries_over(self, place, other):
        if batch := self.one(Batch.objects.order_by("number"), place):
            self.sends(carry_over, batch.pk, self.tubs[other % 2], self.by)

    def takes_back_what_went_in(self, place):
        if entry := self.one(TubIn.objects.order_by("pk"), place):
            self.sends(take_back_entry, entry.pk, self.by)

    def throws_away(self, place):
        self.sends(throw_away, self.tubs[place % 2], "fell on the floor", self.by)

    def did_not_throw_away(self, place):
        if out := self.one(TubOut.objects.filter(batch=None).order_by("pk"), place):
            self.sends(take_back_throwing, out.pk, self.by)

    def washes_a_tub(self, place):
        self.sends(lambda key, pk: close_tub(pk), self.tubs[place % 2])

    def starts_a_tub(self, place):
        """In the place of one that was put away."""
        if TrimTub.objects.get(pk=self.tubs[place % 2]).closed_at is not None:
            self.tubs[place % 2] = tub("Chuck", pounds="5", lot="L3").pk

    def cleans(self):
        for what in ("cleaned", "set_up"):
            self.sends(clean_down, what, self.by)

    def presses_again(self, place):
        """The same key with the same content: whatever it made once it does not make twice."""
        if not self.keys:
            return
        act, values, key = self.keys[place % len(self.keys)]
        rows = ((Tray, "pk"), (TrayEvent, "key"), (TubIn, "key"), (Batch, "pk"))
        was_done = any(one.objects.filter(**{name: key}).exists() for one, name in rows)
        before = self.facts()
        self._send(act, values, key)
        assert not was_done or self.facts() == before

    def holds(self):
        if not LotHold.objects.standing().exists():
            hold_lot(uuid4(), HELD, "the supplier called", None)
            self.before_hold = self.held_meat()

    def lifts(self):
        for hold in LotHold.objects.standing():
            lift_hold(uuid4(), hold.pk, "false alarm", None)
        self.before_hold = None

    # --- what always holds ---

    def held_meat(self):
        """Batches and trays with meat of the lot, and what was put into tubs of it."""
        batches = {pk for pk, lots in self.lots_of.items() if lot_key(HELD) in lots}
        into = [one.pk for one in TubIn.objects.all() if lot_key(HELD) in lots_in([one])]
        return batches, Tray.objects.filter(batch__in=batches).count(), into

    @invariant()
    def nothing_held_moves(self):
        if getattr(self, "before_hold", None) is not None:
            assert self.held_meat() == self.before_hold

    @invariant()
    def no_meat_is_lost_or_there_twice(self):
        if not hasattr(self, "tubs"):
            return
        assert Batch.objects.in_grinder().count() <= 1
        for one in TrimTub.objects.all():
            into = sum((row.weight for row in one.ins.standing()), ZERO)
            gone = sum(
                (row.weight for row in one.outs.filter(taken_back=None) if not _undone(row)), ZERO
            )
            assert left_of(one) == into - gone >= 0
            assert one.closed_at is None or left_of(one) == 0
        for batch in Batch.objects.standing():
            took = sum((row.weight for row in batch.takes.all()), ZERO)
            assert abs(took - batch.weight) < D("0.02")
            if batch.got is not None:
                assert batch.got + batch.machine <= batch.went_in * D("1.01")
                trays = Tray.objects.standing().filter(batch=batch)
                packed = sum((one.weight.to(Unit(batch.unit)) for one in trays), ZERO)
                assert left_to_pack(batch) == batch.got - packed >= 0

    def every_lot_is_found_both_ways(self):
        for lot in ("L1", "L2", "M0"):
            has = {pk for pk, lots in self.lots_of.items() if lot_key(lot) in lots}
            assert {one.pk for one in found(lot, None)} == has
            trays = forwards(Start(lot=lot_key(lot))).all_trays().values_list("pk", flat=True)
            right = Tray.objects.filter(batch__in=has).values_list("pk", flat=True)
            assert set(trays) == set(right)


def _undone(row):
    return row.batch is not None and row.batch.undone_at is not None


@pytest.mark.long
def test_no_meat_is_lost_held_meat_stays_and_every_lot_is_found(client, shop, solving, printer):
    flat_iron()
    Grinding.world = client, tray_set()
    walked(Grinding, walks=3, steps=30)
