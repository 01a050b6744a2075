"""A day's plan as its page shows it."""

import re
from collections import defaultdict
from dataclasses import dataclass
from decimal import Decimal
from typing import Any
from urllib.parse import urlencode

from django.urls import reverse

from cutting.drawing.day_view import CaseBar, LanesView, case_bar, lanes_view
from cutting.plans.lanes import Job, lanes
from cutting.quantities import ZERO, Unit, Weight, working
from cutting.words.pencil import money
from rooms.catalog.models import Plan, PlanOutput
from rooms.catalog.rules.looks import looks_in_order
from rooms.cooler.models import Bag
from rooms.planner.models import DayPlan


@dataclass(frozen=True)
class JobView:
    """Bags of one piece cut by one way: what stands at its bar, and where it is begun."""

    key: str
    piece: str
    way: str
    count: int
    address: str
    tests: int
    is_timed: bool

    @property
    def times(self) -> str:
        """“4 × ” before the name of several bags."""
        return f"{self.count} × " if self.count > 1 else ""


@dataclass(frozen=True)
class CaseLine:
    name: str
    bar: CaseBar
    text: str
    short: str


@dataclass(frozen=True)
class BagLine:
    """A bag that could be cut: its ways to choose from, and what was set."""

    id: str
    words: str
    why: str
    ways: list[tuple[str, str]]
    pin: str | None
    is_cut: bool


@dataclass(frozen=True)
class DayView:
    plan: DayPlan
    lanes: LanesView
    jobs: dict[str, JobView]
    case: list[CaseLine]
    beside: list[str]
    """What is made of products that nobody has put on the list."""
    bags: list[BagLine]
    not_today: list[str]
    profit: str
    against: str
    many: int
    of: int
    minutes: str
    an_hour: str
    done: str
    shortfall: str


def newest(day: Any) -> DayPlan | None:
    """The last plan of a day: one query."""
    return DayPlan.objects.filter(day=day).select_related("made_by").first()


def day_view(plan: DayPlan, start: int) -> DayView:
    """Six queries. `start`: minutes after midnight."""
    document, answer = plan.document, plan.answer
    bags = Bag.objects.select_related("piece").in_bulk([row["id"] for row in document["bags"]])
    by_id = {str(pk): bag for pk, bag in bags.items()}
    plans = {
        str(one.pk): one
        for one in Plan.objects.filter(pk__in=[row["id"] for row in document["ways"]])
    }
    looks = _looks(plans)
    ways = {row["id"]: row for row in document["ways"]}
    weights = {row["id"]: _weight(row["weight"]) for row in document["bags"]}
    musts = {row["id"] for row in document["bags"] if row["must"]}
    groups: dict[str, list[str]] = defaultdict(list)
    for one in answer["cut"]:
        groups[one["way"]].append(one["bag"])
    jobs, shown = [], {}
    for way, ids in groups.items():
        minutes = _minutes(ways[way], [weights[one] for one in ids])
        first = by_id.get(ids[0])
        species = first.piece.species if first and first.piece else ""
        sawn = plans[way].is_sawn if way in plans else False
        jobs.append(Job(way, species, minutes, sawn, any(one in musts for one in ids)))
        shown[way] = _job(way, ids, ways[way], first, plans.get(way))
    rows = lanes(jobs, plan.hands)
    end = max((one.end for row in rows for one in row), default=ZERO)
    return DayView(
        plan=plan,
        lanes=lanes_view(rows, looks, start),
        jobs=shown,
        case=_case(document, answer),
        beside=_beside(document, answer),
        bags=_bag_lines(plan, by_id, ways, weights),
        not_today=_not_today(answer, by_id),
        profit=money(Decimal(answer["gross_profit"])),
        against=_against(plan),
        many=len(answer["cut"]),
        of=len(document["bags"]),
        minutes=_hours(Decimal(answer["minutes"])),
        an_hour=_an_hour(answer),
        done=_clock(start + int(end)),
        shortfall=money(Decimal(answer["shortfall"])) if Decimal(answer["shortfall"]) else "",
    )


def _weight(row: dict[str, str]) -> Weight:
    return Weight(Decimal(row["value"]), Unit(row["unit"]))


def _minutes(way: dict[str, Any], weights: list[Weight]) -> Decimal:
    with working():
        per = Decimal(way["minutes_per_lb"])
        return sum((Decimal(way["minutes"]) + per * weight.to(Unit.LB) for weight in weights), ZERO)


def _looks(plans: dict[str, Plan]) -> dict[str, list[tuple[str, Decimal]]]:
    """The looks and usual shares of each plan's piles: one query."""
    rows: dict[int, list[PlanOutput]] = defaultdict(list)
    outputs = PlanOutput.objects.filter(plan__in=plans.values(), is_dropped=False)
    for row in outputs.order_by("plan", "position", "id"):
        rows[row.plan_id].append(row)
    return {
        str(pk): [
            (look, row.share)
            for row, look in zip(found, looks_in_order(found), strict=True)
            if row.share
        ]
        for pk, found in rows.items()
    }


def _job(
    key: str, ids: list[str], way: dict[str, Any], first: Bag | None, plan: Plan | None
) -> JobView:
    piece, _, name = way["name"].partition(": ")
    address = ""
    if first is not None and first.piece is not None and plan is not None:
        query = urlencode([("bag", ids[0]), ("plan", plan.key)])
        address = f"{reverse('bench:open', args=[first.piece.key])}?{query}"
    return JobView(key, piece, name, len(ids), address, way["tests"], way["is_timed"])


def _case(document: dict[str, Any], answer: dict[str, Any]) -> list[CaseLine]:
    """What is sold in the case, what is short first."""
    asked = {row["name"]: row for row in document["products"]}
    found = []
    for line in answer["products"]:
        row = asked[line["name"]]
        if not row.get("is_sold", True):
            continue
        unit = Unit(row["price"]["per"])
        have, made = Decimal(line["have"]["value"]), Decimal(line["made"]["value"])
        least, most = (
            _weight(row[name]).to(unit) if name in row else None for name in ("least", "most")
        )
        if least is None:
            continue
        short = Decimal(line["short"]["value"])
        found.append(
            CaseLine(
                row["shown"],
                case_bar(have, made, least or ZERO, most),
                f"{have + made:.1f} {unit.value}",
                f"{short:.1f} {unit.value} short" if short else "",
            )
        )
    return sorted(found, key=lambda one: not one.short)


def _beside(document: dict[str, Any], answer: dict[str, Any]) -> list[str]:
    asked = {row["name"]: row for row in document["products"]}
    found = []
    for line in answer["products"]:
        row, made = asked[line["name"]], Decimal(line["made"]["value"])
        if made and row.get("is_sold", True) and "least" not in row:
            found.append(f"{row['shown']} {made:.1f} {row['price']['per']}")
    return found


def _bag_lines(
    plan: DayPlan,
    bags: dict[str, Bag],
    ways: dict[str, Any],
    weights: dict[str, Weight],
) -> list[BagLine]:
    cut = {one["bag"]: one["way"] for one in plan.answer["cut"]}
    why = {one["bag"]: one["why"] for one in plan.answer["not_cut"]}
    by_piece: dict[str, list[tuple[str, str]]] = defaultdict(list)
    for key, way in ways.items():
        piece, _, name = way["name"].partition(": ")
        by_piece[piece].append((key, name))
    found = []
    for row in plan.document["bags"]:
        bag = bags.get(row["id"])
        name = bag.piece.shown_name if bag and bag.piece else "a bag that is gone"
        doing = ways[cut[row["id"]]]["name"].partition(": ")[2] if row["id"] in cut else ""
        must = "must be cut; " if row.get("is_due") else ""
        found.append(
            BagLine(
                row["id"],
                f"{name}, {weights[row['id']]}",
                f"{must}{doing or why.get(row['id'], '')}",
                by_piece.get(name, []),
                plan.pins.get(row["id"]),
                row["id"] in cut,
            )
        )
    return found


def _not_today(answer: dict[str, Any], bags: dict[str, Bag]) -> list[str]:
    """Why what is not cut is not, alike bags together."""
    found: dict[tuple[str, str], int] = defaultdict(int)
    for one in answer["not_cut"]:
        bag = bags.get(one["bag"])
        name = bag.piece.shown_name if bag and bag.piece else "a bag"
        found[name, re.sub(r"^[0-9.]+ ", "", one["why"].split(":")[0])] += 1
    return [
        f"{name}, {many}: {why}" if many > 1 else f"{name}: {why}"
        for (name, why), many in found.items()
    ]


def _against(plan: DayPlan) -> str:
    """What this plan brings more or less than the one before it that day: one query."""
    before = DayPlan.objects.filter(day=plan.day, made_at__lt=plan.made_at).first()
    if before is None:
        return ""
    with working():
        more = Decimal(plan.answer["gross_profit"]) - Decimal(before.answer["gross_profit"])
    if not more:
        return "as much as the plan before"
    return f"{money(abs(more))} {'more' if more > 0 else 'less'} than the plan before"


def _an_hour(answer: dict[str, Any]) -> str:
    """Gross profit for an hour of hands; empty for an idle day."""
    minutes = Decimal(answer["minutes"])
    if not minutes:
        return ""
    with working():
        return money(Decimal(answer["gross_profit"]) * 60 / minutes)


def _hours(minutes: Decimal) -> str:
    whole = int(minutes.to_integral_value())
    return f"{whole // 60} h {whole % 60} min" if whole >= 60 else f"{whole} min"


def _clock(minutes: int) -> str:
    return f"{minutes // 60 % 24}:{minutes % 60:02d}"


@dataclass(frozen=True)
class WorthView:
    """What was worked out since: sentences, how sure it is, and what is still to come."""

    lines: list[str]
    sure: list[str]
    coming: list[str]
    next: str = ""
    """The kind that is asked for next."""


def worth_view(plan: DayPlan) -> WorthView:
    """No query but the bags': one."""
    worth, lines = plan.worth, []
    names = {row["name"]: row for row in plan.document["products"]}
    if worth.get("hour") is not None:
        hour = Decimal(worth["hour"])
        lines.append(
            f"One more hour of hands brings {money(hour)}."
            if hour
            else "More hands bring nothing today."
        )
    products = [
        (Decimal(value), name) for name, value in worth.get("products", {}).items() if value
    ]
    for value, name in sorted(products, reverse=True)[:4]:
        if value > 0:
            lines.append(f"One more lb of {names[name]['shown']} that sells brings {money(value)}.")
    musts = {key: Decimal(value) for key, value in worth.get("musts", {}).items() if value}
    bags = Bag.objects.select_related("piece").in_bulk(musts) if musts else {}
    for pk, bag in bags.items():
        cost = musts[str(pk)]
        if cost > 0:
            lines.append(
                f"{bag.piece.shown_name}, {bag.weight}, that must be cut costs {money(cost)}."
            )
    missing = [kind for kind in kinds_of(plan) if kind not in worth]
    coming = [COMING[kind] for kind in missing]
    return WorthView(lines, _sure(worth.get("sure"), names), coming, missing[0] if missing else "")


COMING = {"hour": "an hour", "sure": "how sure", "products": "a pound more", "musts": "each must"}


def kinds_of(plan: DayPlan) -> list[str]:
    """What can be worked out of a plan. What an hour or a pound is worth are differences of the most
    gross profit, so a plan by the hour knows only how sure it is."""
    return ["sure"] if plan.document.get("aim") == "hour" else list(COMING)


def _sure(found: dict[str, Any] | None, names: dict[str, Any]) -> list[str]:
    """The range of the profit, and what is not met every time; the least likely first."""
    if not found:
        return []
    low, high = money(Decimal(found["low"])), money(Decimal(found["high"]))
    lines = [f"9 times in 10 between {low} and {high}."]
    for share, name in sorted((share, name) for name, share in found["met"].items())[:4]:
        times = round(share * 10)
        if times < 10:
            often = f"{times} times in 10" if times else "hardly ever"
            lines.append(f"{names[name]['shown']} reaches its least {often}.")
    return lines
