"""What earlier versions worked out anew each time is written down: revisions, tubs' ledgers."""

import uuid
from decimal import Decimal

from django.db import migrations
from django.db.models import Count, IntegerField, OuterRef, Q, Subquery, Value
from django.db.models.functions import Coalesce

GRAMS = {"g": Decimal(1), "kg": Decimal(1000), "oz": Decimal("28.349523125"),
         "lb": Decimal("453.59237")}
PLACES = {"g": 2, "kg": 5, "oz": 4, "lb": 5}


def revisions(apps, editor):
    """As high as the sum that pages have seen until now, and one more."""
    CuttingTest, Output = apps.get_model("bench", "CuttingTest"), apps.get_model("bench", "Output")
    Weighing, Move = apps.get_model("bench", "Weighing"), apps.get_model("bench", "Move")

    def count(rows, of, *, where=None):
        found = rows.order_by().values(of).annotate(many=Count("pk", filter=where)).values("many")
        return Coalesce(Subquery(found, output_field=IntegerField()), Value(0))

    weighings = Weighing.objects.filter(test=OuterRef("pk"))
    outputs = Output.objects.filter(test=OuterRef("pk"))
    CuttingTest.objects.update(
        revision=1
        + count(weighings, "test")
        + count(weighings, "test", where=Q(taken_back__isnull=False))
        + count(Move.objects.filter(weighing__test=OuterRef("pk")), "weighing__test")
        + count(outputs, "test")
        + count(outputs, "test", where=Q(merged_into__isnull=False))
    )


def instead(apps, editor):
    """A corrected weighing names the one whose place it took."""
    Weighing, TakeBack = apps.get_model("bench", "Weighing"), apps.get_model("bench", "TakeBack")
    for back in TakeBack.objects.exclude(correction=None).select_related("correction"):
        key = uuid.uuid5(back.correction.key, f"instead {back.weighing_id}")
        Weighing.objects.filter(key=key).update(instead_of=back.weighing_id)


def ledgers(apps, editor):
    """Each tub's entries, in the order things happened."""
    for tub in apps.get_model("bench", "Tub").objects.all():
        _Ledger(apps, tub).write()


class _Ledger:
    def __init__(self, apps, tub):
        self.apps, self.tub = apps, tub
        self.gross, self.rows = tub.start, []
        self.held = {}

    def write(self):
        Weighing = self.apps.get_model("bench", "Weighing")
        for weighing in Weighing.objects.filter(tub=self.tub).order_by("id"):
            self._filled(weighing)
            self._moved(weighing)
            self._taken_back(weighing)
        self.apps.get_model("bench", "TubEntry").objects.bulk_create(self.rows)

    def _filled(self, weighing):
        change = self._in_tubs_unit(weighing)
        gross = weighing.gross if weighing.gross is not None else self.gross + change
        self.held[weighing.pk] = change
        self._add("filled", weighing, change, gross, weighing.taken_at, weighing.taken_by_id,
                  is_seen=not weighing.is_typed, lots=self._lots(weighing))

    def _moved(self, weighing):
        last = self.apps.get_model("bench", "Move").objects.filter(weighing=weighing).last()
        if last is not None and last.to.tub_id != self.tub.pk and last.to_id != weighing.output_id:
            self._add("out", weighing, -self.held.pop(weighing.pk), self.gross, last.at, last.by_id,
                      move_id=last.pk)

    def _taken_back(self, weighing):
        backs = self.apps.get_model("bench", "TakeBack").objects
        back = backs.filter(weighing=weighing).first()
        if back is None or weighing.pk not in self.held:
            return
        held = self.held.pop(weighing.pk)
        if back.correction_id is None:
            self._add("back", weighing, -held, self.gross - held, back.at, back.by_id)
            return
        now, at = Decimal(0), weighing  # the last correction of it
        while (instead := at.corrected_by.first()) is not None:
            at = instead
        if at is not weighing and not hasattr(at, "taken_back"):
            now = self._in_tubs_unit(at)
        self._add("corrected", weighing, now - held, self.gross, back.at, back.by_id)

    def _in_tubs_unit(self, weighing):
        if weighing.unit == self.tub.unit:
            return weighing.value
        value = weighing.value * GRAMS[weighing.unit] / GRAMS[self.tub.unit]
        return round(value, PLACES[self.tub.unit])

    def _lots(self, weighing):
        bags = self.apps.get_model("bench", "TestBag").objects.filter(test=weighing.test_id)
        lots = dict.fromkeys(bags.values_list("bag__lot", flat=True)) or {weighing.test.lot: None}
        return [lot for lot in lots if lot]

    def _add(self, kind, weighing, change, gross, at, by, **more):
        self.rows.append(self.apps.get_model("bench", "TubEntry")(
            tub=self.tub, number=len(self.rows) + 1, kind=kind, test_id=weighing.test_id,
            weighing=weighing, change=change, before=self.gross, gross=gross, at=at, by_id=by,
            **more,
        ))
        self.gross = gross


class Migration(migrations.Migration):
    dependencies = [("bench", "0008_revision_and_ledger"), ("cooler", "0001_initial")]

    operations = [
        migrations.RunPython(step, migrations.RunPython.noop)
        for step in (revisions, instead, ledgers)
    ]
