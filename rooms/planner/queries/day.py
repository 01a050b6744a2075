"""A day's plan as its page shows it."""

import re
from collections import defaultdict
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from cutting.planning.hands import GRINDER
from cutting.quantities import ZERO, Unit, working
from drawings.day_view import CaseBar, JobBox, LanesView, case_bar, lanes_view
from rooms.catalog.models import Plan, PlanOutput
from rooms.catalog.queries.looks import looks_in_order
from rooms.cooler.models import Bag
from rooms.planner.models import DayPlan
from rooms.planner.queries.jobs import (
    PlanJob,
    bags_of,
    gone_since,
    lanes_of,
    plan_jobs,
    plans_of,
    ways_of,
    weight_of,
)
from wording.pencil import money


@dataclass(frozen=True)
class CaseLine:
    name: str
    bar: CaseBar
    text: str
    short: str
    why: str
    """Why no more of it is made; empty where nothing is short."""


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
    hands: list[str]
    jobs: dict[str, PlanJob]
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
    so_far: str
    """How far the plan is from proven; empty where it is."""
    went: str
    """How far the day is, and whether it is late; empty before its first bag."""
    gone: list[str]
    """Bags that it counted on and that are not there any more."""

    @property
    def rows(self) -> list[tuple[str, tuple[JobBox, ...]]]:
        """The lanes with the names of their hands."""
        return list(zip(self.hands, self.lanes.rows, strict=True))


def newest(day: Any) -> DayPlan | None:
    """The last plan of a day: one query."""
    return DayPlan.objects.filter(day=day).select_related("made_by").first()


SIX = 6 * 60
"""The block begins at six, unless the plan is made later."""


def day_view(plan: DayPlan) -> DayView:
    """Eight queries."""
    document, answer = plan.document, plan.answer
    bags, plans = bags_of(plan), plans_of(plan)
    jobs = plan_jobs(plan, bags, plans)
    looks = _looks(plans)
    for key, way in ways_of(plan).items():
        looks.setdefault(key, [one for own in way.get("parts", ()) for one in looks[own["way"]]])
    looks[GRINDER] = [("lean", Decimal(1))]
    hands, rows = lanes_of(plan, jobs, bags)
    start = int(document.get("begins", SIX))
    end = max((one.end for row in rows for one in row), default=ZERO)
    return DayView(
        plan=plan,
        hands=hands,
        lanes=lanes_view(rows, looks, start),
        jobs=jobs,
        case=_case(document, answer),
        beside=_beside(document, answer),
        bags=_bag_lines(plan, bags),
        not_today=_not_today(answer, bags),
        profit=money(Decimal(answer["gross_profit"])),
        against=_against(plan),
        many=len(answer["cut"]),
        of=len(document["bags"]),
        minutes=_hours(Decimal(answer["minutes"])),
        an_hour=_an_hour(answer),
        done=_clock(start + int(end)),
        shortfall=money(Decimal(answer["shortfall"])) if Decimal(answer["shortfall"]) else "",
        so_far=_so_far(answer.get("open")),
        went=_went(jobs),
        gone=gone_since(plan, jobs, bags),
    )


def _so_far(gaps: dict[str, str | None] | None) -> str:
    if gaps is None:
        return ""
    if gaps["gap"] is None:
        return "The best so far; how much better there is nobody knows yet."
    short = Decimal(gaps["short_gap"] or 0)
    words = f"The best so far: at most {money(Decimal(gaps['gap']))} more can be had"
    return f"{words}, or {money(short)} less be short." if short else f"{words}."


def _went(jobs: dict[str, PlanJob]) -> str:
    """“2 of 11 bags cut, 6 min later than planned”."""
    finished = sum(one.finished for one in jobs.values())
    begun = sum(one.begun for one in jobs.values())
    if not begun:
        return ""
    with working():
        late = sum((one.minutes - one.planned for one in jobs.values()), ZERO)
    words = f"{finished} of {sum(one.count for one in jobs.values())} bags cut"
    if begun > finished:
        words += f", {begun - finished} on the block"
    if round(late):
        words += f", {abs(late):.0f} min {'later' if late > 0 else 'earlier'} than planned"
    return f"{words}."


@dataclass(frozen=True)
class Given:
    """The plan that the block works by, and what is still to be begun of it by each who is there."""

    plan: DayPlan
    rows: list[tuple[str, list[PlanJob]]]
    went: str
    gone: list[str]


def jobs_to_do(day: Any) -> Given | None:
    """What was given to the block last: six queries. None where nothing was."""
    plan = DayPlan.objects.filter(day=day).exclude(given_at=None).first()
    if plan is None:
        return None
    bags = bags_of(plan)
    jobs = plan_jobs(plan, bags, plans_of(plan))
    hands, rows = lanes_of(plan, jobs, bags)
    left = [
        (name, [jobs[one.job.key] for one in row if jobs[one.job.key].address])
        for name, row in zip(hands, rows, strict=True)
    ]
    return Given(plan, left, _went(jobs), gone_since(plan, jobs, bags))


def _looks(plans: dict[str, Plan]) -> dict[str, list[tuple[str, Decimal]]]:
    """The looks and usual shares of the piles of each way's first plan: one query."""
    rows: dict[int, list[PlanOutput]] = defaultdict(list)
    outputs = PlanOutput.objects.filter(plan__in=plans.values(), is_dropped=False)
    for row in outputs.order_by("plan", "position", "id"):
        rows[row.plan_id].append(row)
    of_plan = {
        pk: [
            (look, row.share)
            for row, look in zip(found, looks_in_order(found), strict=True)
            if row.share
        ]
        for pk, found in rows.items()
    }
    return {key: of_plan[plan.pk] for key, plan in plans.items() if plan.pk in of_plan}


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
            weight_of(row[name]).to(unit) if name in row else None for name in ("least", "most")
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
                _why_short(row, document, answer) if short else "",
            )
        )
    return sorted(found, key=lambda one: not one.short)


def _why_short(row: dict[str, Any], document: dict[str, Any], answer: dict[str, Any]) -> str:
    """Why no more of a product is made: nobody has time for a bag that gives it, one is cut another
    way, none is old enough yet, or there is none."""
    giving = {
        way["id"]
        for way in document["ways"]
        if any(one["product"] == row["name"] for one in way["outputs"])
    }
    bags = [bag["id"] for bag in document["bags"] if giving & set(bag["ways"])]
    cut = {one["bag"]: set(one["way"].split("+")) for one in answer["cut"]}
    if any(bag not in cut for bag in bags):
        return "no hands are left for it"
    if any(not giving & {way.split("@")[0] for way in cut[bag]} for bag in bags):
        return "a bag that gives it is cut another way"
    if "from" in row:
        return f"no other bag is old enough until {date.fromisoformat(row['from']):%A}"
    return "no other bag gives it" if bags else "no bag gives it"


def _beside(document: dict[str, Any], answer: dict[str, Any]) -> list[str]:
    asked = {row["name"]: row for row in document["products"]}
    found = []
    for line in answer["products"]:
        row, made = asked[line["name"]], Decimal(line["made"]["value"])
        if made and row.get("is_sold", True) and "least" not in row:
            found.append(f"{row['shown']} {made:.1f} {row['price']['per']}")
    return found


def _bag_lines(plan: DayPlan, bags: dict[str, Bag]) -> list[BagLine]:
    ways = ways_of(plan)
    cut = {one["bag"]: one["way"] for one in plan.answer["cut"]}
    why = {one["bag"]: one["why"] for one in plan.answer["not_cut"]}
    by_piece: dict[str, list[tuple[str, str]]] = defaultdict(list)
    for way in plan.document["ways"]:
        piece, _, name = way["name"].partition(": ")
        by_piece[piece].append((way["id"], name))
    found = []
    for row in plan.document["bags"]:
        bag = bags.get(row["id"])
        name = bag.piece.shown_name if bag and bag.piece else "a bag that is gone"
        doing = ways[cut[row["id"]]]["name"].partition(": ")[2] if row["id"] in cut else ""
        must = "must be cut; " if row.get("is_due") else ""
        found.append(
            BagLine(
                row["id"],
                f"{name}, {weight_of(row['weight'])}",
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
    before = DayPlan.objects.filter(day=plan.day, pk__lt=plan.pk).first()
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
    lines += _hour_lines(worth.get("hour"))
    lines += _next_lines(plan)
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


def _hour_lines(found: Any) -> list[str]:
    """What an hour more brings: of all hands, or of each who is there. What the solver had no time for is
    told as not known; plans kept before it told the shortfall have the profit alone."""
    if found is None:
        return []
    if isinstance(found, str):
        found = {"hands": found}
    lines, unknown = [], []
    for name, value in found.items():
        if value is None:
            unknown.append(name)
            continue
        more = value if isinstance(value, dict) else {"profit": value, "less_short": "0"}
        lines += _hour_words(name, Decimal(more["profit"]), Decimal(more["less_short"]))
    if unknown:
        names = " or ".join(unknown)
        lines.append(f"What one more hour of {names} brings was not found in time.")
    return lines or ["More hands bring nothing today."]


def _hour_words(name: str, profit: Decimal, less_short: Decimal) -> list[str]:
    if less_short > 0 and profit < 0:
        words = f"One more hour of {name} leaves {money(less_short)} less short, and costs"
        return [f"{words} {money(-profit)}."]
    if less_short > 0:
        words = f"One more hour of {name} brings {money(profit)}"
        return [f"{words}, and leaves {money(less_short)} less short."]
    if profit < 0:  # a plan kept before: what is less short is not in it
        return [f"One more hour of {name} meets more of the list, and costs {money(-profit)}."]
    return [f"One more hour of {name} brings {money(profit)}."] if profit else []


def _next_lines(plan: DayPlan) -> list[str]:
    """The next best plan: how much less it brings, and what is cut otherwise."""
    found = plan.worth.get("next")
    if not found or found["less"] is None:
        return []
    ways = {row["id"]: row["name"] for row in plan.document["ways"]}
    words = [f"{ways[key]} {_times(many)}" for key, many in found["ways"].items() if key in ways]
    less = Decimal(found["less"])
    first = f"Next best, {money(less)} less" if less else "As good"
    return [f"{first}: {'; '.join(words)}." if words else f"{first}, split otherwise."]


def _times(many: int) -> str:
    often = {1: "once", 2: "twice"}.get(abs(many), f"{abs(many)} times")
    return f"{often} {'more' if many > 0 else 'less'}"


COMING = {
    "hour": "an hour",
    "sure": "how sure",
    "next": "the next best plan",
    "products": "a pound more",
    "musts": "each must",
}


def kinds_of(plan: DayPlan) -> list[str]:
    """What can be worked out of a plan. What an hour or a pound is worth are differences of the most
    gross profit, so a plan by the hour, and one that is not proven to be the best, knows only how sure it
    is: the gap would be told as worth."""
    is_most = plan.document.get("aim") != "hour" and "open" not in plan.answer
    return list(COMING) if is_most else ["sure"]


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
    times = round(found.get("in_time", 1) * 10)
    if times < 10:
        lines.append(f"Done inside the hours {f'{times} times in 10' if times else 'hardly ever'}.")
    return lines
