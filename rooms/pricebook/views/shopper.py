"""What a shopper is told, on screen and on paper."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils import timezone
from django.views.decorators.http import require_GET

from cutting.errors import BadValue
from rooms.catalog.models import Species
from rooms.common.errors import BadInput
from rooms.common.web.refusals import Told
from rooms.pricebook.models import Product
from rooms.pricebook.queries.book import prices_on
from rooms.pricebook.queries.shopper import card_of, cards, find_dinner
from rooms.staff.rights import Right, may

USUAL_PEOPLE = 4


@may(Right.LOOK)
@require_GET
def all_cards(request: HttpRequest) -> HttpResponse:
    """The cards of what the shop sells; printed, six on a page."""
    animal = request.GET.get("animal", "")
    context = {
        "cards": cards(animal, timezone.localdate()),
        "animal": animal,
        "animals": Species.choices,
    }
    return render(request, "pricebook/cards.html", context)


@may(Right.LOOK)
@require_GET
def one_card(request: HttpRequest, pk: int) -> HttpResponse:
    """One product's card, large."""
    product = get_object_or_404(Product.objects.select_related("cut__muscle"), pk=pk)
    price = prices_on(timezone.localdate(), [product.pk]).get(product.pk)
    return render(request, "pricebook/card.html", {"card": card_of(product, price)})


@may(Right.LOOK)
@require_GET
def dinner(request: HttpRequest) -> HttpResponse:
    """A cut for a dinner: by way of cooking, animal and people."""
    animal, method = request.GET.get("animal", ""), request.GET.get("by", "")
    typed = request.GET.get("people", str(USUAL_PEOPLE)).strip()
    told, found, today = Told(), None, timezone.localdate()
    with told:
        try:
            people = int(typed) if typed.isascii() and typed.isdecimal() else 0
            found = find_dinner(animal, method, people or (0 if typed else USUAL_PEOPLE), today)
        except BadValue:
            raise BadInput(f"People: “{typed[:20]}”; a number from 1 to 500 is right.") from None
    context = {
        "dinner": found or find_dinner(animal, "", USUAL_PEOPLE, today),
        "typed": typed,
        "by": method,
        "animal": animal,
        "animals": [("", "all"), *Species.choices],
        "refused": told.refused,
    }
    return render(request, "pricebook/dinner.html", context, status=told.status())
