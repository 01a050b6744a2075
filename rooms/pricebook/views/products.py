"""Products: the list, one product with all it is priced by, and what products share."""

from dataclasses import dataclass
from typing import Any

from django import forms
from django.db import models
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from cutting.errors import BadValue
from cutting.prices.margins import MOST_PRICE, retail_price
from rooms.common.web.forms import PlainDecimal
from rooms.common.web.paging import page_of
from rooms.common.web.refusals import status_of, told_in
from rooms.pricebook.actions.prices import Origin, carried, newest_price, set_prices
from rooms.pricebook.actions.products import note_neighbour, save_product, save_row
from rooms.pricebook.filters import ProductFilter
from rooms.pricebook.forms import (
    DATE,
    AdderForm,
    BookForm,
    EndingForm,
    FamilyForm,
    NeighbourForm,
    NewProductForm,
    ProductForm,
    TrayForm,
)
from rooms.pricebook.models import Adder, Ending, Family, Product, TraySize
from rooms.pricebook.queries.book import prices_on, story_of
from rooms.shop.queries.current import house
from rooms.shop.queries.endings import words_of
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may

A_PAGE = 50


class PriceForm(forms.Form):
    """A price decided by hand. `seen`: the newest price of the book that the page knew."""

    data: Any

    optional_word = "may be empty"

    seen = forms.IntegerField(widget=forms.HiddenInput, required=False, min_value=0)

    amount = PlainDecimal(label="New price", above=0, most=MOST_PRICE)
    effective_on = forms.DateField(
        label="Hold from", required=False, widget=forms.DateInput(attrs=DATE)
    )
    why = forms.CharField(label="Why", max_length=200, required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["seen"].initial = newest_price

    def show_again(self) -> None:
        """Saving once more is meant: what somebody else set was told."""
        self.data = self.data.copy()
        self.data["seen"] = str(newest_price())

    def clean_amount(self) -> Any:
        try:
            return retail_price(self.cleaned_data["amount"])
        except BadValue as bad:
            raise forms.ValidationError(f"{bad.wrong}; {bad.right}.") from bad


@may(Right.LOOK)
@require_GET
def products(request: HttpRequest) -> HttpResponse:
    """What the shop sells, to choose among and to sort."""
    rows = Product.objects.select_related("cut__muscle", "family", "ending", "tray")
    chosen = ProductFilter(request.GET, rows)
    found = chosen.qs if chosen.is_valid() else rows.none()
    page = page_of(request, found, A_PAGE)
    prices = prices_on(timezone.localdate(), [product.pk for product in page])
    kept = request.GET.copy()
    kept.pop("page", None)
    context = {
        "filter": chosen,
        "page": page,
        "kept": kept.urlencode(),
        "lines": [(product, prices.get(product.pk)) for product in page],
    }
    status = 200 if chosen.is_valid() else 422
    return render(request, "pricebook/products.html", context, status=status)


@may(Right.PRICE, read=Right.PRICE)
@require_http_methods(["GET", "POST"])
def new_product(request: HttpRequest) -> HttpResponse:
    form = NewProductForm(
        request.POST or None,
        initial={"is_sold": True, "per": house().unit, "tray_unit": house().unit},
    )
    if request.method == "POST" and form.is_valid():
        product = save_product(Product(), form.typed, by_id(request))
        return redirect("pricebook:product", product.pk)
    context = {"form": form, "product": None}
    return render(request, "pricebook/product.html", context, status=422 if form.errors else 200)


@may(Right.PRICE)
@require_http_methods(["GET", "POST"])
def product(request: HttpRequest, pk: Any) -> HttpResponse:
    """One product: how it is priced, its story, its prices through time, the neighbours."""
    row = _product(pk)
    initial = ProductForm.filled(row)
    if request.GET.get("shrink"):  # what its trays lost, offered there
        initial["shrink"] = request.GET["shrink"][:8]
    form = ProductForm(request.POST or None, initial=initial, has_prices=row.prices.exists())
    if request.method == "POST" and form.is_valid():
        with told_in(form):
            save_product(row, form.typed, by_id(request), form.cleaned_data["seen"])
            return redirect("pricebook:product", pk)
    return _page(request, row, form=form)


@may(Right.PRICE)
@require_POST
def price_by_hand(request: HttpRequest, pk: Any) -> HttpResponse:
    """A new price for one product, as somebody decided it."""
    row, form = _product(pk), PriceForm(request.POST)
    if form.is_valid():
        data = form.cleaned_data
        with told_in(form, "effective_on"):
            day = data["effective_on"] or timezone.localdate()
            old = prices_on(day, [row.pk]).get(row.pk)
            origin = Origin(
                by_id(request), why=data["why"], effective_on=day, seen=data["seen"] or 0
            )
            set_prices([carried(old, row, data["amount"])], origin)
            return redirect("pricebook:product", pk)
        form.show_again()
    return _page(request, row, price_form=form)


@may(Right.PRICE)
@require_POST
def neighbour(request: HttpRequest, pk: Any) -> HttpResponse:
    """What another shop asks for it."""
    row, form = _product(pk), NeighbourForm(request.POST)
    if form.is_valid():
        with told_in(form, "seen_on"):
            note_neighbour(row, form.cleaned_data, by_id(request))
            return redirect("pricebook:product", pk)
    return _page(request, row, neighbour_form=form)


def _product(pk: Any) -> Product:
    return get_object_or_404(
        Product.objects.select_related("cut__muscle", "family__ending", "ending", "tray"), pk=pk
    )


def _page(request: HttpRequest, row: Product, **forms_sent: Any) -> HttpResponse:
    today = timezone.localdate()
    sent = next(iter(forms_sent.values()), None)
    context = {
        "product": row,
        "story": story_of(row, today),
        "today": today,
        "neighbours": row.neighbours.select_related("by")[:12],
        "form": ProductForm(initial=ProductForm.filled(row)),
        "price_form": PriceForm(),
        "neighbour_form": NeighbourForm(initial={"per": row.per, "seen_on": today}),
    } | forms_sent
    status = status_of(sent) if sent is not None else 200
    return render(request, "pricebook/product.html", context, status=status)


@dataclass(frozen=True)
class Kind:
    """A kind of thing that products share, with its form."""

    title: str
    model: type[models.Model]
    form: type[BookForm]
    columns: tuple[str, ...]

    def cells(self, row: Any) -> list[Any]:
        return [
            words_of(row.bands) if name == "bands" else getattr(row, name) for name in self.columns
        ]


KINDS = {
    "families": Kind("Price families", Family, FamilyForm, ("name", "comfort", "ending")),
    "endings": Kind("Ending rules", Ending, EndingForm, ("name", "bands", "direction")),
    "trays": Kind("Trays", TraySize, TrayForm, ("code", "inside", "fits", "tray_cost")),
    "adders": Kind(
        "Value added", Adder, AdderForm, ("name", "price", "minutes", "material", "pick_up")
    ),
}


@may(Right.LOOK)
@require_GET
def shared(request: HttpRequest) -> HttpResponse:
    """Families, endings, trays and steps on one page."""
    groups = [
        (
            key,
            kind.title,
            [
                form_field.label
                for name, form_field in kind.form.base_fields.items()
                if name in kind.columns
            ],
            [(row, kind.cells(row)) for row in kind.model.objects.all()],
        )
        for key, kind in KINDS.items()
    ]
    return render(request, "pricebook/shared.html", {"groups": groups})


@may(Right.PRICE, read=Right.PRICE)
@require_http_methods(["GET", "POST"])
def shared_row(request: HttpRequest, kind: str, pk: Any) -> HttpResponse:
    """One of them to change; 0 for a new one."""
    if kind not in KINDS:
        raise Http404
    of = KINDS[kind]
    row = get_object_or_404(of.model, pk=pk) if pk else of.model()
    form = of.form(request.POST or None, initial=of.form.filled(row) if pk else {})
    if request.method == "POST" and form.is_valid():
        with told_in(form):
            save_row(row, form.typed, by_id(request), form.cleaned_data["seen"])
            return redirect("pricebook:shared")
    context = {"form": form, "title": of.title, "row": row if pk else None}
    return render(request, "pricebook/shared_row.html", context, status=status_of(form))
