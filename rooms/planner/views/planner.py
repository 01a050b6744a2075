"""The planner: the day, ways side by side, what the case should hold."""

import uuid
from datetime import datetime, time, timedelta
from decimal import Decimal
from typing import Any
from urllib.parse import urlencode

from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from cutting.errors import BadValue
from cutting.planning.hands import MOST_CUTTERS, SET_UP, WAIT, WASH
from rooms.catalog.models import Piece, Plan
from rooms.common.clients import solver
from rooms.common.errors import BadInput
from rooms.common.web.refusals import Told, status_of, told_by
from rooms.planner.actions.plan_day import KINDS, Asked, give_to_block, keep_plan, keep_worth
from rooms.planner.forms import USUAL_HOURS, DayForm, WaysForm
from rooms.planner.models import DayPlan
from rooms.planner.queries.asking import asking, checked, with_names
from rooms.planner.queries.boxes import BoxesView, boxes_view
from rooms.planner.queries.chains import pieces_that_go_on
from rooms.planner.queries.crew import people
from rooms.planner.queries.day import SIX, day_view, jobs_to_do, kinds_of, newest, worth_view
from rooms.planner.queries.ways import WaysView, first_values, sensitivity, ways_view
from rooms.planner.queries.week import week as week_of
from rooms.shop.queries.current import house
from rooms.staff.block import by_id
from rooms.staff.models import Person, names
from rooms.staff.rights import Right, may

QUICK_LOOK, LONG_LOOK = 3, 20
"""Seconds of the solver for a plan, and where somebody asks to look longer."""
BEST = "best"


@may(Right.PLAN)
def day(request: HttpRequest) -> HttpResponse:
    """Today's plan, and planning it again."""
    told = Told()
    form = _form(request.POST or None)
    pins = _pins(request)
    if request.method == "POST":
        with told:
            _solve(request, form, pins)
            return redirect("planner:day")
    return _day(request, form, told)


def _form(data: Any = None) -> DayForm:
    some = people()
    shown = names(some)
    return DayForm(data, initial=_initial(some), people=[(one.pk, shown[one.pk]) for one in some])


def _initial(some: list[Person]) -> dict[str, Any]:
    """As the day was asked last; on the first day every cutter for the usual hours."""
    last, now = newest(timezone.localdate()), timezone.localtime()
    before = _as_it_stands(last, now) if last else None
    if before is None:
        cutters = [one for one in some if one.role != Person.Role.MANAGER] or some
        usual = {f"hours_{one.pk}": f"{USUAL_HOURS}" for one in cutters[:MOST_CUTTERS]}
        before = {"aim": "profit", "steps": 1, "least_products": 0, **usual}
        before |= {"wash": f"{WASH}", "saw": f"{SET_UP}", "wait": f"{WAIT}"}
    now_or_six = max(SIX, -(-(now.hour * 60 + now.minute) // 5) * 5) % (24 * 60)
    begins = f"{now_or_six // 60:02d}:{now_or_six % 60:02d}"
    return {**before, "key": uuid.uuid4(), "begins": begins}


def _as_it_stands(last: DayPlan, now: datetime) -> dict[str, Any] | None:
    """As the day was asked last, with the hours that are left of it since, to a quarter."""
    asked = last.document.get("asked")
    if asked is None:
        return None
    begins = datetime.combine(last.day, time(), now.tzinfo) + timedelta(
        minutes=last.document["begins"]
    )
    gone = max((now - max(begins, last.made_at)).total_seconds(), 0)
    quarters = Decimal(round(gone / 900)) / 4
    found = dict(asked)
    for name, value in asked.items():
        if name.startswith("hours_") and value:
            left = Decimal(value) - quarters
            found[name] = f"{left.normalize():f}" if left > 0 else ""
    return found


def _pins(request: HttpRequest) -> dict[str, str]:
    """Bags that somebody set to a way, or to nothing today."""
    found = {}
    for name, value in request.POST.items():
        before, _, bag = name.partition("-")
        if before == "pin" and value != BEST:
            found[bag] = "" if value == "no" else value
    return found


def _solve(request: HttpRequest, form: DayForm, pins: dict[str, str]) -> DayPlan:
    if not form.is_valid():
        raise BadInput(" ".join(_fault(form, name, each) for name, each in form.errors.items()))
    data, today = form.cleaned_data, timezone.localdate()
    asked_day = form.asked(pins)
    try:
        found = checked(asking(today, asked_day))
    except BadValue as bad:
        raise BadInput(f"{bad}.") from bad
    aim = data["aim"] or "profit"
    seconds = LONG_LOOK if "longer" in request.POST else QUICK_LOOK
    document = {**found.document, "aim": aim}
    try:
        answer = solver.ask("/choose", {**document, "seconds": seconds})
    except BadInput as bad:
        raise BadInput(with_names(bad.message, document)) from None
    begins = data["begins"].hour * 60 + data["begins"].minute
    kept = {
        **document,
        "left_out": found.left_out,
        "begins": begins,
        "asked": {
            name: value
            for name, value in form.data.items()
            if name in form.fields and name != "key"
        },
    }
    hands = len(asked_day.minutes)
    asked = Asked(data["key"], today, hands, asked_day.in_all, kept, answer, pins)
    return keep_plan(asked, by_id(request))


def _kept_value(form: DayForm, name: str) -> Any:
    """As plain text or a flag, so that it can be shown again."""
    value = form.cleaned_data[name]
    if value is None:
        return ""
    return f"{value.normalize():f}" if isinstance(value, Decimal) else value


def _fault(form: DayForm, name: str, errors: Any) -> str:
    label = "" if name == "__all__" else f"{form.fields[name].label}: "
    return f"{label}{' '.join(errors)}"


def _day(request: HttpRequest, form: DayForm, told: Told) -> HttpResponse:
    plan = newest(timezone.localdate())
    context = {
        "form": form,
        "plan": plan,
        "view": day_view(plan) if plan else None,
        "worth": worth_view(plan) if plan else None,
        "refused": told.refused,
        "today": timezone.localdate(),
    }
    return render(request, "planner/day.html", context, status=told.status())


@may(Right.LOOK)
@require_POST
def worth(request: HttpRequest, plan_id: int, kind: str) -> HttpResponse:
    """What an hour, a pound of each product or each must is worth: asked of the solver once."""
    plan = get_object_or_404(DayPlan, pk=plan_id)
    if kind not in KINDS:
        raise Http404
    if kind not in plan.worth and kind in kinds_of(plan):
        asked = {
            "day": plan.document,
            "gross_profit": plan.answer["gross_profit"],
            "shortfall": plan.answer["shortfall"],
            "cut": plan.answer["cut"],
            "of": kind,
        }
        try:
            found = solver.ask("/worth", asked, seconds=solver.LONG_SECONDS)
            plan = keep_worth(plan.pk, found)
        except (BadInput, solver.Away) as refused:
            context = {"plan": plan, "worth": worth_view(plan), "refused": refused}
            return render(request, "planner/_worth.html", context, status=refused.status)
    return render(request, "planner/_worth.html", {"plan": plan, "worth": worth_view(plan)})


@may(Right.PLAN)
@require_POST
@told_by(lambda request, refused, plan_id: _refused(request, refused))
def give(request: HttpRequest, plan_id: int) -> HttpResponse:
    """The block works by this plan."""
    get_object_or_404(DayPlan, pk=plan_id)
    give_to_block(plan_id)
    return redirect("planner:day")


@may(Right.LOOK)
@require_GET
def jobs(request: HttpRequest) -> HttpResponse:
    """What is still to be cut of the plan that was given to the block, for the morning's page."""
    return render(request, "planner/_jobs.html", {"given": jobs_to_do(timezone.localdate())})


def _refused(request: HttpRequest, refused: Any) -> HttpResponse:
    told = Told()
    told.refused = refused
    return _day(request, _form(), told)


@may(Right.LOOK)
@require_GET
def front(request: HttpRequest) -> HttpResponse:
    """Pieces with two ways or more: two plans, or one that goes on."""
    going_on = pieces_that_go_on()
    pieces = [
        piece
        for piece in Piece.objects.order_by("-is_bought", "position").prefetch_related("plans")
        if len(piece.plans.all()) > 1 or piece.pk in going_on
    ]
    return render(request, "planner/ways_front.html", {"pieces": pieces})


@may(Right.LOOK)
@require_GET
def ways(request: HttpRequest, key: str) -> HttpResponse:
    """Two to four ways of one piece side by side; everything asked stands in the address."""
    piece = get_object_or_404(Piece, key=key)
    plans = list(Plan.in_house_order(piece.plans.all()))
    if len(plans) < 2 and piece.pk not in pieces_that_go_on():
        raise Http404
    data: Any = request.GET
    first: dict[str, Any] = {}
    if "weight" not in data:
        first = first_values(piece) | {"plans": [plan.key for plan in plans[:3]]}
        data = QueryDict(urlencode(first, doseq=True))
    is_asked = not first or bool(first["price"])  # what was never bought has no price to begin with
    form, told = WaysForm(data if is_asked else None, initial=first, piece=piece), Told()
    view, boxes = None, []
    if form.is_valid():
        with told:
            view = _ways(form, piece)
            boxes = _boxes(form, view)
    context = {
        "piece": piece,
        "form": form,
        "view": view,
        "boxes": boxes,
        "refused": told.refused,
        "asked": data.urlencode(),
    }
    status = told.status() if told.refused else status_of(form)
    return render(request, "planner/ways.html", context, status=status)


@may(Right.LOOK)
@require_GET
def moved(request: HttpRequest, key: str) -> HttpResponse:
    """What the best of the ways brings when one thing moves, for the page that shows them."""
    piece = get_object_or_404(Piece, key=key)
    form = WaysForm(request.GET, piece=piece)
    if not form.is_valid():
        raise BadInput("; ".join(f"{name}: {' '.join(told)}" for name, told in form.errors.items()))
    view, rate = _ways(form, piece), house().labour_rate or None
    rows = sensitivity(form.bought(), rate, view.compared)
    return render(request, "planner/_moved.html", {"rows": rows})


def _ways(form: WaysForm, piece: Piece) -> WaysView:
    try:
        return ways_view(
            piece,
            form.bought(),
            form.cleaned_data["plans"],
            house().labour_rate or None,
            timezone.localdate(),
        )
    except BadValue as bad:
        raise BadInput(f"{bad}.") from bad


def _boxes(form: WaysForm, view: WaysView) -> list[BoxesView]:
    """The plans that give whole pieces, each against boxes of them."""
    data, rate = form.cleaned_data, house().labour_rate or None
    freight = data["box_freight"] or Decimal(0)
    found = [
        boxes_view(form.bought(), plan, way, form.boxes, form.box_prices, freight, rate)
        for plan, way in zip(data["plans"], view.ways, strict=False)  # then those carried on
        if form.is_boxed
    ]
    return [one for one in found if one is not None]


@may(Right.LOOK)
@require_GET
def week(request: HttpRequest) -> HttpResponse:
    """What falls due, gets old enough and is wanted in the next seven days."""
    return render(request, "planner/week.html", {"week": week_of(timezone.localdate())})
