"""What the shop buys, animal by animal."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from rooms.catalog.actions.bought import set_bought
from rooms.catalog.models import Piece, Species
from rooms.shop.queries.current import house
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.CATALOG)
@require_http_methods(["GET", "POST"])
def bought(request: HttpRequest) -> HttpResponse:
    """Every piece, to be ticked by who may change the catalog."""
    if request.method == "POST":
        set_bought(request.POST.getlist("piece"), request.POST.getlist("shown"), by_id(request))
        return redirect(reverse("catalog:bought") if house().is_set_up else "/")
    pieces = list(Piece.objects.select_related("primal"))
    animals = [
        (name, [piece for piece in pieces if piece.species == key]) for key, name in Species.choices
    ]
    context = {"animals": animals, "many": sum(piece.is_bought for piece in pieces)}
    return render(request, "catalog/bought.html", context)
