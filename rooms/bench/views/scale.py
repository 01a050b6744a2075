"""The scales: the daily check, and tubs of known weight."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from rooms.bench.actions.scales import MOST_LINES, check_scale, drop_tare, save_tare
from rooms.bench.forms import TareForm
from rooms.bench.models import ScaleCheck, Tare
from rooms.bench.queries.reading import Proof, read_proof
from rooms.bench.queries.scale_checks import of_day
from rooms.bench.queries.scales import ScaleAt, scale_named, scale_of
from rooms.bench.queries.unplaced import all_waiting
from rooms.common.db.keys import own_key
from rooms.common.errors import Refused
from rooms.common.web.refusals import Told, status_of, told_in
from rooms.staff.block import by_id
from rooms.staff.models import Person
from rooms.staff.rights import Right, may

LAST_CHECKS = 14
USUAL_LOADS = ("0", "5", "10", "20")


@may(Right.WEIGH)
@require_http_methods(["GET", "POST"])
def scale_page(request: HttpRequest) -> HttpResponse:
    """The check of one scale with test weights; those of the last days; known tubs."""
    scale = _scale(request)
    refused = None
    if request.method == "POST":
        with Told() as told:
            key = own_key(request.POST.get("key", ""))
            check_scale(key, scale.name, _lines(request), by_id(request))
            return redirect(f"{request.path}?scale={scale.name}")
        refused = told.refused
    return _page(request, scale, refused)


def _scale(request: HttpRequest) -> ScaleAt:
    asked = request.POST.get("scale") or request.GET.get("scale", "")
    return scale_named(asked) or scale_of(request)


def _page(
    request: HttpRequest,
    scale: ScaleAt,
    refused: Refused | None = None,
    tare_form: TareForm | None = None,
) -> HttpResponse:
    loads = request.POST.getlist("load") or USUAL_LOADS
    typed = request.POST.getlist("shown") + [""] * len(loads)
    proofs = request.POST.getlist("proof") + [""] * len(loads)
    context = {
        "scale": scale,
        "refused": refused,
        "lines": list(zip(loads, typed, proofs, strict=False)),
        "today": of_day(timezone.localdate()),
        "tare": tare_form or TareForm(),
        "tares": Tare.objects.filter(is_dropped=False),
        "checks": ScaleCheck.objects.select_related("by")[:LAST_CHECKS],
    }
    status = refused.status if refused else 200
    if tare_form is not None:
        status = status_of(tare_form)
    return render(request, "bench/scale.html", context, status=status)


@may(Right.WEIGH)
@require_POST
def tare(request: HttpRequest) -> HttpResponse:
    """Keep a known tub, or take one out of use."""
    by = Person.objects.filter(pk=by_id(request)).first()
    if request.POST.get("drop"):
        drop_tare(request.POST["drop"], by)
        return redirect("bench:scale")
    form = TareForm(request.POST)
    if form.is_valid():
        with told_in(form):
            save_tare(**form.cleaned_data, by=by)
            return redirect("bench:scale")
    return _page(request, _scale(request), tare_form=form)


@may(Right.LOOK)
@require_GET
def standing(request: HttpRequest) -> HttpResponse:
    """The line of Today: what waits to be placed, each scale that wants a check."""
    context = {"scales": of_day(timezone.localdate()), "unplaced": all_waiting()}
    return render(request, "bench/_scales.html", context)


def _lines(request: HttpRequest) -> list[tuple[str, str, Proof | None]]:
    """Each line: the test weight, what was shown, and the signed reading as the page kept it."""
    posted = request.POST
    lines = zip(
        posted.getlist("load"), posted.getlist("shown"), posted.getlist("proof"), strict=False
    )
    return [(load, shown, read_proof(text) if text else None) for load, shown, text in lines][
        :MOST_LINES
    ]
