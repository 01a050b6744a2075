"""The ad planner and what to buy: numbers in the address, so that a page can be kept."""

from django.shortcuts import render
from django.views.decorators.http import require_GET

from rooms.counter.readings.ads import ad_view
from rooms.counter.readings.buying import buy_view
from rooms.staff.rights import Right, may


@may(Right.LOOK)
@require_GET
def ad(request):
    """What an ad brings, gives away, and what wins it back."""
    view = ad_view(request.GET)
    return render(request, "counter/ad.html", {"view": view}, status=422 if view.faults else 200)


@may(Right.LOOK)
@require_GET
def buy(request):
    """The same muscle from several stages or hands: cost of a ready pound."""
    view = buy_view(request.GET)
    return render(request, "counter/buy.html", {"view": view}, status=422 if view.faults else 200)
