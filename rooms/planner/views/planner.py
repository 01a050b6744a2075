"""The planner: the day, ways side by side, what the case should hold."""

import uuid
from typing import Any

from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from cutting.errors import BadValue
from rooms.catalog.models import Piece, Plan
from rooms.common.errors import BadInput
from rooms.common.refusals import Told, status_of, told_by
from rooms.planner.actions.plan_day import KINDS, Asked, give_to_block, keep_plan, keep_worth
from rooms.planner.actions.want import want
from rooms.planner.forms import USUAL_HANDS, USUAL_HOURS, DayForm, WantedForm, WaysForm
from rooms.planner.models import WEEKDAYS, DayPlan, Wanted
from rooms.planner.queries.asking import asking, checked
from rooms.planner.queries.day import day_view, kinds_of, newest, worth_view
from rooms.planner.queries.ways import first_values, ways_view
from rooms.planner.queries.week import week as week_of
from rooms.planner.rules import solver
from rooms.shop.rules.current import house
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may

SIX = 6 * 60
"""The block begins at six, unless the plan is made later."""
BEST = "best"


@may(Right.PLAN)
def day(request: HttpRequest) -> HttpResponse:
    """Today's plan, and planning it again."""
    told = Told()
    form = DayForm(request.POST or None, initial=_initial())
    pins = _pins(request)
    if request.method == "POST":
        with told:
            _solve(request, form, pins)
            return redirect("planner:day")
    return _day(request, form, told)


def _initial() -> dict[str, Any]:
    last = newest(timezone.localdate())
    hours = last.minutes / 60 / last.hands if last else USUAL_HOURS
    return {
        "key": uuid.uuid4(),
        "hands": last.hands if last else USUAL_HANDS,
        "hours": f"{hours.normalize():f}",
        "least_products": last.document["least_products"] if last else 0,
        "aim": last.document.get("aim", "profit") if last else "profit",
    }


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
        raise BadInput(" ".join(f"{n}: {' '.join(e)}" for n, e in form.errors.items()))
    data, today = form.cleaned_data, timezone.localdate()
    try:
        found = checked(asking(today, form.minutes(), data["least_products"] or 0, pins))
    except BadValue as bad:
        raise BadInput(f"{bad}.") from bad
    asked_document = {**found.document, "aim": data["aim"] or "profit"}
    answer = solver.ask("/choose", asked_document)
    document = {**asked_document, "left_out": found.left_out}
    asked = Asked(data["key"], today, data["hands"], form.minutes(), document, answer, pins)
    return keep_plan(asked, by_id(request))


def _day(request: HttpRequest, form: DayForm, told: Told) -> HttpResponse:
    plan = newest(timezone.localdate())
    start = SIX
    if plan is not None:
        made = timezone.localtime(plan.made_at)
        start = max(SIX, made.hour * 60 + made.minute // 30 * 30)
    context = {
        "form": form,
        "plan": plan,
        "view": day_view(plan, start) if plan else None,
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


def _refused(request: HttpRequest, refused: Any) -> HttpResponse:
    told = Told()
    told.refused = refused
    return _day(request, DayForm(initial=_initial()), told)


@may(Right.LOOK)
@require_GET
def front(request: HttpRequest) -> HttpResponse:
    """Pieces with two ways or more."""
    pieces = [
        piece
        for piece in Piece.objects.order_by("-is_bought", "position").prefetch_related("plans")
        if len(piece.plans.all()) > 1
    ]
    return render(request, "planner/ways_front.html", {"pieces": pieces})


@may(Right.LOOK)
@require_GET
def ways(request: HttpRequest, key: str) -> HttpResponse:
    """Two to four ways of one piece side by side; everything asked stands in the address."""
    piece = get_object_or_404(Piece, key=key)
    plans = list(Plan.in_house_order(piece.plans.all()))
    if len(plans) < 2:
        raise Http404
    data: Any = request.GET
    if "weight" not in data:
        data = data.copy()
        for name, value in first_values(piece).items():
            data[name] = value
        data.setlist("plans", [plan.key for plan in plans[:3]])
    form, view, told = WaysForm(data, piece=piece), None, Told()
    if form.is_valid():
        with told:
            view = _ways(form, piece)
    context = {"piece": piece, "form": form, "view": view, "refused": told.refused}
    status = told.status() if told.refused else status_of(form)
    return render(request, "planner/ways.html", context, status=status)


def _ways(form: WaysForm, piece: Piece) -> Any:
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


@may(Right.LOOK)
@require_GET
def week(request: HttpRequest) -> HttpResponse:
    """What falls due, gets old enough and is wanted in the next seven days."""
    return render(request, "planner/week.html", {"week": week_of(timezone.localdate())})


@may(Right.PRICE)
def wanted_list(request: HttpRequest) -> HttpResponse:
    """What the case should hold, by the day of the week."""
    form = WantedForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        with transaction.atomic():
            for weekday in data["weekdays"]:
                want(data["product"], weekday, data["least"], data["most"])
        return redirect("planner:wanted")
    rows: dict[object, dict[int, Wanted]] = {}
    for line in Wanted.objects.select_related("product").order_by("product__name"):
        rows.setdefault(line.product, {})[line.weekday] = line
    table = [(product, [days.get(day) for day, _ in WEEKDAYS]) for product, days in rows.items()]
    context = {"form": form, "table": table, "weekdays": WEEKDAYS}
    return render(request, "planner/wanted.html", context, status=422 if form.errors else 200)
