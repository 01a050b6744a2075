"""Tubs as they stand: what is in them, how lean, how old, what they cost; what waits at the block."""

from collections import defaultdict
from dataclasses import dataclass, field
from datetime import date, timedelta
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.db.models import F, Min, Q
from django.utils import timezone

from cutting.grinding.blend import Kind
from cutting.grinding.judging import (
    USUAL_SPREAD,
    Bias,
    Compared,
    How,
    Lean,
    bias_of,
    corrected,
    together,
    usual_of,
)
from cutting.quantities import ZERO, Unit, Weight, working
from cutting.tracing.mixing import Move, mixed
from rooms.bench.models import CuttingTest, Output
from rooms.bench.queries.pile_left import left_on_piles
from rooms.bench.queries.rows import load_all
from rooms.catalog.models import Pile
from rooms.grinder.models import (
    Batch,
    GrinderRules,
    Judged,
    Tested,
    TrimTub,
    TubIn,
    TubOut,
    Warmth,
)
from rooms.grinder.queries.house import house_rules
from rooms.grinder.queries.lots import GOES_IN, held_lot, is_known, once_each, with_answers
from rooms.shop.queries.dates import said_day
from wording.grind import kindly, lean_words

LATELY = timedelta(days=7)
MOST_TESTED = 100
TESTED_LATELY = timedelta(days=180)
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
    grades: tuple[str, ...]
    """Of its lots; an empty one for a lot whose grade nobody knows."""
    oldest: date | None
    cost: Decimal
    is_due: bool
    warmth: Warmth | None
    is_warm: bool
    held: str = ""
    """The lot of something in it that is held: none of it is ground."""
    past: str = ""
    """Why none of it is ground any more: its days, or the end of a bag, are over. Empty while it may be."""
    state: str = ""
    """Changes with everything that goes in or out by hand, and with every judging."""

    @property
    def lean_words(self) -> str:
        return lean_words(self.lean.share, self.lean.spread) if self.lean else "lean not judged yet"

    @property
    def pounds(self) -> Decimal:
        return Weight(self.left, Unit(self.tub.unit)).to(Unit.LB)

    @property
    def celsius(self) -> str:
        return f"{self.warmth.celsius / 1000:.1f} °C" if self.warmth else ""


Source = tuple[str, str, str]
"""Trim of one kind: animal, kind, primal."""


@dataclass(frozen=True)
class Known:
    """What tests of batches and of tubs say: how far each eye lies off by the person's id, and how
    lean trim of one source usually is."""

    eyes: dict[int, Bias] = field(default_factory=dict)
    usual: dict[Source, Lean] = field(default_factory=dict)
    people: dict[int, Any] = field(default_factory=dict)
    """Who judged, by id."""


def source_of(tub: TrimTub) -> Source:
    return tub.species, tub.kind, tub.primal


def tubs_now(today: date, rules: GrinderRules | None = None) -> list[TubView]:
    """Every open tub, the oldest trim first: nine queries at most, one less with the rules."""
    return board(today, rules)[0]


def board(today: date, rules: GrinderRules | None = None) -> tuple[list[TubView], Known]:
    """The same, and what tests say."""
    tubs = list(TrimTub.objects.filter(closed_at=None).annotate(held_lot=held_lot()))
    return _views(tubs, today, rules or house_rules())


def one_tub(tub: TrimTub, today: date, rules: GrinderRules) -> TubView:
    """The same of one tub."""
    return _views([tub], today, rules)[0][0]


def what_tests_say() -> Known:
    """From batches that were tested and tubs that the tester told: four queries."""
    return _known(_load([]))


@dataclass(frozen=True)
class Loaded:
    """Rows of some tubs, and those that tests speak of."""

    tested: list[Tested]
    ins: dict[Any, list[TubIn]]
    outs: dict[Any, list[TubOut]]
    takes: dict[Any, list[TubOut]]
    """By the tested batch."""
    judged: dict[Any, list[Judged]]


def _load(tubs: list[TrimTub]) -> Loaded:
    """Four queries, five where a lot was found out later."""
    rows = Tested.objects.standing().filter(batch__undone_at=None).select_related("batch")
    tested = list(reversed(rows.order_by("-id")[:MOST_TESTED]))
    batches = {one.batch_id for one in tested}
    ins, outs, takes, judged = (defaultdict(list) for _ in range(4))
    own = {tub.pk for tub in tubs}
    for out in (
        TubOut.objects.standing()
        .filter(Q(tub__in=own) | Q(batch__in=batches))
        .select_related("tub", "batch")
    ):
        outs[out.tub_id].append(out)
        if out.batch_id in batches:
            takes[out.batch_id].append(out)
    told = {take.tub_id for some in takes.values() for take in some}
    asked = Q(tub__in=own) | Q(tub__in=told, lean__isnull=False)
    rows_in = TubIn.objects.standing().filter(asked)
    rows_in = rows_in.annotate(
        bag_end=F("bag__ends_on"), test_end=Min("from_test__bags__bag__ends_on")
    )
    for entry in with_answers(rows_in):
        ins[entry.tub_id].append(entry)
    lately = Q(how=How.TESTER, at__gte=timezone.now() - TESTED_LATELY)
    asked = Q(tub__in=own | told) | lately
    for one in Judged.objects.filter(asked).select_related("by", "tub"):
        judged[one.tub_id].append(one)
    return Loaded(tested, ins, outs, takes, judged)


def _views(tubs: list[TrimTub], today: date, rules: GrinderRules) -> tuple[list[TubView], Known]:
    rows = _load(tubs)
    known = _known(rows)
    warm = {one.tub_id: one for one in Warmth.objects.filter(tub__in=tubs)} if tubs else {}
    found = [
        _view(
            tub,
            Rows(
                rows.ins[tub.pk],
                rows.outs[tub.pk],
                next(reversed(rows.judged[tub.pk]), None),  # the last word counts
                warm.get(tub.pk),
            ),
            known,
            rules,
            today,
        )
        for tub in tubs
    ]
    return sorted(found, key=lambda one: (one.oldest or today, one.tub.started_at)), known


@dataclass(frozen=True)
class Rows:
    """What is on record of one tub."""

    ins: list[TubIn]
    outs: list[TubOut]
    judged: Judged | None
    warmth: Warmth | None


def _view(
    tub: TrimTub,
    rows: Rows,
    known: Known,
    rules: GrinderRules,
    today: date,
) -> TubView:
    inside = _inside(rows)
    with working():
        left = sum((one.weight for one in rows.ins), ZERO)
        left -= sum((one.weight for one in rows.outs), ZERO)
        there = [one for one in rows.ins if inside[one.pk] > A_TRACE]
        spent = sum((inside[one.pk] * one.cost for one in there), ZERO)
        mass = sum((inside[one.pk] for one in there), ZERO)
        cost = spent / mass if mass else ZERO
    oldest = min((one.day for one in there), default=None)
    lots = once_each(there)
    keeps = timedelta(days=rules.keeps_days)
    return TubView(
        tub,
        left,
        _lean(tub, there, inside, rows.judged, known),
        rows.judged,
        len({lot["lot"] for lot in lots if lot.get("lot")}),
        sum(not is_known(one.lots) for one in there),
        tuple(sorted({lot.get("grade", "") for lot in lots})) or ("",),
        oldest,
        cost,
        oldest is not None and oldest + keeps <= today,
        rows.warmth,
        rows.warmth is not None and rows.warmth.celsius > rules.warmest,
        getattr(tub, "held_lot", None) or "",
        _past(there, keeps, today),
        _state([one.pk for one in rows.ins], rows.judged),
    )


A_TRACE = Decimal("1e-9")
"""Less than that is what a division left."""


def _inside(rows: Rows) -> dict[int, Decimal]:
    """What is left of each thing that went in: what lay together left together."""
    moves = [(one.at, 0, Move(one.pk, one.weight)) for one in rows.ins]
    for out in rows.outs:
        at = out.batch.begun_at if out.batch is not None else out.at
        moves.append((at, 1, Move(f"out {out.pk}", out.weight, is_out=True)))
    moves.sort(key=lambda one: one[:2])
    found = mixed([move for _, _, move in moves]).left
    return {one.pk: found.get(one.pk, ZERO) for one in rows.ins}


def _past(there: list[TubIn], keeps: timedelta, today: date) -> str:
    """Trim is ground within the house's days, and never past the end of a bag that it is of."""
    oldest = min((one.day for one in there), default=None)
    if oldest is not None and oldest + keeps < today:
        return f"its oldest trim is of {said_day(oldest)}, {keeps.days} days are the most; throw it away"
    ends = [end for one in there for end in (one.bag_end, one.test_end) if end is not None]
    end = min(ends, default=None)
    if end is not None and end < today:
        return f"a bag in it ended on {said_day(end)}; throw it away"
    return ""


def _state(ins: list[int], judged: Judged | None) -> str:
    return f"{len(ins)}-{max(ins, default=0)}-{judged.pk if judged is not None else 0}"


def state_of_tub(tub: TrimTub) -> str:
    """As a view of the tub has it, under the lock: two queries."""
    return _state(list(tub.ins.standing().values_list("pk", flat=True)), tub.judged.last())


def _lean(
    tub: TrimTub,
    there: list[TubIn],
    inside: dict[int, Decimal],
    judged: Judged | None,
    known: Known,
) -> Lean | None:
    """Of all that is in it: as it was judged last; what came after by its own stated lean, else as trim of
    this source usually is. None where nobody has said it of some of it."""
    usual = known.usual.get(source_of(tub))
    then = None
    if judged is not None:
        bias = known.eyes.get(judged.by_id or 0)
        then = corrected(judged.lean, How(judged.how), bias, usual)
    # A tub that is judged while nothing of this lay in it is judged for what goes in: no surer than an eye.
    beforehand = judged is not None and all(one.at > judged.at for one in there)
    if beforehand and then is not None:
        usual = usual or Lean(then.share, max(then.spread, USUAL_SPREAD[How.EYE]))
    parts = []
    for one in there:
        lean = then
        if judged is None or one.at > judged.at:
            stated = one.lean is not None
            lean = Lean(one.lean, USUAL_SPREAD[How.STATED]) if stated else usual
        if lean is None:
            return None
        parts.append((inside[one.pk], lean))
    leans = {lean for _, lean in parts}
    return together(parts) if len(leans) > 1 else next(iter(leans), then)


def _known(rows: Loaded) -> Known:
    off: dict[int, list[Compared]] = defaultdict(list)
    leans: dict[Source, dict[object, Lean]] = defaultdict(dict)
    for test in rows.tested:
        takes = rows.takes[test.batch_id]
        by_eye = {
            take.tub_id: [] if _is_stated(rows, take) else rows.judged[take.tub_id]
            for take in takes
        }
        row = _compared(test.batch, takes, by_eye, test.fat) if takes else None
        if row is not None:
            off[row[0]].append(row[1])
        sources = {source_of(take.tub) for take in takes}
        if len(sources) == 1:
            leans[sources.pop()][takes[0].tub_id] = Lean(1 - test.fat, SPREAD_OF_A_TEST)
    people = {}
    for one in (each for some in rows.judged.values() for each in some):
        people[one.by_id or 0] = one.by
        if one.how == How.TESTER:
            leans[source_of(one.tub)][one.tub_id] = Lean(one.lean, USUAL_SPREAD[How.TESTER])
    usual = {source: usual_of(list(some.values())) for source, some in leans.items()}
    return Known(
        {person: bias_of(each) for person, each in off.items()},
        {source: lean for source, lean in usual.items() if lean is not None},
        people,
    )


def _is_stated(rows: Loaded, take: TubOut) -> bool:
    """Whether something in its tub is not of the eye alone."""
    return any(one.lean is not None for one in rows.ins[take.tub_id])


def _compared(
    batch: Batch, takes: list[TubOut], judged: dict[object, list[Judged]], fat: Decimal
) -> tuple[int, Compared] | None:
    """Of a batch whose tubs one person judged by eye; None for another."""
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


def carries_into(batch: Batch) -> Any:
    """Tubs that what stayed of a batch may go into."""
    return TrimTub.objects.filter(closed_at=None, species=batch.species).exclude(kind=Kind.HARD_FAT)


def eyes_in_words(known: Known) -> list[tuple[str, str]]:
    """Kindly, by name. No query."""
    return [
        (str(known.people[pk]), kindly(bias))
        for pk, bias in sorted(known.eyes.items())
        if pk in known.people
    ]


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
    return _waiting(CuttingTest.objects.finished().filter(finished_at__gte=since, imported_at=None))


def waiting_of(test_id: UUID) -> list[Waiting]:
    """The same of one test."""
    return _waiting(CuttingTest.objects.finished().filter(pk=test_id, imported_at=None))


def _waiting(asked: Any) -> list[Waiting]:
    tests = list(asked)
    rows_of = load_all(tests) if tests else []
    left = left_on_piles(rows_of)
    handed = set(
        TubIn.objects.standing().filter(output__in=left).values_list("output_id", flat=True)
    )
    found = []
    for rows in rows_of:
        for output in rows.piles:
            is_trim = output.pile in (Pile.LEAN, Pile.FAT) and output.pk not in handed
            if is_trim and left[output.pk].value > 0:
                output.test = rows.test
                found.append(Waiting(output, left[output.pk]))
    return found
