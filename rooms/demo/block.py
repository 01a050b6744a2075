"""What the invented shop has at its block: known tubs, a shared tub, checks of the scale, a
correction, the clock."""

import random
from datetime import datetime, timedelta
from decimal import Decimal
from uuid import UUID

from django.utils import timezone

from cutting.quantities import Weight
from cutting.sheet.scale_check import Tried, judge
from cutting.sheet.time_spent import Mark
from devices.signing import sign
from rooms.bench.actions.correct import Correcting, correct
from rooms.bench.actions.scales import save_tare
from rooms.bench.actions.tubs import choose_tub, start_tub
from rooms.bench.actions.weighings import Capture, take_weight
from rooms.bench.models import CuttingTest, ScaleCheck, TimeMark, Tub
from rooms.bench.queries.reading import Proof
from rooms.bench.queries.rows import load_known
from rooms.bench.queries.scales import scales
from rooms.bench.queries.steps import with_guide
from rooms.bench.queries.tub_entries import gross_of
from rooms.catalog.queries.guide import steps_of
from rooms.demo.cooler import random_key
from rooms.staff.models import Person

TARES = (("Blue tub", "1.12"), ("White tub", "0.86"), ("Tray and pad", "0.04"))
LOADS = ("0", "5", "10", "20")
DAYS_OF_CHECKS = 30
DRIFTED = 12
"""So many days ago the block scale had drifted; it was mended the same morning."""


def make_block(now: datetime, people: dict[str, Person], rng: random.Random) -> None:
    for name, value in TARES:
        save_tare(name, value, "lb", people["bram"])
    tub = start_tub(
        random_key(rng), "Lean trim of the day", ("1.12", "lb"), "lean", people["ines"].pk
    )
    _fill(tub, rng)
    for days in range(DAYS_OF_CHECKS, 0, -1):
        _check(now, days, rng, people["tove"].pk)
    _correct(rng, people["bram"], now)


def signed(
    weight: str, unit: str, sequence: int, at: datetime | None = None, division: str = "0.01"
) -> Proof:
    """A reading as the block scale's bridge would have signed it."""
    scale, at = scales()[0], at or timezone.now()
    message = {
        "scale": scale.name,
        "run": "demo",
        "sequence": str(sequence),
        "unit": unit,
        "at": f"{at.timestamp():.3f}",
        "weight": weight,
        "tare": "0",
        "division": division,
        "state": "steady",
    }
    return Proof(**message, signature=sign(scale.key, message)) if scale.key else Proof()


def _fill(tub: Tub, rng: random.Random) -> None:
    """Trim of the tests on the block goes into the day's tub: by the scale, and once typed."""
    on_the_block = CuttingTest.objects.open().order_by("number")[:2]
    for i, (test, weights) in enumerate(
        zip(on_the_block, (("0.62", "0.31"), ("0.18",)), strict=True)
    ):
        lean = next(output for output in load_known(test.pk).piles if output.pile == "lean")
        choose_tub(test.pk, str(lean.pk), str(tub.pk), test.cutter_id)
        for weight in weights:
            stands = gross_of(tub)
            gross = (stands + Decimal(weight)).quantize(Decimal(scales()[0].division))
            proof = signed(weight=str(gross), unit="lb", sequence=rng.randrange(2**40))
            capture = Capture(
                key=str(random_key(rng)),
                output=str(lean.pk),
                value=f"{gross - stands:f}",
                unit="lb",
                division="0.01",
                proof=proof,
                tub_before=f"{stands:f}",
            )
            if proof.signature:
                take_weight(test.pk, capture, test.cutter_id)
        if i == 0:
            take_weight(
                test.pk,
                Capture(
                    key=str(random_key(rng)),
                    output=str(lean.pk),
                    value="5.5",
                    unit="oz",
                    is_typed=True,
                ),
                test.cutter_id,
            )
        _one_more(test, rng)


def _one_more(test: CuttingTest, rng: random.Random) -> None:
    """A portion like the last one, so that the block stands at its counted pile."""
    rows = load_known(test.pk)
    taken = [w for output in rows.piles if output.is_counted for w in rows.of(output)]
    if not taken:
        return
    last = taken[-1]
    proof = signed(f"{last.value:f}", last.unit, rng.randrange(2**40), division="0.1")
    capture = Capture(
        key=str(random_key(rng)),
        output=str(last.output_id),
        value=f"{last.value:f}",
        unit=last.unit,
        division="0.1",
        portions="1",
        proof=proof,
    )
    if proof.signature:
        take_weight(test.pk, capture, test.cutter_id)


def _check(now: datetime, days: int, rng: random.Random, by_id: int) -> None:
    """The morning's check of a day, and a second one when the first failed."""
    scale = scales()[0]
    day = (now - timedelta(days=days)).replace(hour=12, minute=rng.randrange(5, 40), second=0)
    for hour, drift in ((0, "0.00" if days != DRIFTED else "0.04"), (1, "0.00")):
        tried = [
            Tried(
                Weight.of(load, "lb"),
                Weight.of(str(Decimal(load) + Decimal(drift)), "lb"),
                Weight.of(scale.division, scale.unit),
            )
            for load in LOADS
        ]
        lines = [
            {
                "load": f"{one.tried.load.value:f}",
                "shown": f"{one.tried.shown.value:f}",
                "off": f"{one.off:f}",
                "tolerance": f"{one.tolerance:f}",
                "holds": one.holds,
                "is_typed": False,
            }
            for one in judge(tried)
        ]
        holds = all(line["holds"] for line in lines)
        ScaleCheck.objects.create(
            key=random_key(rng),
            scale=scale.name,
            unit=scale.unit,
            lines=lines,
            holds=holds,
            division=Decimal(scale.division),
            at=day + timedelta(hours=hour),
            by_id=by_id,
        )
        if holds:
            return


def _correct(rng: random.Random, manager: Person, now: datetime) -> None:
    """One approved sheet that sets prices was corrected afterwards: a tub had been misread."""
    test = CuttingTest.objects.exclude(approved_at=None).filter(number=12).first()
    if test is None:
        return
    rows = load_known(test.pk)
    wrong = next(w for w in rows.standing if w.unit == "lb")
    right = {wrong.pk: f"{wrong.value - Decimal('0.20'):f}"}
    missed = next(o for o in rows.outputs if o.pile == "lean")
    correct(
        test.pk,
        Correcting(
            str(random_key(rng)),
            "A tub was left on: 0.20 lb of it was lean trim.",
            right,
            {missed.pk: "0.20"},
            {},
        ),
        manager.pk,
        min(test.approved_at + timedelta(hours=20), now),
    )


def make_marks(
    test: CuttingTest, start: datetime, end: datetime, by: Person, rng: random.Random
) -> None:
    """The clock of a test: its steps in turn, one interruption somewhere."""
    with_guide(test)
    steps = [step.key for _, step in steps_of(list(test.piece.steps.all()), test.plan)] or [""]
    edges = sorted(rng.random() for _ in steps)
    moments = [start + timedelta(minutes=4) + (end - start) * edge * 0.8 for edge in edges]
    marks = [(at, Mark.START, key) for at, key in zip(moments, steps, strict=True)]
    stop = start + (end - start) * 0.5
    marks += [(stop, Mark.INTERRUPT, ""), (stop + timedelta(minutes=3), Mark.START, steps[-1])]
    for at, mark, key in sorted(marks, key=lambda one: one[0]):
        TimeMark.objects.create(
            key=UUID(int=rng.getrandbits(128)),
            test=test,
            mark=mark.value,
            step_key=key[:50],
            at=min(at, end),
            by=by,
        )
