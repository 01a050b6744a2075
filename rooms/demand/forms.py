"""Forms of the wanted list, of seasons, holidays and ads, and of standing orders."""

from typing import Any

from django import forms
from django.db.models import Max

from cutting.quantities import ZERO, Unit, Weight
from rooms.common.web.forms import ListForm, PlainDecimal
from rooms.demand.actions.factors import FactorSet
from rooms.demand.actions.standing_orders import Standing
from rooms.demand.models import WEEKDAYS, Factor, StandingOrder, Wanted
from rooms.pricebook.models import Product


class WantedForm(ListForm):
    of_list = Wanted
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


class FactorForm(forms.Form):
    """A season, a holiday or an ad."""

    optional_word = "all of the list"
    use_required_attribute = False

    kind = forms.ChoiceField(label="Kind", choices=Factor.Kind.choices)
    name = forms.CharField(label="Name", max_length=60)
    product = forms.ModelChoiceField(
        Product.objects.filter(is_sold=True), label="Product", required=False
    )
    first = forms.DateField(label="First day", widget=forms.DateInput(attrs={"type": "date"}))
    last = forms.DateField(label="Last day", widget=forms.DateInput(attrs={"type": "date"}))
    percent = PlainDecimal(label="Percent of the usual", above=0, most=500, example="150")

    def asked(self) -> FactorSet:
        """Only after is_valid()."""
        data = self.cleaned_data
        data["name"] = " ".join(data["name"].split())
        return FactorSet(**data)


def newest_standing() -> int:
    """The number of the newest standing order; 0 for none."""
    return StandingOrder.objects.aggregate(newest=Max("pk"))["newest"] or 0


class StandingForm(forms.Form):
    """What a restaurant has on a day of every week. `seen`: the newest order the page knew."""

    data: Any

    optional_word = "none"
    use_required_attribute = False

    seen = forms.IntegerField(widget=forms.HiddenInput, required=False, min_value=0)
    customer = forms.CharField(label="Restaurant", max_length=60)
    product = forms.ModelChoiceField(Product.objects.filter(is_sold=True), label="Product")
    spec = forms.CharField(label="How it is cut", max_length=120, required=False)
    count = forms.IntegerField(label="Portions", min_value=1, max_value=2000)
    portion = PlainDecimal(label="Weight of one", above=0, most=1000, example="8")
    portion_unit = forms.ChoiceField(
        label="Unit", choices=[(u, u) for u in ("oz", "lb", "g", "kg")]
    )
    weekday = forms.TypedChoiceField(label="On", choices=WEEKDAYS, coerce=int)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["seen"].initial = newest_standing

    def show_again(self) -> None:
        """Saving once more is meant: what somebody else set was told."""
        self.data = self.data.copy()
        self.data["seen"] = str(newest_standing())

    def asked(self) -> Standing:
        """Only after is_valid()."""
        data = self.cleaned_data
        return Standing(
            " ".join(data["customer"].split()),
            data["product"],
            " ".join(data["spec"].split()),
            data["count"],
            Weight(data["portion"], Unit(data["portion_unit"])),
            data["weekday"],
        )
