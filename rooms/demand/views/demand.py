"""What moves the demand: seasons, holidays, ads, restaurants."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from rooms.common.web.refusals import Told, status_of, told_in
from rooms.demand.actions.factors import set_factor, take_factor_off
from rooms.demand.actions.standing_orders import set_standing, stop_standing
from rooms.demand.forms import FactorForm, StandingForm
from rooms.demand.models import Factor, StandingOrder
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.WANT)
def demand(request: HttpRequest) -> HttpResponse:
    """Seasons, holidays, ads, and what restaurants have every week."""
    told = Told()
    which = request.POST.get("form", "")
    factor = FactorForm(request.POST if which == "factor" else None)
    standing = StandingForm(request.POST if which == "standing" else None)
    if request.method == "POST":
        with told:
            if _kept(request, factor, standing):
                return redirect("demand:demand")
    today = timezone.localdate()
    is_wrong = factor.errors or standing.errors
    context = {
        "factor": factor,
        "standing": standing,
        "factors": Factor.objects.filter(last__gte=today, taken_off_at=None).select_related(
            "product"
        ),
        "orders": StandingOrder.objects.filter(until=None).select_related("product"),
        "refused": told.refused,
    }
    wrong = max(status_of(factor), status_of(standing))
    status = wrong if is_wrong and not told.refused else told.status()
    return render(request, "demand/demand.html", context, status=status)


def _kept(request: HttpRequest, factor: FactorForm, standing: StandingForm) -> bool:
    if factor.is_bound and factor.is_valid():
        set_factor(factor.asked(), by_id(request))
        return True
    if standing.is_bound and standing.is_valid():
        with told_in(standing):
            set_standing(standing.asked(), by_id(request), standing.cleaned_data["seen"] or 0)
            return True
        standing.show_again()
    return False


@may(Right.WANT)
@require_POST
def factor_off(request: HttpRequest, pk: int) -> HttpResponse:
    """A season, holiday or ad holds no more."""
    take_factor_off(pk)
    return redirect("demand:demand")


@may(Right.WANT)
@require_POST
def standing_off(request: HttpRequest, pk: int) -> HttpResponse:
    """A restaurant has it no more."""
    stop_standing(pk)
    return redirect("demand:demand")
