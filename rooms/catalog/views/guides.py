"""Pages of the catalog: the animals, finding, guides, cuts, muscles."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from rooms.catalog.models import Cut, Muscle, Piece, PlanOutput, Species
from rooms.catalog.queries.animals import animal_map, same_maps
from rooms.catalog.queries.finding import also_called, find, pieces_that_say
from rooms.catalog.queries.guide import Chosen, Guide, guide, muscles_of
from rooms.staff.rights import Right, may


@may(Right.LOOK)
@require_GET
def animals(request: HttpRequest) -> HttpResponse:
    """The side of one animal with its primals, and the pieces of the chosen one."""
    view = animal_map(request.GET.get("animal", ""), request.GET.get("primal", ""))
    return render(request, "catalog/animals.html", {"view": view, "species": Species.choices})


@may(Right.LOOK)
@require_GET
def same_map(request: HttpRequest) -> HttpResponse:
    """Leg and shoulder across, on all three animals."""
    context = {"maps": same_maps(), "species": Species.choices}
    return render(request, "catalog/same_map.html", context)


@may(Right.LOOK)
@require_GET
def finding(request: HttpRequest) -> HttpResponse:
    """The search as a page, for tablets without scripts."""
    typed = request.GET.get("q", "")
    return render(request, "catalog/find.html", {"found": find(typed), "typed": typed})


@may(Right.LOOK)
@require_GET
def found_list(request: HttpRequest) -> HttpResponse:
    """The search as one types: only the list."""
    typed = request.GET.get("q", "")
    return render(request, "catalog/_found.html", {"found": find(typed), "typed": typed})


@may(Right.LOOK)
@require_GET
def cuts(request: HttpRequest) -> HttpResponse:
    """Every cut with its muscle and names."""
    rows = Cut.objects.select_related("muscle")
    return render(request, "catalog/cuts.html", {"cuts": rows})


@may(Right.LOOK)
@require_GET
def cut(request: HttpRequest, key: str) -> HttpResponse:
    """One cut: names, muscle, cooking, and the plans it comes from."""
    row = get_object_or_404(Cut.everything.select_related("muscle"), key=key)
    comes_from = PlanOutput.objects.filter(
        cut=row, plan__is_dropped=False, plan__piece__is_dropped=False
    ).select_related("plan__piece")
    same = Cut.objects.filter(muscle=row.muscle_id).exclude(pk=row.pk)
    context = {
        "cut": row,
        "comes_from": comes_from,
        "same": same if row.muscle_id else [],
        "also": also_called(row),
    }
    return render(request, "catalog/cut.html", context)


@may(Right.LOOK)
@require_GET
def muscle(request: HttpRequest, key: str) -> HttpResponse:
    """One muscle: what is cut from it, on which pieces it is found."""
    row = get_object_or_404(Muscle, key=key)
    if row.kind == Muscle.Kind.PART:
        pieces = pieces_that_say([row.name, *row.synonyms])
    else:
        gives = PlanOutput.objects.filter(cut__muscle=row).values("plan__piece")
        pieces = list(Piece.objects.filter(pk__in=gives))
    return render(request, "catalog/muscle.html", {"muscle": row, "pieces": pieces})


@may(Right.LOOK)
@require_GET
def guide_page(request: HttpRequest, key: str) -> HttpResponse:
    """The guide of a piece, with one step lit or the whole piece."""
    view = _guide(request, key)
    context = {"guide": view, "muscles": muscles_of(view)}
    return render(request, "catalog/guide.html", context)


@may(Right.LOOK)
@require_GET
def guide_steps(request: HttpRequest, key: str) -> HttpResponse:
    """The drawing and the steps alone, as a step is turned."""
    return render(request, "catalog/_guide.html", {"guide": _guide(request, key)})


@may(Right.LOOK)
@require_GET
def handout(request: HttpRequest, key: str) -> HttpResponse:
    """The guide for the printer, on two pages."""
    view = _guide(request, key)
    return render(request, "catalog/handout.html", {"guide": view, "muscles": muscles_of(view)})


def _guide(request: HttpRequest, key: str) -> Guide:
    piece = get_object_or_404(Piece.objects.select_related("primal"), key=key)
    chosen = Chosen(request.GET.get("plan", ""), request.GET.get("step", ""))
    return guide(piece, chosen)
