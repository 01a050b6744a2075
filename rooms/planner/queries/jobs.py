"""The jobs of a day's plan: who does them, how far they are, and where each is begun."""

from collections import Counter, defaultdict
from collections.abc import Collection
from dataclasses import dataclass
from decimal import Decimal
from typing import Any
from urllib.parse import urlencode

from django.urls import reverse

from cutting.planning.hands import GRINDER, turns_at_saw
from cutting.planning.lanes import Job, Lanes, Losses, in_order, lanes
from cutting.quantities import HUNDRED, ZERO, Unit, Weight, working
from cutting.sheet.machines import Machine
from rooms.bench.models import Output, TestBag
from rooms.catalog.models import Plan
from rooms.cooler.models import Bag
from rooms.planner.models import DayPlan
from rooms.planner.queries.asking import plan_of_way


@dataclass(frozen=True)
class PlanJob:
    """Bags of one piece cut by one way: as planned, and as it went."""

    key: str
    piece: str
    way: str
    ids: list[str]
    """Bags that are there still, or were opened."""
    planned: Decimal
    asked: Decimal
    """Minutes of all its bags as planned, those too that are gone since."""
    minutes: Decimal
    """Of the bags that are cut what they took, of the others what is planned."""
    is_must: bool
    begun: int
    finished: int
    address: str
    """Where the next bag is begun; empty where none is left, and for the grinder."""
    row: dict[str, Any]

    @property
    def count(self) -> int:
        return len(self.ids)

    @property
    def times(self) -> str:
        """“4 × ” before the name of several bags."""
        return f"{self.count} × " if self.count > 1 else ""

    @property
    def tests(self) -> int:
        return int(self.row.get("tests", 0))

    @property
    def is_timed(self) -> bool:
        return bool(self.row.get("is_timed"))

    @property
    def is_done(self) -> bool:
        return bool(self.ids) and self.finished == self.count

    @property
    def left(self) -> int:
        return self.count - self.begun


def weight_of(row: dict[str, str]) -> Weight:
    return Weight(Decimal(row["value"]), Unit(row["unit"]))


def ways_of(plan: DayPlan) -> dict[str, dict[str, Any]]:
    """Every way of a plan by its id, those that are made of others too."""
    ways = {row["id"]: row for row in plan.document["ways"]}
    for row in plan.answer.get("made_of", ()):
        first = ways[row["parts"][0]["way"]]
        piece = first["name"].partition(": ")[0]
        ways[row["id"]] = {**first, **row, "name": f"{piece}: {_parts_words(row, ways)}"}
    return ways


def _parts_words(row: dict[str, Any], ways: dict[str, dict[str, Any]]) -> str:
    """“1/2 roasts, 1/2 steaks”; “1/2 roasts, the rest back”."""
    words = [row["name"].replace(" and ", ", ")]
    return ", ".join([*words, "the rest goes back"] if "back" in row else words)


def bags_of(plan: DayPlan) -> dict[str, Bag]:
    """By the id as text: one query."""
    ids = [row["id"] for row in plan.document["bags"]]
    found = Bag.objects.select_related("piece").in_bulk(ids)
    return {str(pk): bag for pk, bag in found.items()}


def plans_of(plan: DayPlan) -> dict[str, Plan]:
    """The plan that each way begins with, by the id of the way: one query."""
    ids = {row["id"]: plan_of_way(row["id"]) for row in plan.document["ways"]}
    found = {str(one.pk): one for one in Plan.objects.filter(pk__in=set(ids.values()))}
    return {key: found[pk] for key, pk in ids.items() if pk in found}


@dataclass(frozen=True)
class _Done:
    is_finished: bool
    minutes: Decimal | None


def _done(ids: list[str]) -> dict[str, _Done]:
    """Bags that were opened since, with the minutes of their test where it used the clock: two
    queries."""
    opened = list(TestBag.objects.filter(bag__in=ids).select_related("test"))
    if not opened:
        return {}
    minutes: dict[Any, Decimal] = defaultdict(lambda: ZERO)
    clocked = Output.objects.filter(test__in={row.test_id for row in opened})
    with working():
        for test, took in clocked.exclude(minutes=None).values_list("test", "minutes"):
            minutes[test] += took
    many = Counter(row.test_id for row in opened)
    found = {}
    with working():
        for row in opened:
            took = minutes.get(row.test_id)
            is_finished = row.test.finished_at is not None
            own = took / many[row.test_id] if took and is_finished else None
            found[str(row.bag_id)] = _Done(is_finished, own)
    return found


def _gone(cut: list[str], opened: Collection[str]) -> set[str]:
    """Bags that nobody opened and nobody can open any more: thrown away, sent back, sold whole, poured
    into a tub, or of a lot that is held. One query."""
    waiting = [bag for bag in cut if bag not in opened]
    free = Bag.objects.free().filter(pk__in=waiting).order_by().values_list("pk", flat=True)
    return set(waiting) - {str(pk) for pk in free}


def gone_since(plan: DayPlan, jobs: dict[str, PlanJob], bags: dict[str, Bag]) -> list[str]:
    """Bags that a plan counts on and that none of its jobs has any more: “Shoulder clod, 19.00 lb: no
    longer in the cooler”. No query."""
    there = {one for job in jobs.values() for one in job.ids}
    weights = {row["id"]: weight_of(row["weight"]) for row in plan.document["bags"]}
    found = []
    for pk in (one["bag"] for one in plan.answer["cut"]):
        if pk in there:
            continue
        bag = bags.get(pk)
        name = bag.piece.shown_name if bag and bag.piece else "A bag"
        is_in = bag is not None and bag.state == Bag.State.IN
        why = "its lot is on hold" if is_in else "no longer in the cooler"
        found.append(f"{name}, {weights[pk]}: {why}")
    return found


def plan_jobs(plan: DayPlan, bags: dict[str, Bag], plans: dict[str, Plan]) -> dict[str, PlanJob]:
    """By the id of their way, without bags that are gone: three queries."""
    ways = ways_of(plan)
    weights = {row["id"]: weight_of(row["weight"]) for row in plan.document["bags"]}
    musts = {row["id"] for row in plan.document["bags"] if row["must"]}
    groups: dict[str, list[str]] = defaultdict(list)
    for one in plan.answer["cut"]:
        groups[one["way"]].append(one["bag"])
    cut = [bag for ids in groups.values() for bag in ids]
    done = _done(cut)
    gone = _gone(cut, done)
    found = {}
    with working():
        for key, every in groups.items():
            ids = [one for one in every if one not in gone]
            if not ids:
                continue
            row = ways[key]
            per, each = Decimal(row["minutes_per_lb"]), Decimal(row["minutes"])
            planned = {one: each + per * weights[one].to(Unit.LB) for one in every}
            took = {one: done[one].minutes for one in ids if one in done}
            minutes = sum((took.get(one) or planned[one] for one in ids), ZERO)
            piece, _, way = row["name"].partition(": ")
            found[key] = PlanJob(
                key=key,
                piece=piece,
                way=way,
                ids=ids,
                planned=sum((planned[one] for one in ids), ZERO),
                asked=sum(planned.values(), ZERO),
                minutes=minutes,
                is_must=any(one in musts for one in ids),
                begun=sum(one in done for one in ids),
                finished=sum(one in done and done[one].is_finished for one in ids),
                address=_address([one for one in ids if one not in done], row, bags, plans),
                row=row,
            )
        ground = Decimal(plan.answer.get("ground", "0"))
        if ground:
            found[GRINDER] = _grinder(plan, ground)
    return found


def _grinder(plan: DayPlan, minutes: Decimal) -> PlanJob:
    asked = {row["name"]: row for row in plan.document["products"]}
    names = plan.document["block"]["grind"]["products"]
    made = [
        f"{asked[line['name']]['shown']} {Decimal(line['made']['value']):.0f} {line['made']['unit']}"
        for line in plan.answer["products"]
        if line["name"] in names and Decimal(line["made"]["value"])
    ]
    row: dict[str, Any] = {"is_timed": True}
    words = ", ".join(made)
    return PlanJob(GRINDER, "Grinder", words, [], minutes, minutes, minutes, False, 0, 0, "", row)


def _address(
    ids: list[str], row: dict[str, Any], bags: dict[str, Bag], plans: dict[str, Plan]
) -> str:
    """The block's page for the next bag, with the way chosen; two ways with their split."""
    bag = next((bags[one] for one in ids if one in bags), None)
    parts = row.get("parts") or [{"way": row["id"], "part": "1"}]
    known = [plans.get(part["way"]) for part in parts]
    if bag is None or bag.piece is None or known[0] is None:
        return ""
    query = [("bag", str(bag.pk)), ("plan", known[0].key)]
    if len(known) == 2 and known[1] not in (None, known[0]):
        with working():
            split = Decimal(parts[0]["part"]) * HUNDRED
        query += [("rest", known[1].key), ("split", f"{split.normalize():f}")]
    return f"{reverse('bench:open', args=[bag.piece.key])}?{urlencode(query)}"


def lanes_of(
    plan: DayPlan, jobs: dict[str, PlanJob], bags: dict[str, Bag]
) -> tuple[list[str], Lanes]:
    """The names of those who are there, and the lane of each, as far as the day has gone."""
    block = plan.document.get("block")
    if block is None or "hands" not in plan.answer:
        own = [_job(one, one.minutes, bags) for one in jobs.values()]
        return [f"Cutter {i + 1}" for i in range(plan.hands)], lanes(own, plan.hands)
    names = [row["name"] for row in block["cutters"]]
    rows: dict[str, list[Job]] = {name: [] for name in names}
    with working():
        for share in plan.answer["hands"]:
            job = jobs.get(share["way"])
            if job is None:
                continue
            minutes = Decimal(share["minutes"]) * job.minutes / job.asked
            rows[share["cutter"]].append(_job(job, minutes, bags))
        losses = Losses(*(Decimal(block[name]) for name in ("wash", "saw", "wait")))
        turns = turns_at_saw([Decimal(row["minutes"]) for row in block["cutters"]])
        return names, in_order([rows[name] for name in names], losses, turns)


def _job(one: PlanJob, minutes: Decimal, bags: dict[str, Bag]) -> Job:
    first = bags.get(one.ids[0]) if one.ids else None
    species = first.piece.species if first is not None and first.piece is not None else ""
    return Job(
        one.key,
        species,
        minutes,
        is_sawn=Machine.SAW in one.row.get("machines", ()),
        must=one.is_must,
        waits=bool(one.row.get("waits")),
        is_last=one.key == GRINDER,
    )
