"""How a shop gets its products: from the catalog's cuts, or from its own list."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from cutting.errors import BadValue
from rooms.catalog.models import Cut, Species
from rooms.common.errors import BadInput
from rooms.common.tables.files import LARGEST_FILE
from rooms.common.web.formsets import by_number
from rooms.common.web.refusals import Told
from rooms.pricebook.actions.first_list import NewProduct, take_products
from rooms.pricebook.forms import CutRow
from rooms.pricebook.models import Version
from rooms.pricebook.queries import own_list
from rooms.pricebook.queries.first_list import FirstList, first_list
from rooms.shop.queries.current import house
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.PRICE, read=Right.PRICE)
@require_http_methods(["GET", "POST"])
def from_catalog(request: HttpRequest) -> HttpResponse:
    """The cuts that the shop's pieces give: tick, name, price; one animal at a time."""
    table = first_list(request.POST.get("animal") or request.GET.get("animal", ""))
    data = request.POST if request.method == "POST" else None
    rows = {cut.pk: CutRow(data, prefix=str(cut.pk), cut=cut) for cut in table.new}
    told, faults = Told(), []
    if data is not None:
        faults = [
            fault
            for row in rows.values()
            if not row.is_valid()
            for fault in row.faults(str(row.cut))
        ]
        with told:
            if not faults:
                wanted = [one for row in rows.values() if (one := row.wanted) is not None]
                if not wanted:
                    raise BadInput("Products: none is ticked; touch one, or type its price.")
                taken = take_products(wanted, by_id(request))
                return _after(request, table, len(taken.products))
    return _table(request, table, rows, faults, told)


def _after(request: HttpRequest, table: FirstList, many: int) -> HttpResponse:
    """The same animal again, which says how many were taken, or the next one that has cuts."""
    animals = list(Species.values)
    later = animals[animals.index(table.species) + 1 :]
    following = next((one for one in later if not table.is_of_all and first_list(one).new), None)
    if following:
        return redirect(f"{reverse('pricebook:from_catalog')}?animal={following}&taken={many}")
    return redirect("pricebook:products" if house().is_set_up else "today:today")


def _table(
    request: HttpRequest, table: FirstList, rows: Any, faults: list[str], told: Told
) -> HttpResponse:
    context = {
        "table": table,
        "groups": [
            (one.piece, [(line, rows.get(line.cut.pk)) for line in one.lines])
            for one in table.pieces
        ],
        "animals": Species.choices,
        "faults": faults,
        "refused": told.refused,
        "taken": request.GET.get("taken", ""),
    }
    status = told.status(is_wrong=bool(faults))
    return render(request, "pricebook/from_catalog.html", context, status=status)


@may(Right.PRICE, read=Right.PRICE)
@require_http_methods(["GET", "POST"])
def from_list(request: HttpRequest) -> HttpResponse:
    """The shop's own list: pasted or as a file, then matched, doubts asked, then taken."""
    if request.method == "GET":
        return render(request, "pricebook/from_list.html")
    told, found = Told(), []
    with told:
        found = own_list.matched(own_list.lines_of(_sent(request)))
        if request.POST.get("asked"):
            rows = _chosen(found, by_number(request.POST, "cut"))
            taken = take_products(rows, by_id(request), kind=Version.Kind.FILE)
            return render(request, "pricebook/from_list.html", {"taken": taken})
    answers = by_number(request.POST, "cut")
    context = {
        "rows": [(one, answers.get(one.number, one.usual)) for one in found],
        "open": sum(one.state != own_list.SURE for one in found),
        "text": own_list.as_text(one.line for one in found),
        "typed": request.POST.get("text", ""),
        "cuts": Cut.objects.all() if any(one.state == own_list.UNKNOWN for one in found) else [],
        "refused": told.refused,
    }
    return render(request, "pricebook/from_list.html", context, status=told.status())


def _sent(request: HttpRequest) -> bytes:
    file = request.FILES.get("file")
    return file.read(LARGEST_FILE + 1) if file else request.POST.get("text", "").encode()


def _chosen(found: list[own_list.Matched], answers: dict[int, str]) -> list[NewProduct]:
    rows = []
    for one, cut in own_list.answered(found, answers):
        try:
            price = own_list.price_of(one.line)
            per = own_list.unit_of(one.line, house().unit)
        except BadValue as bad:
            raise BadInput(f"{one.line.where}, {bad.field}: {bad.wrong}; {bad.right}.") from bad
        is_alone = "+" not in answers.get(one.number, "")
        name = one.line.name[:100] if is_alone else ""
        rows.append(NewProduct(cut, name, price, per=per))
    if not rows:
        raise BadInput("List: every line is left out; nothing was taken.")
    return rows
