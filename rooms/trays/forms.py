"""What is typed at the trays."""

import uuid
from typing import Any

from django import forms

from cutting.errors import BadValue
from cutting.labels.codes import StoreCode, gtin_14
from cutting.quantities import Unit
from drawings.label import Stock
from rooms.common.web.forms import ListForm, Percent, PlainDecimal, SeenForm
from rooms.pricebook.models import Product, TraySize
from rooms.shop.queries.current import house
from rooms.trays.models import ProductLabel

UNITS = [(u.value, u.value) for u in (Unit.LB, Unit.OZ, Unit.KG, Unit.G)]
STOCKS = {
    Stock.SMALL: "small, 60 × 50 mm",
    Stock.MIDDLE: "middle, 80 × 72 mm",
    Stock.LARGE: "large, 100 × 130 mm, with the safe handling text",
}
STORE_CODES = {
    "": "none",
    StoreCode.PRICE_13: "13 digits with the price",
    StoreCode.PRICE_12: "12 digits with the price",
    StoreCode.WEIGHT_13: "13 digits with the weight",
}
MOST_DAYS = 60


class PackForm(forms.Form):
    """A tray on the scale; its weight from the scale, or typed."""

    use_required_attribute = False
    optional_word = "may be empty"

    key = forms.UUIDField(widget=forms.HiddenInput)
    product = forms.IntegerField(widget=forms.HiddenInput, max_value=2**53)
    source = forms.CharField(widget=forms.HiddenInput, required=False, max_length=80)
    proof = forms.CharField(widget=forms.HiddenInput, required=False, max_length=2000)
    size = forms.ModelChoiceField(TraySize.objects.filter(is_dropped=False), label="Tray")
    pieces = forms.IntegerField(label="Pieces", min_value=1, max_value=500, required=False)
    weight = PlainDecimal(
        label="Gross weight, typed", above=0, most=500, required=False, example="1.28"
    )
    unit = forms.ChoiceField(label="Unit", choices=UNITS, required=False)
    total = PlainDecimal(label="Fixed total", above=0, most=1000, required=False, example="6.50")
    reason = forms.CharField(label="Reason for no lot", max_length=200, required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        kwargs["initial"] = {"key": uuid.uuid4(), **kwargs.get("initial", {})}
        super().__init__(*args, **kwargs)
        self.fields["reason"].optional_word = "none"
        self.fields["total"].label = f"Fixed total, {house().currency}"


class CaseForm(forms.Form):
    """A case of a product."""

    use_required_attribute = False
    optional_word = "may be empty"

    key = forms.UUIDField(widget=forms.HiddenInput)
    product = forms.IntegerField(widget=forms.HiddenInput, max_value=2**53)
    weight = PlainDecimal(label="Net weight of the case", above=0, most=5000, example="24.60")
    unit = forms.ChoiceField(label="Unit", choices=[("lb", "lb"), ("kg", "kg")])
    lot = forms.CharField(label="Lot", max_length=20, required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        kwargs["initial"] = {"key": uuid.uuid4(), **kwargs.get("initial", {})}
        super().__init__(*args, **kwargs)


class TareForm(forms.Form):
    """An empty tray set on the scale."""

    use_required_attribute = False
    optional_word = "none"

    size = forms.ModelChoiceField(TraySize.objects.filter(is_dropped=False), label="Tray")
    weight = PlainDecimal(label="Empty, with pad and film", above=0, most=1000, example="0.04")
    unit = forms.ChoiceField(label="Unit", choices=UNITS)


class RulesForm(SeenForm):
    """How the shop labels."""

    use_required_attribute = False
    optional_word = "may be empty"

    place = forms.CharField(
        label="The shop's place, as on the label", max_length=100, required=False
    )
    link = forms.CharField(label="Public address behind the QR", max_length=100, required=False)
    store_code = forms.ChoiceField(
        label="Bar code for the register", choices=list(STORE_CODES.items()), required=False
    )
    stock = forms.ChoiceField(
        label="Label stock", choices=[(k.value, v) for k, v in STOCKS.items()]
    )
    keeps_days = forms.IntegerField(
        label="Days that a tray is sold", min_value=0, max_value=MOST_DAYS
    )
    keeps_ground_days = forms.IntegerField(
        label="Days that ground meat is sold", min_value=0, max_value=MOST_DAYS
    )

    tells_origin = forms.BooleanField(
        label="Country of origin rule applies (7 CFR 65.240)", required=False
    )
    markdown_days = forms.IntegerField(
        label="Days before the last that a tray is marked down", min_value=0, max_value=MOST_DAYS
    )
    markdown_off = Percent(label="Off its price then, %", above=0, most=95, example="30")

    def clean_link(self) -> str:
        text = str(self.cleaned_data["link"]).strip().rstrip("/")
        wrong = set(text) & set(' ?#"<>\\')
        if text and (not text.startswith("https://") or not text.isascii() or wrong):
            raise forms.ValidationError(
                f"“{text[:40]}” is no address; one like https://shop.example is right."
            )
        return text


class ProductForm(ListForm):
    """The numbers of one product."""

    of_list = ProductLabel

    use_required_attribute = False
    optional_word = "may be empty"

    product = forms.ModelChoiceField(Product.objects.filter(is_sold=True), label="Product")
    item = forms.RegexField(
        r"^[0-9]{5}$",
        label="Item number, five digits",
        required=False,
        error_messages={"invalid": "Five digits are right."},
    )
    gtin = forms.CharField(label="GTIN", max_length=14, required=False)
    keeps_days = forms.IntegerField(
        label="Days that it is sold", min_value=0, max_value=MOST_DAYS, required=False
    )
    serving = PlainDecimal(label="A serving, g", above=0, most=1000, example="112", required=False)

    def clean_gtin(self) -> str:
        text = str(self.cleaned_data["gtin"]).strip()
        try:
            return gtin_14(text) if text else ""
        except BadValue as bad:
            raise forms.ValidationError(f"{bad.wrong}; {bad.right}.") from bad


class LifeForm(forms.Form):
    """What becomes of a tray."""

    key = forms.UUIDField()
    life = forms.CharField(max_length=11)
    reason = forms.CharField(max_length=200, required=False)
