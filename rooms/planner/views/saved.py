"""The ad planner and what to buy: numbers in the address, kept under a name, beside each other."""

from typing import Any

from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST
from django.views.generic import RedirectView

from rooms.common.errors import Refused
from rooms.common.web.refusals import told_by
from rooms.planner.actions.keep import Keeping, keep, take_off
from rooms.planner.models import Kept
from rooms.planner.queries.ads import ad_view, example
from rooms.planner.queries.buying import buy_view
from rooms.planner.queries.costed import groups, sold_with_costs
from rooms.planner.queries.kept import ads_beside, buys_beside, kept_plans
from rooms.planner.queries.plan_fields import is_key
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may

AD, BUY = Kept.Kind.AD, Kept.Kind.BUY
NOT_KEPT = {"csrfmiddlewaretoken", "name", "over", "kept"}


@may(Right.LOOK)
@require_GET
def ad(request: HttpRequest) -> HttpResponse:
    """What an ad brings, gives away, and what wins it back. Without numbers: the ad that was kept
    last, else an example of the shop."""
    kept, plans, book = _asked(request, AD), kept_plans(AD), sold_with_costs()
    data = _fields(request.GET)
    is_example = False
    if not data:
        kept = kept or next(iter(plans), None)
        data = kept.fields if kept else example(book)
        is_example = kept is None and bool(data)
    return _ad_page(request, data, kept, is_example=is_example, plans=plans, book=book)


def _ad_page(
    request: HttpRequest,
    data: Any,
    kept: Any,
    refused: Refused | None = None,
    *,
    book: Any = None,
    plans: Any = None,
    **more: Any,
) -> HttpResponse:
    view = ad_view(data, kept.said if kept else None, book)
    status = refused.status if refused else 422 if view.faults else 200
    context = {
        "view": view,
        "kept": kept,
        "plans": kept_plans(AD) if plans is None else plans,
        "refused": refused,
        "kind": AD,
        "seen": _seen(request, kept),
        **more,
    }
    return render(request, "planner/ad.html", context, status=status)


@may(Right.LOOK)
@require_GET
def buy(request: HttpRequest) -> HttpResponse:
    """The same muscle from several stages or hands: cost of a ready pound."""
    kept, plans = _asked(request, BUY), kept_plans(BUY)
    data = _fields(request.GET)
    if not data:
        kept = kept or next(iter(plans), None)
        data = kept.fields if kept else {}
    return _buy_page(request, data, kept, plans=plans)


@may(Right.LOOK)
@require_GET
def buy_moved(request: HttpRequest) -> HttpResponse:
    """What to buy stands in the planner now; what was asked of it here goes along."""
    return RedirectView.as_view(pattern_name="planner:buy", query_string=True)(request)


def _buy_page(
    request: HttpRequest,
    data: Any,
    kept: Any,
    refused: Refused | None = None,
    *,
    plans: Any = None,
    **more: Any,
) -> HttpResponse:
    view = buy_view(data, kept.said if kept else None)
    status = refused.status if refused else 422 if view.faults else 200
    context = {
        "view": view,
        "kept": kept,
        "plans": kept_plans(BUY) if plans is None else plans,
        "refused": refused,
        "kind": BUY,
        "seen": _seen(request, kept),
        **more,
    }
    return render(request, "planner/buy.html", context, status=status)


def _not_kept(request: HttpRequest, refused: Refused, kind: str) -> HttpResponse:
    """The page again; where the name is taken, what it would be kept over is asked."""
    page, name = _ad_page if kind == AD else _buy_page, request.POST.get("name", "")
    there = Kept.objects.filter(kind=kind, name=" ".join(name.split())).first()
    over = there.revision if there else ""
    return page(request, _fields(request.POST), None, refused, typed_name=name, over=over)


@may(Right.PLAN)
@require_POST
@told_by(_not_kept)
def keep_plan(request: HttpRequest, kind: str) -> HttpResponse:
    """Keep the numbers under a name. A name that stands for other numbers is asked about."""
    data, name = _fields(request.POST), request.POST.get("name", "")
    over = request.GET.get("over") or request.POST.get("over", "")
    kept = keep(Keeping(Kept.Kind(kind), name, data, _said(kind, data), over), by_id(request))
    response = redirect("planner:ad" if kind == AD else "planner:buy")
    response["Location"] += f"?kept={kept.pk}"
    return response


@may(Right.LOOK)
@require_GET
def beside(request: HttpRequest, kind: str) -> HttpResponse:
    """Every kept plan of a kind, worked out at today's prices."""
    lines = ads_beside() if kind == AD else buys_beside()
    return render(request, "planner/kept.html", {"lines": lines, "kind": kind})


@may(Right.PLAN)
@require_POST
def take_plan_off(request: HttpRequest, kind: str, pk: Any) -> HttpResponse:
    take_off(Kept.Kind(kind), pk)
    return redirect("planner:kept", kind)


def _asked(request: HttpRequest, kind: str) -> Kept | None:
    """The kept plan the address names."""
    pk = request.GET.get("kept", "")
    return get_object_or_404(Kept, kind=kind, pk=int(pk)) if is_key(pk) else None


def _seen(request: HttpRequest, kept: Kept | None) -> str:
    """The revision of the kept plan that was opened, carried along while numbers change."""
    return request.GET.get("over") or (str(kept.revision) if kept else "")


def _fields(data: QueryDict) -> dict[str, str]:
    """What was typed or chosen, without what is empty."""
    return {name: value for name, value in data.items() if name not in NOT_KEPT and value.strip()}


def _said(kind: str, data: dict[str, str]) -> dict[str, str]:
    """What the chosen products or tests are called now."""
    if kind == AD:
        names = {str(product.pk): product.name for product, _ in sold_with_costs()}
    else:
        names = {group.key: group.name.partition(":")[0] for group in groups()}
    return {
        field: names[value]
        for field, value in data.items()
        if value in names and field.startswith(("product-", "group-"))
    }
