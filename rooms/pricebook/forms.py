"""Forms of the price book."""

from decimal import Decimal
from typing import Any

from django import forms

from cutting.errors import BadValue
from cutting.grinding.seasoning import ALLERGENS
from cutting.prices.margins import MOST_PRICE, retail_price
from rooms.catalog.models import UNITS, Counter, Cut
from rooms.common.web.forms import Percent, PlainDecimal, SeenForm
from rooms.common.web.formsets import NumberedForm
from rooms.pricebook.actions.first_list import NewProduct
from rooms.pricebook.models import DIRECTIONS, Adder, Ending, Family, Makes, TraySize
from rooms.shop.forms import EndingsField

DATE = {"type": "date"}
SALES_UNITS = [("lb", "lb"), ("kg", "kg")]


class BookForm(SeenForm):
    """A form whose optional fields may stay empty; `zero` fields then count as 0."""

    optional_word = "may be empty"
    zero: tuple[str, ...] = ()

    def clean(self) -> Any:
        data = super().clean()
        for name in self.zero:
            if data.get(name) is None and name not in self.errors:
                data[name] = Decimal(0)
        return data


class ProductForm(BookForm):
    zero = ("shrink", "tax")

    name = forms.CharField(label="House name", max_length=100)
    is_sold = forms.BooleanField(label="On sale", required=False)
    per = forms.ChoiceField(label="Priced by the", choices=SALES_UNITS)
    shows_both = forms.BooleanField(label="The tag shows lb and kg", required=False)
    counter = forms.ChoiceField(label="Where it is sold", choices=Counter.choices)
    family = forms.ModelChoiceField(
        Family.objects.all(), label="Price family", required=False, empty_label="none"
    )
    ending = forms.ModelChoiceField(
        Ending.objects.all(),
        label="Own ending rule",
        required=False,
        empty_label="none",
        help_text="Else its family's, else the shop's.",
    )
    target_margin = Percent(label="Target margin, % of sales", least=0, most=95, required=False)
    floor_margin = Percent(label="Floor margin, % of sales", least=0, most=95, required=False)
    tax = Percent(label="Sales tax inside the price, %", least=0, most=50, required=False)
    shrink = Percent(
        label="Shrink, % of packed value",
        least=0,
        most=50,
        required=False,
        help_text="Lost to markdowns and throw-outs.",
    )
    tray = forms.ModelChoiceField(
        TraySize.objects.filter(is_dropped=False),
        label="Tray",
        required=False,
        empty_label="none",
    )
    tray_weight = PlainDecimal(label="A usual tray weighs", above=0, most=1000, required=False)
    tray_unit = forms.ChoiceField(label="Unit", choices=UNITS)
    portions = forms.IntegerField(
        label="Portions in it", min_value=1, max_value=100, required=False
    )
    minutes = PlainDecimal(label="Minutes of labour a unit", least=0, most=600, required=False)
    carries_labour = forms.BooleanField(label="Its price carries the labour", required=False)
    carries_packaging = forms.BooleanField(label="Its price carries the tray", required=False)
    transfer = PlainDecimal(label="Value as a by-product", least=0, most=10000, required=False)
    ready_cut = PlainDecimal(label="Bought ready-cut it costs", above=0, most=10000, required=False)
    adders = forms.ModelMultipleChoiceField(
        Adder.objects.filter(is_dropped=False),
        label="Value added as a rule",
        required=False,
        widget=forms.CheckboxSelectMultiple,
    )
    story = forms.CharField(
        label="Sign text, two lines",
        max_length=200,
        required=False,
        widget=forms.Textarea(attrs={"rows": 2}),
    )

    def __init__(self, *args: Any, has_prices: bool = False, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.has_prices = has_prices

    def clean_per(self) -> Any:
        """Prices are read in the product's unit, so it stays once there are any."""
        per, was = self.cleaned_data["per"], self.initial.get("per")
        if self.has_prices and per != was:
            raise forms.ValidationError(
                f"Its prices are by the {was} and would be read by the {per}; {was} is right. "
                "Tick that the tag shows both."
            )
        return per

    def clean(self) -> Any:
        data = super().clean()
        target, floor = data.get("target_margin"), data.get("floor_margin")
        if target is not None and floor is not None and floor > target:
            self.add_error("floor_margin", "The floor is above the target; at most the target.")
        return data


class NewProductForm(ProductForm):
    cut = forms.ModelChoiceField(Cut.objects.filter(product=None), label="Cut")
    field_order = ("cut",)


class NeighbourForm(forms.Form):
    place = forms.CharField(label="Where", max_length=60)
    amount = PlainDecimal(label="It asks", above=0, most=10000)
    per = forms.ChoiceField(label="a", choices=SALES_UNITS)
    seen_on = forms.DateField(label="Seen on", widget=forms.DateInput(attrs=DATE))


class FamilyForm(BookForm):
    name = forms.CharField(label="Name", max_length=60)
    comfort = PlainDecimal(label="Comfort limit of a sticker", above=0, most=10000, required=False)
    ending = forms.ModelChoiceField(
        Ending.objects.all(), label="Ending rule", required=False, empty_label="the shop's"
    )


class EndingForm(BookForm):
    name = forms.CharField(label="Name", max_length=60)
    bands = EndingsField(label="Endings")
    direction = forms.ChoiceField(label="Round", choices=DIRECTIONS)


class TrayForm(BookForm):
    zero = ("tray_cost", "pad_cost", "film_cost", "label_cost")

    code = forms.CharField(label="Number", max_length=20)
    inside = forms.CharField(label="Inner size", max_length=40, required=False)
    fits = forms.IntegerField(label="Portions that fit", min_value=1, max_value=100)
    tray_cost = PlainDecimal(label="Tray costs", least=0, most=100, required=False)
    pad_cost = PlainDecimal(label="Pad", least=0, most=100, required=False)
    film_cost = PlainDecimal(label="Film", least=0, most=100, required=False)
    label_cost = PlainDecimal(label="Label", least=0, most=100, required=False)


class AdderForm(BookForm):
    zero = ("price", "minutes", "material", "pick_up")

    name = forms.CharField(label="Name", max_length=60)
    price = PlainDecimal(label="Adds to the price", least=0, most=1000, required=False)
    minutes = PlainDecimal(label="Minutes a unit", least=0, most=600, required=False)
    material = PlainDecimal(label="Material a unit", least=0, most=1000, required=False)
    pick_up = Percent(label="Pick-up, % of its weight", least=0, most=100, required=False)
    makes = forms.ChoiceField(
        label="After it the meat is",
        choices=[("", "as before"), *Makes.choices],
        required=False,
        help_text="Label, card and trace tell it.",
    )
    ingredients = forms.CharField(
        label="Ingredients it adds, the most first", max_length=400, required=False
    )
    allergens = forms.MultipleChoiceField(
        label="Contains",
        choices=[(one, one) for one in ALLERGENS],
        widget=forms.CheckboxSelectMultiple,
        required=False,
    )
    caution = forms.CharField(label="Caution", max_length=200, required=False)

    def clean(self) -> Any:
        data = super().clean()
        if data.get("makes") == Makes.SEASONED and not data.get("ingredients", "").strip():
            self.add_error(
                "ingredients", "It is empty; what a seasoning holds is right, the most first."
            )
        return data


class CutRow(NumberedForm):
    """One cut of the table: ticked, or with a price or a worth."""

    optional_word = "none"

    take = forms.BooleanField(label="Sold", required=False)
    name = forms.CharField(label="House name", max_length=100, required=False)
    price = PlainDecimal(label="Price", above=0, most=MOST_PRICE, required=False)
    tray = PlainDecimal(label="A usual tray weighs", above=0, most=1000, required=False)
    worth = PlainDecimal(label="Value as a by-product", least=0, most=MOST_PRICE, required=False)

    def __init__(self, *args: Any, cut: Cut, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.cut = cut
        name = cut.shown_name
        self.fields["name"].widget.attrs["placeholder"] = name
        self.label_cells(
            take=f"{name} is sold",
            name=f"House name of {name}",
            price=f"Price of {name}",
            tray=f"A tray of {name} weighs",
            worth=f"{name} as a by-product is worth",
        )

    def clean_price(self) -> Any:
        price = self.cleaned_data["price"]
        if price is None:
            return None
        try:
            return retail_price(price)
        except BadValue as bad:
            raise forms.ValidationError(f"{bad.wrong}; {bad.right}.") from bad

    @property
    def wanted(self) -> NewProduct | None:
        """The product as typed; None for a row nobody touched. Only after is_valid()."""
        data = self.cleaned_data
        if not data["take"] and data["price"] is None and data["worth"] is None:
            return None
        return NewProduct(self.cut, data["name"], data["price"], data["worth"], data["tray"])
