"""What is asked of a day, of ways side by side, and what the case wants."""

from decimal import Decimal
from typing import Any

from django import forms

from cutting.plans.lanes import MOST_LANES
from cutting.quantities import ZERO, Unit, UnitPrice, Weight
from cutting.sheet.cutting_test import Piece as CorePiece
from rooms.catalog.models import Piece, Plan
from rooms.common.forms import PlainDecimal
from rooms.planner.models import WEEKDAYS
from rooms.pricebook.models import Product

AIMS = [("profit", "the most gross profit"), ("hour", "the most an hour")]
USUAL_HANDS, USUAL_HOURS = 2, Decimal("3")
MOST_HOURS = 14


class DayForm(forms.Form):
    """Hands and hours; what is pinned stands in the rows of the bags."""

    optional_word = "none"
    use_required_attribute = False

    key = forms.UUIDField(widget=forms.HiddenInput)
    hands = forms.IntegerField(label="Cutters", min_value=1, max_value=MOST_LANES)
    hours = PlainDecimal(label="Hours of each", above=0, most=MOST_HOURS, example="3.5")
    aim = forms.ChoiceField(label="Aim", choices=AIMS, required=False)
    least_products = forms.IntegerField(
        label="Different products, at least", min_value=0, max_value=60, required=False
    )

    def minutes(self) -> Decimal:
        """Of all hands together. Only after is_valid()."""
        data = self.cleaned_data
        minutes: Decimal = data["hours"] * 60 * data["hands"]
        return minutes


class WaysForm(forms.Form):
    """The piece as it is bought, and the ways to set side by side."""

    optional_word = "none"
    use_required_attribute = False

    weight = PlainDecimal(label="Weight", above=0, most=2000)
    unit = forms.ChoiceField(label="Unit", choices=[("lb", "lb"), ("kg", "kg")])
    price = PlainDecimal(label="Price paid for one lb or kg", above=0, most=10000, example="4.35")
    freight = PlainDecimal(label="Freight", least=0, most=100000, required=False)
    plans = forms.ModelMultipleChoiceField(
        Plan.objects.none(),
        label="Ways",
        widget=forms.CheckboxSelectMultiple,
        to_field_name="key",
    )

    def __init__(self, *args: Any, piece: Piece, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.piece = piece
        self.fields["plans"].queryset = Plan.in_house_order(piece.plans.all())
        self.fields["plans"].label_from_instance = lambda plan: plan.name

    def clean_plans(self) -> Any:
        plans = list(self.cleaned_data["plans"])
        if not 2 <= len(plans) <= 4:
            raise forms.ValidationError(f"{len(plans)} are ticked; two to four are right.")
        return plans

    def bought(self) -> CorePiece:
        """Only after is_valid()."""
        data, unit = self.cleaned_data, Unit(self.cleaned_data["unit"])
        return CorePiece(
            Weight(data["weight"], unit),
            UnitPrice(data["price"], unit),
            self.piece.shown_name,
            self.piece.species,
            freight=data["freight"] or ZERO,
        )


class WantedForm(forms.Form):
    optional_word = "0 takes it off"

    product = forms.ModelChoiceField(Product.objects.filter(is_sold=True), label="Product")
    weekdays = forms.TypedMultipleChoiceField(
        label="Days", choices=WEEKDAYS, coerce=int, widget=forms.CheckboxSelectMultiple
    )
    least = PlainDecimal(label="Least", least=0, most=10000, required=False, example="6")
    most = PlainDecimal(label="Most", least=0, most=10000, required=False, example="12")

    def clean(self) -> Any:
        data = super().clean()
        least, most = data.get("least") or ZERO, data.get("most") or ZERO
        if most < least:
            self.add_error("most", f"{most} is less than the least; {least} or more is right.")
        data["least"], data["most"] = least, most
        return data
