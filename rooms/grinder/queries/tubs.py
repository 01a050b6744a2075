"""Tubs as they stand: what is in them, how lean, how old, what they cost; what waits at the block."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from django.utils import timezone

from cutting.grinding.judging import USUAL_SPREAD, Bias, Compared, How, Lean, bias_of, corrected
from cutting.quantities import ZERO, Unit, Weight, working
from cutting.words.grind import kindly, lean_words
from rooms.bench.models import CuttingTest, Output
from rooms.bench.rules.rows import load_all
from rooms.catalog.models import Pile
from rooms.grinder.models import Batch, Judged, Tested, TrimTub, TubIn, TubOut
from rooms.grinder.rules.lots import GOES_IN
from rooms.staff.models import Person

KEEPS = timedelta(days=2)
"""Days after its oldest trim was cut that a tub is used up or thrown away. Common practice; the shop's
food-safety plan comes first."""
LATELY = timedelta(days=7)
MOST_TESTED = 100
SPREAD_OF_A_TEST = Decimal("0.008")
"""Of a tester, as a share of fat. Value from memory."""


@dataclass(frozen=True)
class TubView:
    """A tub: what is left in its unit, how lean it is taken for, its lots, its oldest day, its cost."""

    tub: TrimTub
    left: Decimal
    lean: Lean | None
    judged: Judged | None
    lots: int
    unknown: int
    """Entries whose lot nobody knows: questions."""
    oldest: date | None
    cost: Decimal
    is_due: bool

    @property
    def lean_words(self) -> str:
        return lean_words(self.lean.share, self.lean.spread) if self.lean else "lean not judged yet"

    @property
    def pounds(self) -> Decimal:
        return Weight(self.left, Unit(self.tub.unit)).to(Unit.LB)


def tubs_now(today: date, biases: dict[int, Bias] | None = None) -> list[TubView]:
    """Every open tub, the oldest trim first: seven queries. `biases`: of the eyes, where they are
    known already."""
    tubs = list(TrimTub.objects.filter(closed_at=None))
    ins, outs, said = defaultdict(list), defaultdict(list), {}
    for entry in TubIn.objects.filter(tub__in=tubs):
        ins[entry.tub_id].append(entry)
    for out in TubOut.objects.filter(tub__in=tubs):
        outs[out.tub_id].append(out)
    for judged in Judged.objects.filter(tub__in=tubs).select_related("by"):
        said[judged.tub_id] = judged  # the last word counts
    biases = eyes()
    found = [_view(tub, ins[tub.pk], outs[tub.pk], said.get(tub.pk), biases, today) for tub in tubs]
    return sorted(found, key=lambda one: (one.oldest or today, one.tub.started_at))


def _view(
    tub: TrimTub,
    ins: list[TubIn],
    outs: list[TubOut],
    judged: Judged | None,
    biases: dict[int, Bias],
    today: date,
) -> TubView:
    with working():
        into = sum((one.weight for one in ins), ZERO)
        left = into - sum((one.weight for one in outs), ZERO)
        spent = sum((one.weight * one.cost for one in ins), ZERO)
        cost = spent / into if into else ZERO
    lean = None
    if judged is not None:
        lean = corrected(judged.lean, How(judged.how), biases.get(judged.by_id or 0))
    oldest = min((one.day for one in ins), default=None) if left > 0 else None
    lots = {lot["lot"] for one in ins for lot in one.lots if lot.get("lot")}
    unknown = sum(not any(lot.get("lot") for lot in one.lots) for one in ins)
    is_due = oldest is not None and oldest + KEEPS <= today
    return TubView(tub, left, lean, judged, len(lots), unknown, oldest, cost, is_due)


def eyes() -> dict[int, Bias]:
    """How far each judge's eye lies off, by the person's id, from batches that were tested and whose
    tubs one person judged by eye: three queries."""
    tested = Tested.objects.select_related("batch").order_by("-id")[:MOST_TESTED]
    by_batch = {one.batch_id: one for one in tested}
    if not by_batch:
        return {}
    takes: dict[object, list[TubOut]] = defaultdict(list)
    for take in TubOut.objects.filter(batch__in=by_batch):
        takes[take.batch_id].append(take)
    tubs = {take.tub_id for some in takes.values() for take in some}
    judged: dict[object, list[Judged]] = defaultdict(list)
    for one in Judged.objects.filter(tub__in=tubs):
        judged[one.tub_id].append(one)
    found: dict[int, list[Compared]] = defaultdict(list)
    for pk, test in by_batch.items():
        row = _compared(test.batch, takes[pk], judged, test.fat)
        if row is not None:
            found[row[0]].append(row[1])
    return {person: bias_of(rows) for person, rows in found.items()}


def _compared(
    batch: Batch, takes: list[TubOut], judged: dict[object, list[Judged]], fat: Decimal
) -> tuple[int, Compared] | None:
    words = []
    for take in takes:
        before = [one for one in judged[take.tub_id] if one.at <= batch.begun_at]
        if not before or before[-1].how != How.EYE or before[-1].by_id is None:
            return None
        words.append((take.weight, before[-1]))
    if len({one.by_id for _, one in words}) != 1:
        return None
    with working():
        total = sum((weight for weight, _ in words), ZERO)
        seen = sum((weight * one.lean for weight, one in words), ZERO) / total
        eye = USUAL_SPREAD[How.EYE]
        spread = sum(((weight * eye) ** 2 for weight, _ in words), ZERO) / total**2
        off = Compared(seen - (1 - fat), (spread + SPREAD_OF_A_TEST**2).sqrt())
    return words[0][1].by_id, off


def eyes_in_words(biases: dict[int, Bias]) -> list[tuple[str, str]]:
    """Kindly, by name: one query, none without a test."""
    people = Person.objects.in_bulk(biases) if biases else {}
    return [(str(people[pk]), kindly(bias)) for pk, bias in sorted(biases.items()) if pk in people]


@dataclass(frozen=True)
class Waiting:
    """A pile of a finished test that is in no tub yet."""

    output: Output
    weight: Weight

    @property
    def kinds(self) -> tuple[str, ...]:
        """Of tubs that it may go into."""
        return GOES_IN[Pile(self.output.pile)]

    @property
    def words(self) -> str:
        return f"{self.output.test.piece_name}, test {self.output.test.number}: {self.output.name}"


def waiting() -> list[Waiting]:
    """Lean trim and hard fat of the last days: five queries."""
    since = timezone.now() - LATELY
    tests = list(CuttingTest.objects.finished().filter(finished_at__gte=since, imported_at=None))
    handed = set(TubIn.objects.filter(output__test__in=tests).values_list("output_id", flat=True))
    found = []
    for rows in load_all(tests) if tests else ():
        for output in rows.piles:
            if output.pile not in (Pile.LEAN, Pile.FAT) or output.pk in handed:
                continue
            weight = _weight(output, rows.of(output))
            if weight is not None:
                output.test = rows.test
                found.append(Waiting(output, weight))
    return found


def _weight(output: Output, weighings: Iterable[Any]) -> Weight | None:
    some = list(weighings)
    if not some:
        return None
    unit = Unit(some[0].unit)
    with working():
        total = sum((Weight(w.value, Unit(w.unit)).to(unit) for w in some), ZERO)
    return Weight(total, unit) if total > 0 else None
